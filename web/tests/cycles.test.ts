import { expect, test } from "vitest";
import type { Cycle } from "../src/model/types";
import { wholeTurns } from "../src/model/cycles";

const cycle = { start: 5, end: 29, until: 101 } as Cycle;

test("whole turns end where the first frame shows again, and one is the least", () => {
  expect([5, 28, 29, 52, 53, 100, 101].map((frame) => wholeTurns(cycle, frame))).toEqual([29, 29, 29, 29, 53, 77, 101]);
});
