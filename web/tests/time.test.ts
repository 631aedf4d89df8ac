import { expect, test } from "vitest";
import {
  between,
  gapOf,
  placed,
  runs,
  scaled,
  shifted,
  showing,
  type Stretch,
  thinned,
  windowOf,
  within,
  zoomed,
} from "../src/model/time";

const lies = { left: 36, width: 1200 };
const bounds = { first: 1, last: 5000 };

test("the frame under the pointer stays within a pixel, however it is zoomed and shifted", () => {
  let shown: Stretch = { first: 1200, last: 1500 };
  for (const by of [1.3, 1.7, 0.6, 2.2, 1.1, 0.9]) {
    const before = placed(lies, shown);
    const pointer = 511;
    shown = zoomed(shown, before.timeAt(pointer), by, bounds);
    expect(Math.abs(placed(lies, shown).x(before.timeAt(pointer)) - pointer)).toBeLessThan(1);
  }
  const before = placed(lies, shown);
  const moved = placed(lies, shifted(shown, 40 / before.gap, bounds));
  expect(Math.abs(before.x(1300) - moved.x(1300) - 40)).toBeLessThan(0.1);
  // Nothing that hangs on the pixels a frame is drawn anew.
  for (let n = 1; n < 200; n++) expect(placed(lies, shifted(shown, 0.37 * n, bounds)).gap).toBe(before.gap);
});

test("what is looked at stays inside of what there is, and neither nearer than four frames", () => {
  expect(within({ first: -50, last: 100 }, bounds)).toEqual({ first: 1, last: 151 });
  expect(within({ first: 4990, last: 5090 }, bounds)).toEqual({ first: 4900, last: 5000 });
  expect(within({ first: -9e9, last: 9e9 }, bounds)).toEqual(bounds);
  expect(zoomed({ first: 10, last: 20 }, 15, 1e9, bounds)).toEqual({ first: 13, last: 17 });
  expect(zoomed(bounds, 300, 0.01, bounds)).toEqual(bounds);
  expect(within({ first: 3, last: 3 }, { first: 3, last: 3 })).toEqual({ first: 3, last: 7 }); // a shot of one frame
});

test("a frame that is gone to is brought into view, and one that is seen moves nothing", () => {
  const shown = { first: 100, last: 200 };
  expect(showing(shown, 150, bounds)).toBe(shown);
  expect(showing(shown, 205, bounds)).toEqual({ first: 115, last: 215 });
  expect(showing(shown, 2, bounds)).toEqual({ first: 1, last: 101 });
});

test("pixels and frames are each other's inverse, between frames too", () => {
  const place = placed(lies, { first: 10.5, last: 90.25 });
  for (const f of [10, 33, 90]) expect(place.frameAt(place.x(f))).toBe(f);
  expect(place.x(10.5)).toBe(36);
  expect(place.x(90.25)).toBeCloseTo(1200 - 36);
  expect(gapOf(lies, { first: 0, last: 0 })).toBeGreaterThan(0);
});

test("cards never overlap, named poses have theirs first, and shifting changes none of them", () => {
  const frames = Array.from({ length: 400 }, (_, n) => 3 * n + (n % 2));
  const named = new Set([frames[7], frames[8], frames[60]]);
  const rank = (f: number) => (named.has(f) ? 0 : 3);
  for (const gap of [0.3, 1.7, 4, 11, 40]) {
    const kept = thinned(frames, rank, gap, 68);
    for (let n = 1; n < kept.length; n++) expect((kept[n] - kept[n - 1]) * gap).toBeGreaterThanOrEqual(68);
    expect(kept).toContain(frames[7]);
    if ((frames[60] - frames[7]) * gap >= 136) expect(kept).toContain(frames[60]);
    // Where one is left out, another one stands too near.
    for (const f of frames) expect(kept.some((k) => Math.abs(k - f) * gap < 68)).toBe(true);
  }
  expect(thinned(frames, rank, 100, 68)).toEqual(frames);
  expect(thinned([], rank, 1, 68)).toEqual([]);
});

test("the window holds what is seen, and stays while time is shifted by less than half of it", () => {
  const [from, to] = windowOf({ first: 110, last: 210 });
  expect(from).toBeLessThanOrEqual(110);
  expect(to).toBeGreaterThanOrEqual(210);
  expect(windowOf({ first: 130, last: 230.0000001 })).toEqual([from, to]);
});

test("frames between two are found, and stretches of those that touch", () => {
  expect(between([1, 4, 9, 12, 30], 4, 12)).toEqual([4, 9, 12]);
  expect(between([1, 4, 9], 9.5, 20)).toEqual([]);
  expect(runs([1, 2, 3, 8, 9, 20], 2)).toEqual([
    [1, 3],
    [8, 9],
    [20, 20],
  ]);
});

test("columns are scaled as the core scales them: to whole frames, halves up", () => {
  expect([5, 6, 9, 12].map((f) => scaled(f, 5, 0.5))).toEqual([5, 6, 7, 9]);
  expect([5, 9].map((f) => scaled(f, 9, 1.5))).toEqual([3, 9]);
});
