import { expect, it } from "vitest";
import { arc, nearestOn, piecesOf } from "../src/model/guides";

const length = (a: number[], b: number[]) => Math.hypot(...a.map((n, k) => n - b[k]));

it("an arc goes on the circle through its three places, from the first through the second to the third", () => {
  for (const [a, b, c] of [
    [
      [2, 0, 0],
      [0, 2, 0],
      [-2, 0, 0],
    ],
    [
      [2, 0, 0],
      [0, -2, 0],
      [-2, 0, 0],
    ],
    [
      [2, 0, 0],
      [-2, 0, 0],
      [0, -2, 0],
    ],
  ] as [number, number, number][][]) {
    const pieces = arc(a, b, c);
    for (const place of pieces) expect(length(place, [0, 0, 0])).toBeCloseTo(2, 9);
    expect(length(pieces[0], a)).toBeLessThan(1e-9);
    expect(length(pieces[pieces.length - 1], c)).toBeLessThan(1e-9);
    expect(Math.min(...pieces.map((place) => length(place, b)))).toBeLessThan(0.12);
  }
});

it("is straight where the three lie on one line", () => {
  const places: [number, number, number][] = [[0, 0, 0], [1, 1, 1], [2, 2, 2]]; // prettier-ignore
  expect(piecesOf({ kind: "arc", points: places })).toEqual(places);
});

it("finds the nearest of a guide's pieces on the picture, also of a point alone", () => {
  const way = [{ x: 0, y: 0 }, { x: 10, y: 0 }, { x: 10, y: 10 }]; // prettier-ignore
  expect(nearestOn(way, { x: 4, y: 3 })).toMatchObject({ piece: 0, share: 0.4, away: 3, x: 4, y: 0 });
  expect(nearestOn(way, { x: 14, y: 20 })).toMatchObject({ piece: 1, share: 1, x: 10, y: 10 });
  expect(nearestOn([{ x: 5, y: 5 }], { x: 8, y: 9 })).toMatchObject({ piece: 0, share: 0, away: 5 });
});
