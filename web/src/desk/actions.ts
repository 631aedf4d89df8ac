// What a person can do at the desk: opening, the playhead, the selection, posing and keying.
import { ApiError, ask, http } from "../api/client";
import { fetchMotion, showFrame } from "./frames";
import { Live } from "./live";
import { Motion, Pose } from "./motion";
import { commit, here, say } from "./steps";
import { active, canChange, desk, keyFrames, type Member, playhead, setDesk, shown, useDesk } from "./store";
import { catchUp, follow, rememberRevision } from "./taking";
import type { AnyEdit, Clip, Control, Kind } from "./types";

export { pendingAt, showFrame } from "./frames";
export { commit, goTo, redo, say, undo } from "./steps";

let live: Live | null = null;
export const socket = () => live;

// Opening and leaving

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
        clip: take.clips[String(role.id)] as Clip,
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
  await Promise.all(cast.map((member) => fetchMotion(member, shot.start, shot.end)));
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

// The playhead

export function go(frame: number) {
  const { shot, playing } = desk();
  if (!shot) return;
  if (playing) stop();
  void showFrame(Math.min(Math.max(Math.round(frame), shot.start), shot.end));
}

export function goToKey(direction: 1 | -1) {
  const member = active();
  if (!member) return;
  const frames = [...new Set([...keyFrames(member), ...Object.keys(member.clip.pending).map(Number)])].sort(
    (a, b) => a - b,
  );
  const { frame } = desk();
  const next = direction > 0 ? frames.find((f) => f > frame) : frames.reverse().find((f) => f < frame);
  if (next !== undefined) go(next);
  else
    say(
      frames.length
        ? `There is no ${direction > 0 ? "later" : "earlier"} key.`
        : "There are no keys yet: pose, then press K.",
    );
}

let started = 0;
let lastShown = 0;
let marks: number[] = [];
export function play() {
  const { shot, frame } = desk();
  if (!shot) return;
  const first = frame >= shot.play_start && frame < shot.play_end ? frame : shot.play_start;
  started = performance.now() - ((first - shot.play_start) / shot.fps) * 1000;
  lastShown = first;
  marks = [];
  playhead.dropped = 0;
  setDesk({ playing: true });
  shown();
}

export function stop() {
  if (!desk().playing) return;
  setDesk({ playing: false });
  void showFrame(playhead.frame);
}

export const playOrStop = () => (desk().playing ? stop() : play());

/** Called by the stage for every picture it can draw: moves on by the clock, never by the number of pictures. */
export function tick(now: number): boolean {
  const { shot, playing, cast } = desk();
  if (!playing || !shot) return false;
  const length = shot.play_end - shot.play_start + 1;
  const passed = Math.floor(((now - started) / 1000) * shot.fps);
  const frame = shot.play_start + (passed % length);
  if (frame === lastShown && marks.length) return false;
  const skipped = ((frame - lastShown + length) % length) - 1;
  if (marks.length && skipped > 0) playhead.dropped += skipped;
  marks.push(now);
  while (marks.length > 2 && now - marks[0] > 1500) marks.shift();
  playhead.rate = marks.length > 1 ? ((marks.length - 1) * 1000) / (now - marks[0]) : 0;
  lastShown = frame;
  playhead.frame = frame;
  for (const member of cast) member.motion.show(frame, member.pose);
  shown();
  return true;
}

// The selection

export type How = "set" | "add" | "remove" | "toggle";

export function select(names: string[], how: How = "set", memberId?: number) {
  if (memberId !== undefined && memberId !== desk().activeId) {
    if (desk().locked)
      return say(`The tools are locked to ${active()?.name}. Take the lock off above the stage to act on another.`);
    actOn(memberId);
  }
  const now = new Set(how === "set" ? [] : desk().selection);
  for (const name of names) {
    if (how === "remove" || (how === "toggle" && now.has(name))) now.delete(name);
    else now.add(name);
  }
  setDesk({ selection: [...now], pivotOn: "" });
}

/** Turns all tools to a character of the cast. */
export const actOn = (memberId: number) =>
  setDesk({ activeId: memberId, selection: [], pivotOn: "", keysChosen: {}, columns: [] });

export const howOf = (event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): How =>
  event.shiftKey ? "add" : event.ctrlKey || event.metaKey ? "remove" : "set";

/** The selection with all that hangs below it. */
export function selectBelow() {
  const member = active();
  if (!member) return;
  const inside = new Set(desk().selection);
  for (const control of member.rig.controls) if (inside.has(control.parent)) inside.add(control.name);
  setDesk({ selection: [...inside] });
}

export function selectAll() {
  const member = active();
  if (member) setDesk({ selection: member.rig.controls.map((c) => c.name) });
}

