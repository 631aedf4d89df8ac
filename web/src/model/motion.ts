// The motion of one character as the server evaluated it: the browser only shows it, it never computes a pose.
import { FACTS } from "../api/facts.gen";
import type { Rig } from "./types";

/** The blocks of numbers by which a figure is drawn, as the core lists them. */
export type Block = (typeof FACTS.blocks)[number]["name"];
type Numbers = Record<Block, Float32Array>;
/** How many entries of each a figure has. */
export type Counts = Record<Block, number>;
const widthOf = (name: Block) => FACTS.blocks.find((block) => block.name === name)!.width;
export const JOINT = widthOf("joints"); // place, quaternion, scale
export const CONTROL = widthOf("controls"); // the same, then the quaternion of the axes its place is read in

const each = (make: (block: (typeof FACTS.blocks)[number]) => Float32Array) =>
  Object.fromEntries(FACTS.blocks.map((block) => [block.name, make(block)])) as Numbers;
/** Room for so many poses. */
const room = (counts: Counts, poses = 1) => each(({ name, width }) => new Float32Array(poses * counts[name] * width));

export const countsOf = (rig: Rig): Counts => ({
  joints: rig.joints.length,
  controls: rig.controls.length,
  values: rig.channels.length,
});

export interface Frames extends Numbers {
  revision: number;
  first: number;
  count: number;
}

/** Reads what server/shots/motion.py packed: frames by casting. */
export function unpack(buffer: ArrayBuffer): Map<number, Frames> {
  const head = new DataView(buffer);
  const word = (n: number) => head.getUint32(4 * n, true);
  const [revision, count, figures] = [word(0), word(2), word(3)];
  const first = head.getInt32(4, true);
  const found = new Map<number, Frames>();
  const words = 1 + FACTS.blocks.length;
  let at = 4 * (4 + words * figures);
  for (let n = 0; n < figures; n++) {
    const own = 4 + words * n;
    const numbers = {} as Numbers;
    FACTS.blocks.forEach(({ name, width }, m) => {
      const length = count * word(own + 1 + m) * width;
      numbers[name] = new Float32Array(buffer, at, length);
      at += 4 * length;
    });
    found.set(word(own), { revision, first, count, ...numbers });
  }
  return found;
}

/** One frame's numbers, written in place so that whatever draws them needs no new object. */
export class Pose implements Numbers {
  joints!: Float32Array;
  controls!: Float32Array;
  values!: Float32Array;

  constructor(counts: Counts) {
    Object.assign(this, room(counts));
  }

  take(from: Frames, n: number) {
    for (const { name } of FACTS.blocks) {
      const { length } = this[name];
      this[name].set(from[name].subarray(n * length, (n + 1) * length));
    }
  }
}

const SEEN = 2e-4; // metres, and parts of a quaternion

/** Whether all joints of two poses of one figure are where nobody sees a difference. */
export function standsAlike(a: Pose, b: Pose): boolean {
  return a.joints.every((value, n) => Math.abs(value - b.joints[n]) < SEEN);
}

/** All frames of a range, some of which may be stale until they are fetched again. */
export class Motion {
  first = 0;
  count = 0;
  private fresh = new Uint8Array(0);
  private stamps = new Uint32Array(0);
  private stamp = 0;
  private frames!: Frames;

  constructor(readonly counts: Counts) {
    this.resize(1, 1);
  }

  get last() {
    return this.first + this.count - 1;
  }

  resize(first: number, last: number) {
    this.first = first;
    this.count = last - first + 1;
    this.fresh = new Uint8Array(this.count);
    this.stamps = new Uint32Array(this.count);
    this.frames = { revision: 0, first, count: this.count, ...room(this.counts, this.count) };
  }

  /** Marks frames stale; null is without end on that side. Returns the part that lies in the range, if any. */
  spoil(from: number | null, to: number | null): [number, number] | null {
    const a = Math.max(from ?? this.first, this.first);
    const b = Math.min(to ?? this.last, this.last);
    if (b < a) return null;
    this.fresh.fill(0, a - this.first, b - this.first + 1);
    return [a, b];
  }

  /** The spans that have to be fetched, of all frames or of some. */
  stale(first = this.first, last = this.last): [number, number][] {
    const spans: [number, number][] = [];
    for (let n = first - this.first; n <= last - this.first; n++) {
      if (this.fresh[n]) continue;
      const last = spans[spans.length - 1];
      if (last && last[1] === this.first + n - 1) last[1]++;
      else spans.push([this.first + n, this.first + n]);
    }
    return spans;
  }

  put(got: Frames) {
    this.stamp++;
    for (let n = 0; n < got.count; n++) {
      const at = got.first + n - this.first;
      if (at < 0 || at >= this.count) continue;
      for (const { name, width } of FACTS.blocks) {
        const long = this.counts[name] * width;
        this.frames[name].set(got[name].subarray(n * long, (n + 1) * long), at * long);
      }
      this.fresh[at] = 1;
      this.stamps[at] = this.stamp;
    }
  }

  /** The same with other frames in place of some. */
  with(got: Frames): Motion {
    const other = new Motion(this.counts);
    other.resize(this.first, this.last);
    for (const { name } of FACTS.blocks) other.frames[name].set(this.frames[name]);
    other.fresh.set(this.fresh);
    other.put(got);
    return other;
  }

  /** Whether the frame is fresh; outside of the range the nearest frame counts. */
  has(frame: number): boolean {
    return this.fresh[this.index(frame)] === 1;
  }

  /** Changes whenever the frame was fetched anew. */
  stampOf(frame: number): number {
    return this.stamps[this.index(frame)];
  }

  show(frame: number, pose: Pose) {
    pose.take(this.frames, this.index(frame));
  }

  /** The value of a channel at a frame, as it plays. */
  valueAt(frame: number, channel: number): number {
    return this.frames.values[this.index(frame) * this.counts.values + channel];
  }

  /** Where a joint or a control is at a frame: eight numbers of the one, twelve of the other, not to be kept. */
  jointAt(frame: number, joint: number): Float32Array {
    const at = (this.index(frame) * this.counts.joints + joint) * JOINT;
    return this.frames.joints.subarray(at, at + JOINT);
  }

  controlAt(frame: number, control: number): Float32Array {
    const at = (this.index(frame) * this.counts.controls + control) * CONTROL;
    return this.frames.controls.subarray(at, at + CONTROL);
  }

  /** Fresh frames everywhere? Playback waits for it only at the start. */
  complete(from: number, to: number): boolean {
    for (let f = from; f <= to; f++) if (!this.has(f)) return false;
    return true;
  }

  private index(frame: number) {
    return Math.min(Math.max(Math.round(frame) - this.first, 0), this.count - 1);
  }
}
