import { expect, test } from "vitest";
import { eased, reshaped, tableOf, valueAt, WIDTH } from "../src/model/curves";
import { cases } from "./cases";

test("handles are laid as the core lays them", () => {
  for (const { rows, table } of cases.curves) {
    const laid = tableOf(rows);
    table
      .flat()
      .forEach((number, n) => expect(laid[n], `${n % WIDTH} of ${JSON.stringify(rows)}`).toBeCloseTo(number, 9));
  }
});

test("curves are read as they play, at many real frames", () => {
  for (const { rows, frames, values } of cases.curves) {
    const table = tableOf(rows);
    frames.forEach((frame, n) =>
      expect(valueAt(table, frame), `${frame} of ${JSON.stringify(rows)}`).toBeCloseTo(values[n], 8),
    );
  }
});

test("ways in closed form are those of the core", () => {
  for (const { kind, strength, times, values } of cases.eases)
    times.forEach((t, n) => expect(eased(kind, strength, t), `${kind} ${strength} ${t}`).toBeCloseTo(values[n], 12));
});

test("reshaped keys are shown as they are stored", () => {
  for (const { address, rows, frames, how, from, to, table } of cases.reshaped) {
    const shown = reshaped(tableOf(rows), address, frames, how, from, to);
    expect(shown.length).toBe(table.length * WIDTH);
    table.flat().forEach((number, n) => expect(shown[n], JSON.stringify(how)).toBeCloseTo(number, 9));
  }
});
