// Opening a take and its socket, and leaving it.
import { ApiError, ask, http } from "../api/client";
import { fetchSpans, freshen, showFrame } from "./frames";
import { Live } from "./live";
import { Motion, Pose } from "./motion";
import { stop } from "./playing";
import { type Member, desk, playhead, setDesk, useDesk } from "./store";
import { catchUp, follow, rememberRevision } from "./taking";

let live: Live | null = null;
export const socket = () => live;

let opening = 0;

export async function openTake(shotId: number, takeId?: number) {
  const mine = ++opening;
  const shot = await ask(http.GET("/api/shots/{shot_id}", { params: { path: { shot_id: shotId } } }));
  const summary = shot.takes.find((t) => t.id === takeId) ?? shot.takes[shot.takes.length - 1];
  const take = await ask(http.GET("/api/takes/{take_id}", { params: { path: { take_id: takeId ?? summary.id } } }));
  const cast: Member[] = await Promise.all(
    shot.cast.map(async (role) => {
      const rig = await ask(http.GET("/api/castings/{casting_id}/rig", { params: { path: { casting_id: role.id } } }));
      const sizes = [rig.joints.length, rig.controls.length, rig.channels.length] as const;
      const motion = new Motion(...sizes);
      motion.resize(shot.start, shot.end);
      return {
        id: role.id,
        takeId: take.id,
        name: role.name,
        rig,
        clip: take.clips[String(role.id)],
        motion,
        pose: new Pose(...sizes),
        controls: new Map(rig.controls.map((c) => [c.name, c])),
        channels: new Map(rig.channels.map((c, n) => [c.address, n])),
        protect: role.protected,
        sets: role.sets,
        mesh: role.mesh,
      };
    }),
  );
  if (mine !== opening) return; // another one was opened meanwhile
  const frame = Math.min(Math.max(shot.play_start, shot.start), shot.end);
  playhead.frame = frame;
  rememberRevision(desk().takeId, desk().revision);
  rememberRevision(take.id, take.revision);
  setDesk({
    shot,
    takeId: take.id,
    takeName: take.name,
    revision: take.revision,
    canUndo: take.can_undo,
    canRedo: take.can_redo,
    cast,
    activeId: cast[0]?.id ?? 0,
    locked: false,
    selection: [],
    pivotOn: "",
    pivot: "each",
    dropped: null,
    columns: [],
    keysChosen: {},
    frame,
    playing: false,
    people: [],
    dragged: null,
    socket: "lost",
    readout: "",
  });
  const all = await fetchSpans(cast.map((member) => ({ member, first: shot.start, last: shot.end })));
  if (!all) void freshen();
  if (mine !== opening) return;
  await showFrame(frame);
  connect();
}

/** Opens the socket of the open take, in place of the one before. */
export function connect() {
  live?.close();
  const takeId = desk().takeId;
  const mine: Live = new Live(takeId, {
    state(state) {
      if (live !== mine) return;
      setDesk({ socket: state, ...(state === "open" ? {} : { people: [] }) });
      if (state === "open") void catchUp(takeId).catch(() => undefined);
    },
    told: (message) => live === mine && hear(takeId, message),
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
  setDesk({ shot: null, takeId: 0, cast: [], selection: [] });
}

function hear(takeId: number, message: Record<string, unknown>) {
  const person = { who: String(message.who), name: String(message.name) };
  const others = desk().people.filter((p) => p.who !== person.who);
  if (message.type === "came") setDesk({ people: [...others, person] });
  if (message.type === "left") setDesk({ people: others });
  if (message.type === "changed" && takeId === desk().takeId) void follow(takeId, message.revision as number);
}

// A socket that was refused is tried again once a step goes through: the person is in again.
useDesk.subscribe((now, before) => {
  if (now.revision > before.revision && now.socket === "refused") connect();
});
