import { expect, test } from "vitest";
import { typed } from "../src/model/numbers";

test("a number, with its unit or a comma", () => {
  const read = ["12", " -3.5 ", "−2", "0,25", "12 cm", "30 mm", "45°", ".5", "+4"].map((text) => typed(text)?.value);
  expect(read).toEqual([12, -3.5, -2, 0.25, 0.12, 0.03, 45, 0.5, 4]);
});

test("sums are worked out, and changes are told from numbers", () => {
  expect(typed("12+3*2")).toEqual({ value: 18, by: false });
  expect(typed("(1+2)/4")).toEqual({ value: 0.75, by: false });
  expect(typed("90-2*-3")).toEqual({ value: 96, by: false });
  expect(typed("+=2+1")).toEqual({ value: 3, by: true });
  expect(typed("-=5 cm")).toEqual({ value: -0.05, by: true });
});

test("what is no number is none", () => {
  for (const text of ["", "abc", "1+", "(1", "1)", "2 3 x", "1/0", "--", "*=2", "1e5", "NaN", "0x10"])
    expect(typed(text), text).toBeNull();
});
