// Paths of parts: which are looked at, where they go by the frames that are known, and what changes of them while a
// hand moves.
import { ask, http } from "../api/client";
import { CAMERA, cameraOf } from "./camera";
import { keyFrames } from "../model/columns";
import { CONTROL, type Motion } from "../model/motion";
import { layerOf } from "./layers";
import { say } from "./steps";
import { active, canChange, desk, type DeskState, type Member, modeOf, setDesk } from "./store";
import type { Path } from "../model/types";

/** The tones of paths, by number; each has marks of its own form as well. */
export const TONES = ["blue", "red", "ochre", "plum", "slate", "green", "mulberry", "ink"] as const;

/** How all paths are shown. */
export interface PathLooks {
  speed: boolean;
}

export async function loadPaths(takeId = desk().takeId) {
  const since = kept;
  const paths = await ask(http.GET("/api/takes/{take_id}/paths", { params: { path: { take_id: takeId } } }));
  if (takeId === desk().takeId && since === kept) setDesk({ paths });
}

async function keep(paths: Path[]) {
  const { takeId, paths: before } = desk();
  if (!canChange()) return say("You look as a guest here; paths are kept by an animator of the production.", true);
  setDesk({ paths });
  const mine = ++kept;
  const told = (of: Path[]) => of.map(({ lacks: _, ...path }) => path);
  const put = keeping.then(async () => {
    try {
      const body = { paths: told(paths), was: told(before) };
      const stored = await ask(http.PUT("/api/takes/{take_id}/paths", { params: { path: { take_id: takeId } }, body }));
      if (takeId === desk().takeId && mine === kept) setDesk({ paths: stored });
    } catch (error) {
      say((error as Error).message, true);
      if (takeId === desk().takeId && mine === kept) await loadPaths(takeId).catch(() => setDesk({ paths: before }));
    }
  });
  keeping = put;
  return put;
}

/** Changes of paths, one after the other; only the answer of the last one is shown. */
let keeping: Promise<void> = Promise.resolve();
let kept = 0;

/** Draws the paths of what is selected, or takes them away where all of them are drawn. */
export function togglePaths() {
  const member = active();
  const { selection, paths } = desk();
  if (!member) return;
  if (!selection.length) {
    if (!paths.length) return say("Select a part: its path is then drawn.");
    return keep(paths.map((path) => ({ ...path, shown: !paths.some((p) => p.shown) })));
  }
  const mine = (path: Path) => path.casting === member.id && selection.includes(path.name);
  const drawn = paths.filter(mine);
  if (drawn.length === selection.length && drawn.every((p) => p.shown))
    return keep(paths.filter((path) => !mine(path)));
  const others = paths.filter((path) => !mine(path));
  const tones = new Set(others.map((path) => path.tone));
  const added = selection.map((name) => {
    const tone = drawn.find((p) => p.name === name)?.tone ?? TONES.findIndex((_, n) => !tones.has(n));
    tones.add(tone);
    return { casting: member.id, name, joint: false, tone: Math.max(tone, 0), within: "", shown: true, lacks: "" };
  });
  return keep([...others, ...added].slice(0, 24));
}

/** Draws the path of a joint. */
export function addJoint(member: Member, name: string) {
  const { paths } = desk();
  if (paths.some((path) => path.casting === member.id && path.joint && path.name === name)) return;
  const tones = new Set(paths.map((path) => path.tone));
  const tone = Math.max(
    TONES.findIndex((_, n) => !tones.has(n)),
    0,
  );
  const added = { casting: member.id, name, joint: true, tone, within: "", shown: true, lacks: "" };
  return keep([...paths, added].slice(0, 24));
}

export const changePath = (at: number, change: Partial<Path>) =>
  keep(desk().paths.map((path, n) => (n === at ? { ...path, ...change } : path)));
export const dropPath = (at: number) => keep(desk().paths.filter((_, n) => n !== at));

export const labelOf = (path: Path, s: DeskState = desk()) => {
  const member = s.cast.find((m) => m.id === path.casting);
  const label = path.joint ? path.name : (member?.controls.get(path.name)?.label ?? path.name);
  return s.cast.length > 1 && member ? `${member.name}: ${label}` : label;
};

/** The control from which a path is seen, and whose; null for the world. */
export function ownerOf(path: Path, s: DeskState = desk()): { member: Member; control: string } | null {
  if (!path.within) return null;
  if (path.within === CAMERA) {
    const camera = cameraOf(s);
    return camera ? { member: camera, control: CAMERA } : null;
  }
  const member = s.cast.find((m) => m.id === path.casting);
  return member?.controls.has(path.within) ? { member, control: path.within } : null;
}

/** The frames of which a path is shown: those that are played, as far as the time line shows them. */
export function framesShown(s: DeskState = desk()): [number, number] {
  const { shot, frame, time } = s;
  if (!shot) return [1, 1];
  const first = Math.max(shot.play_start, time ? Math.ceil(time.first) : -Infinity);
  const last = Math.min(shot.play_end, time ? Math.floor(time.last) : Infinity);
  return [Math.min(first, last, frame), Math.max(first, last, frame)];
}

