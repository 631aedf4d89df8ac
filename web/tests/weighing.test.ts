import { describe, expect, it } from "vitest";
import { bearersOf, laidRows, LANE, least, thinned } from "../src/features/weight/rows";
import type { Member } from "../src/desk/store";
import type { Balance } from "../src/model/types";
import { readWeighing, usualWeighing } from "../src/model/weighing";

const row = (margin: number | null, bearing: Record<string, number> = {}) => ({ margin, bearing }) as Balance;

describe("what is kept of how weight is shown", () => {
  it("is taken where it is of its kind, and else as usual", () => {
    const usual = usualWeighing();
    for (const kept of [null, undefined, "x", 3, [], { rows: 1, limits: "no" }])
      expect(readWeighing(kept)).toEqual(usual);
    const own = readWeighing({
      rows: { force: true, margin: "no", other: true },
      limits: { friction: 0.4, landing: "soft", frames: 0, strength: -1, outside: 0.2, wings: 2 },
    });
    expect(own.rows).toEqual({ ...usual.rows, force: true });
    expect(own.limits).toEqual({ ...usual.limits, friction: 0.4, outside: 0.2 });
  });
});

describe("rows of weight on the strip", () => {
  it("stand one below the other, those that are wished and hold something", () => {
    const wished = { margin: true, bearers: true, mass: false, force: true };
    const { laid, high } = laidRows(wished, 2);
    expect(laid.map((one) => one.row)).toEqual(["margin", "bearers", "force"]);
    for (const [n, one] of laid.entries())
      if (n) expect(one.top).toBeGreaterThanOrEqual(laid[n - 1].top + laid[n - 1].high);
    expect(laid[1].high).toBe(2 * LANE);
    expect(high).toBe(laid[2].top + laid[2].high);
    expect(laidRows(wished, 0).laid.map((one) => one.row)).toEqual(["margin", "force"]);
    expect(laidRows({ margin: false, bearers: false, mass: false, force: false }, 6)).toEqual({ laid: [], high: 0 });
  });

  it("have a lane for each foot, and for a hand that bears", () => {
    const limbs = ["leg.L", "leg.R", "arm.L", "arm.R"].map((name) => ({
      name,
      ik: `${name}.goal`,
      kind: name.slice(0, 3),
    }));
    const member = { rig: { limbs } } as unknown as Member;
    expect(bearersOf(member, []).map((limb) => limb.name)).toEqual(["leg.L", "leg.R"]);
    const rows = [row(0.1, { "leg.L.goal": 1 }), row(0.1, { "arm.R.goal": 0.3 })];
    expect(bearersOf(member, rows).map((limb) => limb.name)).toEqual(["leg.L", "leg.R", "arm.R"]);
  });

  it("show the worst of the frames that lie on one pixel, and none that is not seen", () => {
    const rows = [0.1, -0.2, null, 0.3, 0.2, null].map((margin) => row(margin));
    const worst = (some: Balance[]) => least(some.map((one) => one.margin));
    expect(thinned(rows, 10, 1, [11, 12], worst).map(({ frame }) => frame)).toEqual([11, 12, 13]);
    expect(thinned(rows, 10, 3, [10, 40], worst)).toEqual([
      { frame: 10, value: -0.2 },
      { frame: 13, value: 0.2 },
    ]);
    expect(least([null, undefined])).toBeNull();
  });
});
