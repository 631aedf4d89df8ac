import { expect, test } from "vitest";
import { Motion, Pose, unpack } from "../src/model/motion";
import { unpackStep } from "../src/model/along";
import { cases } from "./cases";

const bytes = (packed = cases.motion.packed) => Uint8Array.from(Buffer.from(packed, "base64")).buffer;

test("frames are unpacked as the server packed them", () => {
  const found = unpack(bytes());
  expect([...found.keys()]).toEqual(cases.motion.figures.map((figure) => figure.casting));
  for (const { casting, joints, controls, values } of cases.motion.figures) {
    const frames = found.get(casting)!;
    expect([frames.revision, frames.first]).toEqual([cases.motion.revision, cases.motion.first]);
    for (const [mine, theirs] of [
      [frames.joints, joints],
      [frames.controls, controls],
      [frames.values, values],
    ] as const)
      theirs.forEach((number, n) => expect(mine[n]).toBeCloseTo(number, 5));
  }
});

test("what is stale is fetched, and shown as it comes", () => {
  const { casting, joints, controls, values } = cases.motion.figures[0];
  const frames = unpack(bytes()).get(casting)!;
  const [j, k, c] = [joints.length / 8, controls.length / 12, values.length].map((n) => n / frames.count);
  const motion = new Motion({ joints: j, controls: k, values: c });
  const { first } = cases.motion;
  motion.resize(first - 2, first + frames.count + 1);
  expect(motion.stale()).toEqual([[first - 2, first + frames.count + 1]]);
  motion.put(frames);
  expect(motion.stale()).toEqual([
    [first - 2, first - 1],
    [first + frames.count, first + frames.count + 1],
  ]);
  expect(motion.complete(first, first + frames.count - 1)).toBe(true);
  const pose = new Pose({ joints: j, controls: k, values: c });
  motion.show(first + 1, pose);
  expect(pose.values[0]).toBeCloseTo(values[c], 5);
  const stamp = motion.stampOf(first + 1);
  expect(motion.spoil(null, first)).toEqual([first - 2, first]);
  expect([motion.has(first), motion.has(first + 1)]).toEqual([false, true]);
  expect(motion.spoil(first + 100, null)).toBe(null);
  motion.put(frames);
  expect(motion.stampOf(first + 1)).not.toBe(stamp);
});

test("the answer to a step is parted from the frames that came along", () => {
  const { packed, label, stretches } = cases.step;
  const done = unpackStep(bytes(packed));
  expect([done.revision, done.label]).toEqual([17, label]);
  expect(done.frames!.map((got) => [got.get(9)!.first, got.get(9)!.first + got.get(9)!.count - 1])).toEqual(stretches);
});

test("of frames that are stale some can be asked for", () => {
  const motion = new Motion({ joints: 1, controls: 1, values: 1 });
  motion.resize(1, 20);
  expect(motion.stale(5, 9)).toEqual([[5, 9]]);
  const put = (first: number, count: number) =>
    motion.put({
      revision: 1,
      first,
      count,
      joints: new Float32Array(8 * count),
      controls: new Float32Array(12 * count),
      values: new Float32Array(count),
    });
  put(6, 2);
  expect(motion.stale(5, 9)).toEqual([
    [5, 5],
    [8, 9],
  ]);
  put(1, 20);
  expect(motion.stale(5, 9)).toEqual([]);
});
