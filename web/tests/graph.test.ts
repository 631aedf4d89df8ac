import { expect, test } from "vitest";
import { gripped } from "../src/features/graph/gripped";
import { curveAt, keyAt, keysInside } from "../src/features/graph/hits";
import { regionOf } from "../src/features/graph/region";
import type { Shown } from "../src/features/graph/shown";
import { drawn, heightsOf, xOf, yOf } from "../src/features/graph/view";
import { AUTO, CODE, FREE, IN_V, kindsOf, OUT_T, OUT_V, tableOf, VALUE, WIDTH, withHandle } from "../src/model/curves";

const curve = (address: string, rows: number[][]) =>
  ({ address, table: tableOf(rows), scale: 1, shift: 0, factor: 1, unit: "", tone: "#000" }) as unknown as Shown;
const curves = [
  curve("head/ry", [
    [1, 0, 2],
    [10, 40, 2],
    [20, 0, 2],
  ]),
  curve("chest/rx", [
    [1, -30, 2],
    [20, -30, 2],
  ]),
];
const place = { view: { first: 0.4, last: 20.6, ...heightsOf(curves) }, width: 800, height: 300 };
const at = (n: number, frame: number, value: number) =>
  [xOf(place, frame), yOf(place, drawn(curves[n], value))] as const;

test("keys and curves are found under a pixel, and none where there is nothing", () => {
  const [x, y] = at(0, 10, 40);
  expect(keyAt(curves, place, x + 3, y - 3, "")).toMatchObject({ frame: 10, curve: { address: "head/ry" } });
  expect(keyAt(curves, place, x + 12, y, "")).toBe(null);
  expect(curveAt(curves, place, ...at(1, 8, -30))?.address).toBe("chest/rx");
  expect(curveAt(curves, place, x, y + 60)).toBe(null);
});

test("a box takes the keys inside of it, whichever way it was drawn, beside those chosen before", () => {
  const [x, y] = at(0, 10, 40);
  const [x2, y2] = at(1, 20, -30);
  const box = { x: x2 + 4, y: y2 + 4, x2: x - 4, y2: y - 4 };
  const found = keysInside(curves, place, box, { "head/ry": [1] });
  expect(found).toEqual({ "head/ry": [1, 10, 20], "chest/rx": [20] });
});

test("a grip dragged to twice its way from the other side makes everything twice as large", () => {
  const chosen = { "head/ry": [1, 10] };
  const region = regionOf(place, curves, chosen, new Map())!;
  const [x, y] = at(0, 10, 40);
  const [x0] = at(0, 1, 0);
  const rest = {
    place,
    region,
    frames: [1, 10],
    whole: false,
    by: "across",
    about: { playhead: [0, 0], key: null },
  } as const;
  const right = gripped({
    ...rest,
    frames: [1, 10],
    about: { playhead: [0, 0], key: null },
    name: "right",
    x,
    y,
    to: { x: 2 * x - x0, y },
  });
  expect(right.how([curves[0]])).toMatchObject({ about_frame: 1, time: expect.closeTo(2, 6), value: 1 });
  const [, low] = at(0, 1, 0);
  const top = gripped({
    ...rest,
    frames: [1, 10],
    about: { playhead: [0, 0], key: null },
    name: "top",
    x,
    y,
    to: { x, y: 2 * y - low },
  });
  const made = top.how([curves[0]]);
  expect([made.time, made.value]).toEqual([1, expect.closeTo(2, 6)]);
  expect(made.about!["head/ry"]).toBeCloseTo(0, 6);
  const bend = gripped({
    ...rest,
    frames: [1, 10],
    about: { playhead: [0, 0], key: null },
    name: "bend",
    x,
    y,
    to: { x, y: y - (low - y) },
  });
  expect(bend.how([curves[0]]).bend!["head/ry"]).toBeCloseTo(40, 6);
});

test("a handle keeps its partner on one line, unless it is broken", () => {
  const { table } = curves[0];
  const row = (made: typeof table) => [...made.slice(WIDTH, 2 * WIDTH)];
  const joined = row(withHandle(table, 1, "after", 3, 6, false));
  expect([joined[OUT_T], joined[OUT_V], joined[VALUE]]).toEqual([3, 6, 40]);
  expect(kindsOf(joined[CODE])).toMatchObject({ before: FREE, after: FREE, aligned: true });
  expect(joined[IN_V]).toBeLessThan(0); // it leaves upwards, so it comes from below
  const broken = row(withHandle(table, 1, "after", 3, 6, true));
  expect(kindsOf(broken[CODE])).toMatchObject({ before: AUTO, after: FREE, aligned: false });
  expect(broken[IN_V]).toBeCloseTo(row(table)[IN_V], 9);
});
