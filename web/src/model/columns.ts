// What stands on which frame of the time line. Which frames show others, the server says (`follows`).
import { FACTS } from "../api/facts.gen";
import type { Clip, Follow, Label } from "./types";

interface Columns {
  frames: number[];
  /** Frames of whole poses: those that the server says, and those that have a name. */
  poses: Set<number>;
}
const columnsKept = new WeakMap<Clip, Columns>();

/** One whose clip it is. */
interface Owner {
  clip: Clip;
}

function columnsOf({ clip }: Owner): Columns {
  let found = columnsKept.get(clip);
  if (!found) {
    const keyed = new Set<number>();
    for (const [address, rows] of Object.entries(clip.curves))
      if (!address.startsWith(FACTS.layers.mark)) for (const row of rows) keyed.add(row[0]);
    const whole = new Set(clip.poses);
    const frames = new Set<number>();
    const poses = new Set<number>();
    for (const own of keyed)
      for (const f of [own, ...shownOn(clip, own).map((shown) => shown.frame)]) {
        frames.add(f);
        if (clip.labels[String(own)] || whole.has(own)) poses.add(f);
      }
    found = { frames: [...frames].sort((a, b) => a - b), poses };
    columnsKept.set(clip, found);
  }
  return found;
}

/** All frames with a key of any channel, derived ones included, rising. */
export const keyFrames = (member: Owner): number[] => columnsOf(member).frames;
/** Frames with a key of any of several, rising. */
export const keyFramesOfAll = (members: Owner[]): number[] =>
  members.length === 1 ? keyFrames(members[0]) : [...new Set(members.flatMap(keyFrames))].sort((a, b) => a - b);
export const isPose = (member: Owner, frame: number): boolean => columnsOf(member).poses.has(frame);
export const poseFrames = (member: Owner): number[] => keyFrames(member).filter((f) => isPose(member, f));

/** The frames with a key of some controls, derived ones included, in no order. */
export function keyFramesOf({ clip }: Owner, controls: Set<string>): number[] {
  const found = new Set<number>();
  for (const [address, rows] of Object.entries(clip.curves)) {
    if (!controls.has(controlOf(address))) continue;
    for (const [own] of rows) {
      found.add(own);
      for (const shown of shownOn(clip, own)) if (!shown.mirrored) found.add(shown.frame);
    }
  }
  return [...found];
}

/** The control whose channel an address names. */
const controlOf = (address: string) => address.slice(0, address.lastIndexOf("/"));

/** The other frames on which a stored key shows, and whether mirrored there. */
export const shownOn = ({ follows }: Clip, frame: number): { frame: number; mirrored: boolean }[] =>
  follows
    .map(({ first, last, source, mirrored }) => ({
      frame: first + frame - source,
      mirrored,
      inside: frame >= source,
      last,
    }))
    .filter((shown) => shown.inside && shown.frame <= shown.last);

const runAt = ({ follows }: Clip, frame: number): Follow | undefined =>
  follows.find((run) => frame >= run.first && frame <= run.last);

/** Whether the keys of a frame come from another one. */
export const derived = (clip: Clip, frame: number) => runAt(clip, frame) !== undefined;

/** The frame a derived one comes from, and whether it is mirrored. */
export function sourceOf(clip: Clip, frame: number): { frame: number; mirrored: boolean } {
  const run = runAt(clip, frame);
  return run ? { frame: run.source + frame - run.first, mirrored: run.mirrored } : { frame, mirrored: false };
}

/** The name and rank of the pose at a frame; of a derived one, those of its source. */
export function labelAt(clip: Clip, frame: number): Label | undefined {
  const source = sourceOf(clip, frame);
  const label = clip.labels[String(source.frame)];
  return label && source.mirrored ? { ...label, name: label.opposite } : label;
}
