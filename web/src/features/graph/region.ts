// The box around chosen keys, and its grips.
import { rowAt, type Table, VALUE, WIDTH } from "../../model/curves";
import { type Shown } from "./shown";
import { drawn, type Place, xOf, yOf } from "./view";

/** The part of the graph that the chosen keys take up, in pixels; none for a single key. */
export interface Region {
  x: number;
  y: number;
  x2: number;
  y2: number;
}

const AROUND = 9;

export function regionOf(
  place: Place,
  curves: Shown[],
  chosen: Record<string, number[]>,
  held: Map<string, Table>,
): Region | null {
  let [x, y, x2, y2] = [Infinity, Infinity, -Infinity, -Infinity];
  let count = 0;
  for (const curve of curves) {
    const frames = chosen[curve.address];
    if (!frames?.length || held.has(curve.address)) continue;
    for (const frame of frames) {
      const row = rowAt(curve.table, frame);
      if (row < 0 || curve.table[row * WIDTH] !== frame) continue;
      const [px, py] = [xOf(place, frame), yOf(place, drawn(curve, curve.table[row * WIDTH + VALUE]))];
      [x, y, x2, y2] = [Math.min(x, px), Math.min(y, py), Math.max(x2, px), Math.max(y2, py)];
      count++;
    }
  }
  return count > 1 ? { x: x - AROUND, y: y - AROUND, x2: x2 + AROUND, y2: y2 + AROUND } : null;
}

/** Pixels at the top that the numbers of the frames take. */
const TOP = 20;

/** The grips of a region: its sides and corners scale, one above bends, one beside shears. */
export type GripName =
  "left" | "right" | "top" | "bottom" | "top left" | "top right" | "bottom left" | "bottom right" | "bend" | "shear";

export function gripsOf({ x, y, x2, y2 }: Region, { width }: { width: number }): [GripName, number, number][] {
  const [mx, my] = [(x + x2) / 2, (y + y2) / 2];
  // Where there is no room outside of the region they stand inside of it, and at the edge if it goes on beyond.
  const above = y - 16 > TOP ? y - 16 : Math.min(Math.max(y, TOP - 8), y2 - 16) + 16;
  const beside = x2 + 16 < width - 6 ? x2 + 16 : Math.max(Math.min(x2, width + 2), x + 16) - 16;
  return [
    ["left", x, my],
    ["right", x2, my],
    ["top", mx, y],
    ["bottom", mx, y2],
    ["top left", x, y],
    ["top right", x2, y],
    ["bottom left", x, y2],
    ["bottom right", x2, y2],
    ["bend", mx, above],
    ["shear", beside, my],
  ];
}
