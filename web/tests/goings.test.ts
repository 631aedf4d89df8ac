import { describe, expect, it } from "vitest";
import { changeOf, endOf, footfallSet, heightAt, pathLength, pointsOf, type Way, widerAt } from "../src/model/goings";

const point = (x: number, z: number, set = false) => ({
  x,
  z,
  into: [0, -0.5],
  out: [0, 0.5],
  set_into: set,
  set_out: set,
});
const way = {
  start: 12,
  points: [point(0, 0), point(0, 2, true)],
  line: [
    [0, 0, 0],
    [0, 0.1, 1],
    [0, 0.2, 2],
  ],
  now: { width: 0.2 },
} as unknown as Way;

describe("ways as edits give them", () => {
  it("keeps handles that are set, and lets others follow", () => {
    expect(pointsOf(way)).toEqual([
      { x: 0, z: 0, into: null, out: null },
      { x: 0, z: 2, into: [0, -0.5], out: [0, 0.5] },
    ]);
    expect(pointsOf(way, 0, { x: 0.3 })[0]).toEqual({ x: 0.3, z: 0, into: null, out: null });
  });

  it("says nothing of what stays", () => {
    const edit = changeOf(way, { lead: 4 }) as unknown as Record<string, unknown>;
    expect([edit.kind, edit.at, edit.lead, edit.points, edit.speed]).toEqual(["change way", 12, 4, null, null]);
    const set = footfallSet(way, { number: 3, leg: "L" }, { first: 20 }) as unknown as Record<string, unknown>;
    expect([set.number, set.side, set.first, set.x, set.clear]).toEqual([3, "L", 20, null, false]);
  });

  it("is as long as its places lie apart on the ground", () => {
    expect(pathLength([[0, 0, 0], [3, 5, 4], [3, 5, 6]])).toBeCloseTo(7); // prettier-ignore
    expect(pathLength([])).toBe(0);
  });
});

describe("handles of the whole", () => {
  it("lie ahead of its end, to its left, and beside its middle", () => {
    const { end, ahead, left, high } = endOf(way);
    expect([...end, high]).toEqual([0, 2, 0.2]);
    expect(ahead[1]).toBeCloseTo(1);
    expect(left[0]).toBeCloseTo(1); // +x is to the left of who goes along +z
    expect(widerAt(way)[0]).toBeCloseTo(0.35);
    expect(heightAt(way, 0.1, 1.1)).toBeCloseTo(0.1);
  });
});