export const selected = (): Control[] => {
  const member = active();
  return member ? desk().selection.flatMap((name) => member.controls.get(name) ?? []) : [];
};

// Posing and keying

export const setValues = (values: Record<string, number>, label = "", place = here()) =>
  commit(
    {
      kind: "pose",
      frame: place.frame,
      values,
      keying: desk().keying,
      kinds: desk().kinds,
      shape: desk().shape,
      label,
    },
    place,
  );

export const keySelection = () =>
  desk().selection.length
    ? commit({ kind: "key", frame: desk().frame, controls: desk().selection, kinds: desk().kinds, shape: desk().shape })
    : say("Select the controls to key, or key the whole character with Shift+K.");
export const keyWhole = () =>
  commit({ kind: "key", frame: desk().frame, controls: null, kinds: desk().kinds, shape: desk().shape });
export const dropPending = () => commit({ kind: "drop", frame: desk().frame });

export function reset(whole: boolean, kinds: Kind[] = ["place", "turn", "extra"]) {
  const { selection, frame, keying } = desk();
  if (!whole && !selection.length) return say("Select what should go back to rest, or reset all.");
  return commit({ kind: "reset", frame, controls: whole ? null : selection, kinds, keying, shape: desk().shape });
}

export const switchLimb = (limb: string, to: "ik" | "fk") =>
  commit({ kind: "limb", frame: desk().frame, limb, to, keying: desk().keying, anyway: false });

/** Changes every selected limb's mode. */
export function switchSelected() {
  const member = active();
  if (!member) return;
  const limbs = new Set(
    selected()
      .map((c) => c.limb)
      .filter(Boolean),
  );
  if (!limbs.size) return say("Select a control of an arm or a leg to change it between IK and FK.");
  for (const limb of limbs) {
    const found = member.rig.limbs.find((l) => l.name === limb)!;
    const number = member.channels.get(found.switch)!;
    const to = member.pose.values[number] > 0.5 ? "fk" : "ik";
    void switchLimb(limb, to).then((ok) => {
      if (!ok) return;
      const kept = desk().selection.filter(
        (n) => member.controls.get(n)?.limb !== limb || !member.controls.get(n)?.mode,
      );
      setDesk({ selection: [...kept, to === "ik" ? found.ik : found.fk[0]] });
    });
  }
}

// Copying and pasting: the keys chosen in the sheet, or else the pose that is seen

type Copied = { values: Record<string, number>; name: string } | { keys: Record<string, number[][]>; count: number };
let copied: Copied | null = null;

export const keysChosenCount = () => Object.values(desk().keysChosen).reduce((sum, frames) => sum + frames.length, 0);

export function copy() {
  const member = active();
  if (!member) return;
  const { frame, keysChosen } = desk();
  const count = keysChosenCount();
  if (count) {
    const keys: Record<string, number[][]> = {};
    for (const [address, frames] of Object.entries(keysChosen)) {
      const rows = (member.clip.curves[address] ?? []).filter((row) => frames.includes(row[0]));
      if (rows.length) keys[address] = rows;
    }
    copied = { keys, count };
    return say(`${count} ${count === 1 ? "key is" : "keys are"} copied.`);
  }
  const values: Record<string, number> = {};
  member.rig.channels.forEach((channel, n) => {
    if (!channel.locked && channel.kind !== "scale") values[channel.address] = member.pose.values[n];
  });
  copied = { values, name: member.name };
  say(`The whole pose of ${member.name} at ${frame} is copied.`);
}

/** Lays what was copied at the playhead, on the parts that are chosen; mirrored if wished. */
export function paste(mirror = false) {
  if (!copied) return say("Nothing is copied yet: go to a frame and copy its pose with Ctrl+C.");
  const { frame, mirrored: how, shape } = desk();
  const mirrored = mirror ? how : null;
  if ("keys" in copied) return commit({ kind: "paste keys", frame, keys: copied.keys, mirrored });
  const controls = partsActedOn();
  if (controls === undefined) return;
  return commit({ kind: "paste", frame, values: copied.values, controls, mirrored, shape });
}

/** The controls that edits of poses act on; null is the whole character. Says why when nothing is chosen. */
export function partsActedOn(): string[] | null | undefined {
  const { parts, selection } = desk();
  if (parts === "whole") return null;
  if (selection.length) return selection;
  say("Nothing is selected, and the parts are set to “selection”: select some, or choose the whole character.");
  return undefined;
}

/** Shows how the pose here would be after an edit, without making it. */
export function tryEdit(edit: AnyEdit) {
  const member = active();
  if (!member || !canChange() || !live?.open) return;
  live.stream({ do: "try", casting: member.id, frame: desk().frame, edit }, (pose) => {
    member.pose.joints.set(pose.joints);
    member.pose.controls.set(pose.controls);
    setDesk({ dragged: new Map(pose.changed) });
    shown();
  });
}

