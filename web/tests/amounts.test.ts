import { describe, expect, it } from "vitest";
import { measureOf } from "../src/model/amounts";
import type { AnyEdit } from "../src/model/types";

const breakdown = { kind: "breakdown", frame: 11, share: 0.5, controls: null, keying: "changed" } as unknown as AnyEdit;
const living = {
  kind: "living", at: null, start: 1, end: 40, breath: 0.02, trunk: 0.01, head: 0, arms: 0.01, shift: 0.004,
  period: 72, seed: 1, fade: 8, muted: false,
} as unknown as AnyEdit; // prettier-ignore

describe("the amount of an edit", () => {
  it("is read in percent, and another one makes the same edit with that", () => {
    const measure = measureOf(breakdown)!;
    expect(measure).toMatchObject({ label: "Favour", unit: "%", value: 50, low: -50, high: 150 });
    expect(measure.at(25)).toEqual({ ...breakdown, share: 0.25 });
  });

  it("is none where there is nothing to weigh", () => {
    expect(measureOf({ kind: "delete", frames: [3], controls: null } as unknown as AnyEdit)).toBeNull();
    expect(measureOf({ ...living, at: 1 } as AnyEdit)).toBeNull();
  });

  it("is all of what lives when it was laid, and one of it when that was changed, in degrees and millimetres", () => {
    expect(measureOf(living)!.at(200)).toMatchObject({ breath: 0.04, trunk: 0.02, head: 0, shift: 0.008, period: 72 });
    const shift = measureOf({ ...living, at: 1 } as AnyEdit, "shift")!;
    expect(shift.value).toBeCloseTo(4, 12);
    expect(shift.at(10)).toMatchObject({ shift: 0.01, breath: 0.02 });
    expect((measureOf(living, "breath")!.at(2) as { breath: number }).breath).toBeCloseTo((2 * Math.PI) / 180, 12);
  });

  it("makes parts later by whole frames, all in proportion", () => {
    const chain = [4, 2, -1].map((frames, n) => ({ label: `${n}`, controls: [`c${n}`], frames, amplitude: 1 }));
    const edit = { kind: "delay", chain, first: null, last: null } as unknown as AnyEdit;
    const frames = (at: number) =>
      (measureOf(edit)!.at(at) as unknown as { chain: { frames: number }[] }).chain.map((link) => link.frames);
    expect(frames(200)).toEqual([8, 4, -2]);
    expect(frames(50).map((n) => n + 0)).toEqual([2, 1, 0]);
    expect(Math.max(...frames(measureOf(edit)!.high))).toBeLessThanOrEqual(24);
  });

  it("is one for several of the cast where it is the same for all", () => {
    const both = (...shares: number[]) =>
      ({
        kind: "together",
        parts: shares.map((share, n) => ({ casting: n + 1, edit: { ...breakdown, share } })),
      }) as unknown as AnyEdit;
    const remade = measureOf(both(0.5, 0.5))!.at(75) as unknown as { parts: { edit: { share: number } }[] };
    expect(remade.parts.map((part) => part.edit.share)).toEqual([0.75, 0.75]);
    expect(measureOf(both(0.5, 0.2))).toBeNull();
  });
});