/** What has changed of watched things since they were fetched: places and turns, thing by thing, frame by frame. */
export interface Moved {
  first: number;
  frames: number;
  data: Float32Array;
  things: string[];
}

const thingKey = (casting: number, name: string, joint: boolean) => `${casting} ${joint ? "joint" : "control"} ${name}`;

/** The parts that shown paths need: those that go, and those from which they are seen. */
function things(s: DeskState) {
  const found = new Map<string, { casting: number; name: string; joint: boolean }>();
  for (const path of s.paths) {
    if (!path.shown || path.lacks) continue;
    found.set(thingKey(path.casting, path.name, path.joint), {
      casting: path.casting,
      name: path.name,
      joint: path.joint,
    });
    const owner = ownerOf(path, s);
    if (owner)
      found.set(thingKey(owner.member.id, owner.control, false), {
        casting: owner.member.id,
        name: owner.control,
        joint: false,
      });
  }
  return [...found].slice(0, 24);
}

/** What a drag or a trial is told to watch; nothing where no path is drawn. */
export function watch(s: DeskState = desk()) {
  const found = things(s);
  if (!found.length || !s.pathsShown) return undefined;
  const [first, last] = framesShown(s);
  return {
    first,
    last,
    things: found.map(([, thing]) => thing),
    keying: s.keying,
    layer: layerOf(active(s), s),
  };
}

/** Takes over what an answer says of paths; null where nothing of them changed. */
export function watched(told: { first: number; frames: number; data: string } | null | undefined) {
  if (!told) {
    if (desk().moved) setDesk({ moved: null });
    return;
  }
  const bytes = Uint8Array.from(atob(told.data), (c) => c.charCodeAt(0));
  setDesk({
    moved: {
      first: told.first,
      frames: told.frames,
      data: new Float32Array(bytes.buffer),
      things: things(desk()).map(([key]) => key),
    },
  });
}

export type Spot = Float32Array;

/** Where a part is at a frame: place and turn, by what is known or by what the hand has changed. */
export function spotOf(
  casting: number,
  name: string,
  joint: boolean,
  frame: number,
  s: DeskState = desk(),
  motion?: Motion,
): Spot | null {
  const member = s.cast.find((m) => m.id === casting);
  if (!member) return null;
  if (motion) return spotIn(member, motion, name, joint, frame);
  const { moved } = s;
  if (moved && frame >= moved.first && frame < moved.first + moved.frames) {
    const row = moved.things.indexOf(thingKey(casting, name, joint));
    if (row >= 0) {
      const at = 7 * (row * moved.frames + frame - moved.first);
      return moved.data.subarray(at, at + 7);
    }
  }
  return spotIn(member, member.motion, name, joint, frame);
}

function spotIn({ rig }: Member, motion: Motion, name: string, joint: boolean, frame: number): Spot | null {
  if (joint) {
    const number = rig.joints.indexOf(name);
    return number < 0 ? null : motion.jointAt(frame, number);
  }
  const number = rig.controls.findIndex((c) => c.name === name);
  return number < 0 ? null : motion.controlAt(frame, number);
}

/** Where a part stands in the pose that is shown. */
export function spotNow(member: Member, control: string): Spot | null {
  const number = member.rig.controls.findIndex((c) => c.name === control);
  return number < 0 ? null : member.pose.controls.subarray(number * CONTROL, number * CONTROL + 7);
}

/** The control that makes the arc of a path: of a limb that is posed by FK, the joint that turns most. */
export function makerOf(member: Member, path: Path): string {
  const limb = member.rig.limbs.find((l) => l.ik === path.name || l.fk.includes(path.name));
  if (path.joint || !limb) return path.name;
  if (modeOf(member, limb.name) === "ik") return limb.ik;
  const at = limb.fk.indexOf(path.name);
  const above = at < 0 ? limb.fk : limb.fk.slice(0, at + 1);
  const turned = (name: string) =>
    Math.max(
      0,
      ...["rx", "ry", "rz"].map((turn) => {
        const values = (member.clip.curves[`${name}/${turn}`] ?? []).map((row) => row[1]);
        return values.length ? Math.max(...values) - Math.min(...values) : 0;
      }),
    );
  return above.reduce((best, name) => (turned(name) > turned(best) ? name : best), above[0] ?? path.name);
}

/** The frames on which what leads a path has keys. */
export function keysOf(member: Member, path: Path): Set<number> {
  const control = path.joint ? undefined : member.controls.get(path.name);
  if (!control) return new Set(keyFrames(member));
  const limb = member.rig.limbs.find((l) => l.ik === path.name || l.fk.includes(path.name));
  const names = limb ? [path.name, ...limb.fk.slice(0, Math.max(limb.fk.indexOf(path.name), 0))] : [path.name];
  const found = new Set<number>();
  for (const name of names)
    for (const channel of member.rig.channels)
      if (channel.address.startsWith(`${name}/`) && channel.kind !== "scale")
        for (const row of member.clip.curves[channel.address] ?? []) found.add(row[0]);
  return found;
}