export function leaveTry() {
  setDesk({ dragged: null });
  void showFrame(desk().frame);
}

// Columns and keys

export function moveColumns(frames: number[], by: number, duplicate: boolean): Promise<boolean> {
  const controls = partsActedOn();
  if (by === 0 || controls === undefined) return Promise.resolve(false);
  return commit({ kind: duplicate ? "duplicate" : "move", frames, by, controls }).then((ok) => {
    if (ok) setDesk({ columns: frames.map((f) => f + by) });
    return ok;
  });
}

/** Deletes the keys chosen in the sheet, or else the selected columns. */
export function deleteChosen() {
  const { columns, keysChosen } = desk();
  if (keysChosenCount())
    return commit({ kind: "delete keys", keys: keysChosen, by: 0 }).then((ok) => ok && setDesk({ keysChosen: {} }));
  if (!columns.length) return say("Select a column on the strip to delete its keys.");
  const controls = partsActedOn();
  if (controls === undefined) return;
  return commit({ kind: "delete", frames: columns, by: 0, controls }).then((ok) => {
    if (ok) setDesk({ columns: [] });
  });
}

export const moveKeys = (by: number, duplicate: boolean) => {
  const { keysChosen } = desk();
  return commit({ kind: duplicate ? "duplicate keys" : "move keys", keys: keysChosen, by }).then((ok) => {
    if (ok)
      setDesk({
        keysChosen: Object.fromEntries(Object.entries(keysChosen).map(([a, frames]) => [a, frames.map((f) => f + by)])),
      });
    return ok;
  });
};

// The cast

const changeMember = (id: number, change: Partial<Member>) =>
  setDesk({ cast: desk().cast.map((m) => (m.id === id ? { ...m, ...change } : m)) });

/** Keeps controls from every edit, or lets them go. */
export async function protect(names: string[], on: boolean) {
  const member = active();
  if (!member) return;
  const kept = new Set(member.protect);
  for (const name of names)
    if (on) kept.add(name);
    else kept.delete(name);
  try {
    const now = await ask(
      http.PATCH("/api/castings/{casting_id}", {
        params: { path: { casting_id: member.id } },
        body: { protected: [...kept] },
      }),
    );
    changeMember(member.id, { protect: now.protected });
  } catch (error) {
    say((error as Error).message, true);
  }
}

/** Keeps controls as a set; one of the same name is replaced. Says whether it is kept. */
export async function keepSet(name: string, controls: string[], pivot: string): Promise<boolean> {
  const member = active();
  if (!member) return false;
  try {
    const made = await ask(
      http.POST("/api/castings/{casting_id}/sets", {
        params: { path: { casting_id: member.id } },
        body: { name, controls, pivot },
      }),
    );
    changeMember(member.id, {
      sets: [...member.sets.filter((s) => s.name !== made.name), made].sort((a, b) => a.name.localeCompare(b.name)),
    });
    say(`The set ${made.name} is kept.`);
    return true;
  } catch (error) {
    say((error as Error).message, true);
    return false;
  }
}

export async function dropSet(id: number) {
  const member = active();
  if (!member) return;
  try {
    await ask(
      http.DELETE("/api/castings/{casting_id}/sets/{set_id}", {
        params: { path: { casting_id: member.id, set_id: id } },
      }),
    );
    changeMember(member.id, { sets: member.sets.filter((s) => s.id !== id) });
  } catch (error) {
    say((error as Error).message, true);
  }
}

/** Selects a set; turning is about its pivot, when it has one. */
export function selectSet(set: { controls: string[]; pivot: string }) {
  setDesk({ selection: set.controls, pivotOn: set.pivot, ...(set.pivot ? { pivot: "one" as const } : {}) });
}

// The shot

export async function changeShot(change: Partial<Record<"fps" | "start" | "end" | "play_start" | "play_end", number>>) {
  const { shot, cast } = desk();
  if (!shot) return;
  try {
    const now = await ask(http.PATCH("/api/shots/{shot_id}", { params: { path: { shot_id: shot.id } }, body: change }));
    setDesk({ shot: now });
    if (now.start !== shot.start || now.end !== shot.end) {
      for (const member of cast) member.motion.resize(now.start, now.end);
      await Promise.all(cast.map((member) => fetchMotion(member, now.start, now.end)));
    }
    go(desk().frame);
  } catch (error) {
    say((error as Error).message, true);
  }
}

// A socket that was refused is tried again once a step goes through: the person is in again.
useDesk.subscribe((now, before) => {
  if (now.revision > before.revision && now.socket === "refused") connect();
});
