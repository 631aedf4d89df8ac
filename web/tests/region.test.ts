import { expect, test } from "vitest";
import { gripsOf } from "../src/features/graph/region";

const SIZE = { width: 800, height: 300 };
const placeOf = (region: { x: number; y: number; x2: number; y2: number }, name: string) => {
  const grip = gripsOf(region, SIZE).find(([one]) => one === name)!;
  return { x: grip[1], y: grip[2] };
};

test("bending is above the box and shearing beside it", () => {
  const box = { x: 200, y: 100, x2: 400, y2: 180 };
  expect(placeOf(box, "bend")).toEqual({ x: 300, y: 84 });
  expect(placeOf(box, "shear")).toEqual({ x: 416, y: 140 });
});

test("grips stay inside the graph when the box fills it", () => {
  const fitted = { x: 8, y: 22, x2: 792, y2: 290 };
  for (const [name, x, y] of gripsOf(fitted, SIZE)) {
    expect([name, x >= 0, x <= SIZE.width]).toEqual([name, true, true]);
    expect([name, y >= 0, y <= SIZE.height]).toEqual([name, true, true]);
  }
  // And apart from one another, so that each can be taken hold of.
  const bend = placeOf(fitted, "bend");
  const top = placeOf(fitted, "top");
  expect(Math.hypot(bend.x - top.x, bend.y - top.y)).toBeGreaterThan(12);
  const shear = placeOf(fitted, "shear");
  const right = placeOf(fitted, "right");
  expect(Math.hypot(shear.x - right.x, shear.y - right.y)).toBeGreaterThan(12);
});

test("what is scrolled beyond the graph keeps its grips within reach of it", () => {
  const beyond = { x: 700, y: -60, x2: 900, y2: 120 };
  expect(placeOf(beyond, "bend").y).toBeGreaterThan(0);
  expect(placeOf(beyond, "shear").x).toBeLessThan(SIZE.width);
  // One that is all of it away takes its grips along.
  const away = { x: 900, y: -200, x2: 960, y2: -100 };
  expect(placeOf(away, "bend").y).toBeLessThan(0);
  expect(placeOf(away, "shear").x).toBeGreaterThan(SIZE.width);
});
