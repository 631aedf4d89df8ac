// Ways as they are told: edits of them, and where on the ground their handles lie.
import type { Schemas } from "../api/client";
import type { AnyEdit } from "./types";

export type Way = Schemas["WayOut"];
export type Footfall = Schemas["FootfallOut"];
type Place = [number, number, number];

export const pathLength = (points: Place[]) =>
  points.slice(1).reduce((sum, p, n) => sum + Math.hypot(p[0] - points[n][0], p[2] - points[n][2]), 0);

/** The points of a way as an edit gives them, one of them otherwise. */
export function pointsOf(way: Way, at = -1, now: Partial<{ x: number; z: number; into: Pair; out: Pair }> = {}) {
  return way.points.map((p, n) => {
    const told = { x: p.x, z: p.z, into: p.set_into ? p.into : null, out: p.set_out ? p.out : null };
    return n === at ? { ...told, ...now } : told;
  }) as Points;
}
type Pair = number[] | null;
type Points = NonNullable<WayChange["points"]>;

const SAME = { start: null, points: null, closed: null, ends: null, lasts: null, begins_with: null };
const ALSO = { lead: null, speed: null, turn: null, level: null, gait: null };
type WayChange = Partial<Omit<Extract<AnyEdit, { kind: "change way" }>, "kind" | "at">>;
export const changeOf = (way: Way, now: WayChange): AnyEdit =>
  ({ kind: "change way", at: way.start, ...SAME, ...ALSO, ...now }) as AnyEdit;

type Set = Partial<Omit<Extract<AnyEdit, { kind: "set footfall" }>, "kind" | "at" | "number" | "side">>;
export const footfallSet = (way: Way, one: Pick<Footfall, "number" | "leg">, now: Set): AnyEdit =>
  ({
    kind: "set footfall",
    at: way.start,
    number: one.number,
    side: one.leg,
    ...{ x: null, z: null, heading: null, first: null, last: null, clear: false },
    ...now,
  }) as AnyEdit;

export const axesOf = (heading: number): [[number, number], [number, number]] => [
  [Math.sin(heading), Math.cos(heading)],
  [Math.cos(heading), -Math.sin(heading)],
];

/** How high the way lies next to a place. */
export function heightAt(way: Way, x: number, z: number): number {
  let best = Infinity;
  let high = 0;
  for (const [px, py, pz] of way.line) {
    const away = (px - x) ** 2 + (pz - z) ** 2;
    if (away < best) [best, high] = [away, py];
  }
  return high;
}

/** Where a way ends, which way it goes there, and what is to the left. */
export function endOf(way: Way) {
  const [a, b] = [way.line[way.line.length - 2], way.line[way.line.length - 1]];
  const [ahead, left] = axesOf(Math.atan2(b[0] - a[0], b[2] - a[2]));
  return { end: [b[0], b[2]] as [number, number], ahead, left, high: b[1] };
}

/** Where the handle lies by which a way is widened: to the left of its middle. */
export function widerAt(way: Way): [number, number, number] {
  const n = Math.max(Math.floor(way.line.length / 2), 1);
  const [a, b] = [way.line[n - 1], way.line[n]];
  const [, left] = axesOf(Math.atan2(b[0] - a[0], b[2] - a[2]));
  const far = 0.25 + 0.5 * (way.now.width ?? 0.14);
  return [b[0] + left[0] * far, b[1], b[2] + left[1] * far];
}
