// What of the graph lies under a pixel, or in a box of pixels.
import { rowAt, VALUE, valueAt, WIDTH } from "../../model/curves";
import { handleEnds, type Picture } from "./paint";
import type { Shown } from "./shown";
import { drawn, frameAt, type Place, xOf, yOf } from "./view";

/** Pixels at which a key, a grip or the end of a handle is meant. */
export const NEAR = 7;

/** The key under a pixel; where several lie so near, one of the curve that is pointed at goes before. */
export function keyAt(
  curves: Shown[],
  place: Place,
  x: number,
  y: number,
  pointed: string,
): { curve: Shown; frame: number } | null {
  let found: { curve: Shown; frame: number } | null = null;
  let best = NEAR;
  for (const curve of curves) {
    const { table } = curve;
    const first = Math.max(rowAt(table, frameAt(place, x - NEAR)), 0);
    const last = frameAt(place, x + NEAR);
    for (let i = first * WIDTH; i < table.length && table[i] <= last; i += WIDTH) {
      const far = Math.hypot(xOf(place, table[i]) - x, yOf(place, drawn(curve, table[i + VALUE])) - y);
      const before = curve.address === pointed ? far - 2 : far;
      if (before < best) [best, found] = [before, { curve, frame: table[i] }];
    }
  }
  return found;
}

/** The curve under a pixel. */
export function curveAt(curves: Shown[], place: Place, x: number, y: number): Shown | null {
  let found: Shown | null = null;
  let best = 6;
  const frame = frameAt(place, x);
  for (const curve of curves) {
    const far = Math.abs(yOf(place, drawn(curve, valueAt(curve.table, frame))) - y);
    if (far < best) [best, found] = [far, curve];
  }
  return found;
}

/** The frames of all keys inside a box, by channel, with those that were chosen before. */
export function keysInside(
  curves: Shown[],
  place: Place,
  box: { x: number; y: number; x2: number; y2: number },
  before: Record<string, number[]>,
): Record<string, number[]> {
  const [x, x2] = [Math.min(box.x, box.x2), Math.max(box.x, box.x2)];
  const [y, y2] = [Math.min(box.y, box.y2), Math.max(box.y, box.y2)];
  const found: Record<string, number[]> = { ...before };
  for (const curve of curves) {
    const frames = new Set(found[curve.address] ?? []);
    for (let i = 0; i < curve.table.length; i += WIDTH) {
      const [kx, ky] = [xOf(place, curve.table[i]), yOf(place, drawn(curve, curve.table[i + VALUE]))];
      if (kx >= x && kx <= x2 && ky >= y && ky <= y2) frames.add(curve.table[i]);
    }
    found[curve.address] = [...frames].sort((a, b) => a - b);
  }
  return found;
}

/** Where a key, or the end of its handle, is on the canvas. */
export function pixelOf(
  picture: Picture,
  address: string,
  frame: number,
  side?: "before" | "after",
): [number, number] | null {
  if (side) {
    const end = handleEnds(picture).find(
      (e) => e.curve.address === address && e.side === side && e.curve.table[e.row * WIDTH] === frame,
    );
    return end ? [end.x, end.y] : null;
  }
  const curve = picture.curves.find((c) => c.address === address);
  return curve ? [xOf(picture, frame), yOf(picture, drawn(curve, valueAt(curve.table, frame)))] : null;
}
