// Opening a take and its socket, taking over who plays in it, and leaving it.
import { ApiError, ask, http } from "../api/client";
import { rememberRevision } from "./basis";
import { fetchSpans, freshen, showFrame } from "./frames";
import { Live } from "./live";
import { countsOf, Motion, Pose } from "../model/motion";
import { keptFor } from "./keeping";
import { readWeighing } from "../model/weighing";
import { readKeys } from "./bound";
import { loadGuides } from "./guides";
import { readGroups } from "./grouping";
import { loadPaths } from "./paths";
import { go, stop } from "./playing";
import { say } from "./steps";
import { desk, freshTake, type Member, playhead, setDesk, useDesk } from "./store";
import { catchUp, follow } from "./taking";
import { frameBeforeReload } from "./reloading";
import { timeKept } from "./time";
import { useLook } from "../ui/look";
import type { Clip, Down, Shot } from "../model/types";

let live: Live | null = null;
export const socket = () => live;

let opening = 0;

const shotOf = (id: number) => ask(http.GET("/api/shots/{shot_id}", { params: { path: { shot_id: id } } }));
const takeOf = (id: number) => ask(http.GET("/api/takes/{take_id}", { params: { path: { take_id: id } } }));

/** What is known of one of the cast: its own part as the shot tells it, its rig, and room for its frames. */
async function memberOf(role: Shot["cast"][number], shot: Shot, takeId: number, clip: Clip): Promise<Member> {
  const rig = await ask(http.GET("/api/castings/{casting_id}/rig", { params: { path: { casting_id: role.id } } }));
  const motion = new Motion(countsOf(rig));
  motion.resize(shot.start, shot.end);
  return {
    id: role.id,
    takeId,
    name: role.name,
    prop: role.prop,
    rig,
    clip,
    motion,
    pose: new Pose(motion.counts),
    controls: new Map(rig.controls.map((c) => [c.name, c])),
    channels: new Map(rig.channels.map((c, n) => [c.address, n])),
    protect: role.protected,
    sets: role.sets,
    mesh: role.mesh,
  };
}

export async function openTake(shotId: number, takeId?: number) {
  const mine = ++opening;
  // Where it is not known now, the keys stay as they are.
  void keptFor().then((kept) => {
    if (!kept) return;
    readKeys(kept["keys"]);
    setDesk({ weighing: readWeighing(kept["weight"]) });
  });
  const shot = await shotOf(shotId);
  const summary = shot.takes.find((t) => t.id === takeId) ?? shot.takes[shot.takes.length - 1];
  const take = await takeOf(takeId ?? summary.id);
  const cast = await Promise.all(shot.cast.map((role) => memberOf(role, shot, take.id, take.clips[String(role.id)])));
  if (mine !== opening) return; // another one was opened meanwhile
  const frame = Math.min(Math.max(frameBeforeReload(shot.id) ?? shot.play_start, shot.start), shot.end);
  playhead.frame = frame;
  rememberRevision(desk().takeId, desk().revision);
  rememberRevision(take.id, take.revision);
  setDesk({
    ...freshTake(),
    shot,
    takeId: take.id,
    takeName: take.name,
    revision: take.revision,
    canUndo: take.can_undo,
    canRedo: take.can_redo,
    cast,
    activeId: (cast.find((member) => !member.prop) ?? cast[0])?.id ?? 0, // the figure, where there is one
    frame,
    time: timeKept(shot),
  });
  void loadPaths(take.id).catch(() => undefined);
  void readGroups(shot.id);
  void loadGuides(shot.id);
  await fetchAll(cast, shot);
  if (mine !== opening) return;
  await showFrame(frame);
  connect();
}

async function fetchAll(cast: Member[], shot: Shot) {
  const all = await fetchSpans(cast.map((member) => ({ member, first: shot.start, last: shot.end })));
  if (!all) void freshen();
}

let recasting: Promise<void> = Promise.resolve();

/** Takes over who plays now: those who came, went, or are called otherwise. One after the other. */
export function recast(): Promise<void> {
  recasting = recasting.then(takeOverCast).catch((error: Error) => void say(error.message, true));
  return recasting;
}

async function takeOverCast() {
  const { shot: open, takeId } = desk();
  if (!open) return;
  const shot = await shotOf(open.id);
  const known = new Map(desk().cast.map((member) => [member.id, member]));
  const come = shot.cast.filter((role) => !known.has(role.id));
  const clips = come.length ? (await takeOf(takeId)).clips : {};
  const fresh = await Promise.all(come.map((role) => memberOf(role, shot, takeId, clips[String(role.id)])));
  if (takeId !== desk().takeId || desk().shot?.id !== shot.id) return;
  for (const member of fresh) known.set(member.id, member);
  const cast = shot.cast.flatMap((role) => {
    const member = known.get(role.id);
    return member ? [{ ...member, name: role.name, protect: role.protected, sets: role.sets }] : [];
  });
  const { activeId } = desk();
  const stays = cast.some((member) => member.id === activeId);
  setDesk({
    shot,
    cast,
    ...(stays
      ? {}
      : {
          activeId: cast[0]?.id ?? 0,
          selection: [],
          company: {},
          keysBeside: {},
          pivotOn: "",
          columns: [],
          keysChosen: {},
        }),
  });
  if (shot.start !== open.start || shot.end !== open.end) {
    for (const member of cast) member.motion.resize(shot.start, shot.end);
    await fetchAll(cast, shot);
    if (takeId === desk().takeId) go(desk().frame);
  } else await fetchAll(fresh, shot);
  if (takeId === desk().takeId) await showFrame(desk().frame);
}

/** Opens the socket of the open take, in place of the one before. */
export function connect() {
  live?.close();
  const takeId = desk().takeId;
  let heard = false;
  const mine: Live = new Live(takeId, {
    state(state) {
      if (live !== mine) return;
      setDesk({ socket: state, ...(state === "open" ? {} : { people: [] }) });
      if (state !== "open") return;
      void catchUp(takeId).catch(() => undefined);
      // What was told of the shot while nobody listened is asked for.
      if (heard) void recast();
      heard = true;
    },
    told: (message) => live === mine && hear(takeId, message),
    pace: () => useLook.getState().pace,
    mayLook: () =>
      ask(
        http.GET("/api/takes/{take_id}/history", { params: { path: { take_id: takeId }, query: { limit: 1 } } }),
      ).then(
        () => true,
        (error) => !(error instanceof ApiError && [401, 403, 404].includes(error.status)),
      ),
  });
  live = mine;
}

export function leaveTake() {
  opening++;
  stop();
  live?.close();
  live = null;
  rememberRevision(desk().takeId, desk().revision);
  setDesk(freshTake());
}

function hear(takeId: number, message: Down) {
  if (message.type === "came" || message.type === "left") {
    const others = desk().people.filter((p) => p.who !== message.who);
    const { who, name } = message;
    setDesk({ people: message.type === "came" ? [...others, { who, name }] : others });
  }
  if (takeId !== desk().takeId) return;
  if (message.type === "changed") void follow(takeId, message.revision);
  if (message.type === "paths") void loadPaths(takeId).catch(() => undefined);
  if (message.type === "guides" && desk().shot) void loadGuides(desk().shot!.id);
  if (message.type === "cast") void recast();
}

// A socket that was refused is tried again once a step goes through: the person is in again.
useDesk.subscribe((now, before) => {
  if (now.revision > before.revision && now.socket === "refused") connect();
});
