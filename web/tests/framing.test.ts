import { expect, it } from "vitest";
import { type Filmed, inPicture, placeFor } from "../src/model/framing";

const half = Math.SQRT1_2;
const looks: [string, number[]][] = [
  ["along z", [0, 0, 0, 1]],
  ["from the side", [0, half, 0, half]],
  ["from above, aslant", [-0.27, 0.36, 0.11, 0.885].map((n) => n / Math.hypot(-0.27, 0.36, 0.11, 0.885))],
];
const filmed = (spot: number[]): Filmed => ({ spot, lens: 35, wide: 24, high: 13.5 });
const walked = Array.from({ length: 25 }, (_, n) => ({
  middle: [0.1 * n, 0.9, 0.3 * n] as [number, number, number],
  radius: 1,
}));

it.each(looks)("has all of a way in the picture, looking as it did: %s", (_, turn) => {
  expect(inPicture(filmed([0, 1, 0, ...turn]), walked)).toBe(false);
  const place = placeFor(filmed([0, 1, 0, ...turn]), walked);
  expect(inPicture(filmed([...place, ...turn]), walked)).toBe(true);
});

it("looks along its z axis", () => {
  const before = { middle: [0, 1, 6] as [number, number, number], radius: 0.5 };
  const behind = { middle: [0, 1, -6] as [number, number, number], radius: 0.5 };
  expect(inPicture(filmed([0, 1, 0, 0, 0, 0, 1]), [before])).toBe(true);
  expect(inPicture(filmed([0, 1, 0, 0, 0, 0, 1]), [behind])).toBe(false);
});

it.each(looks)("stands no farther off than it must: %s", (_, turn) => {
  const place = placeFor(filmed([0, 1, 0, ...turn]), walked);
  const middle = walked.reduce((sum, { middle }) => sum.map((n, k) => n + middle[k] / walked.length), [0, 0, 0]);
  const near = place.map((n, k) => n + 0.2 * (middle[k] - n));
  expect(inPicture(filmed([...near, ...turn]), walked)).toBe(false);
});
