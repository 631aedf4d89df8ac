// Which frames and values the graph shows, and where they lie in pixels.
import { FRAME, keyCount, VALUE, WIDTH } from "../../model/curves";
import { boundsOf, type Shown } from "./shown";

export interface View {
  first: number;
  last: number;
  low: number;
  high: number;
}

export interface Place {
  view: View;
  width: number;
  height: number;
}

export const xOf = ({ view, width }: Place, frame: number) => ((frame - view.first) / (view.last - view.first)) * width;
export const yOf = ({ view, height }: Place, value: number) =>
  height - ((value - view.low) / (view.high - view.low)) * height;
export const frameAt = ({ view, width }: Place, x: number) => view.first + (x / width) * (view.last - view.first);
export const heightAt = ({ view, height }: Place, y: number) =>
  view.low + ((height - y) / height) * (view.high - view.low);

/** The value of a curve as it is drawn, and back. */
export const drawn = (shown: Shown, value: number) => value * shown.scale + shown.shift;
export const undrawn = (shown: Shown, height: number) => (height - shown.shift) / shown.scale;

const LEAST_HIGH = 0.5;

/** The values between which some curves, or some of their keys, are seen whole, with some room about them. */
export function heightsOf(curves: Shown[], within?: Record<string, number[]>): { low: number; high: number } {
  let [low, high] = [Infinity, -Infinity];
  for (const curve of curves) {
    if (within && !within[curve.address]?.length) continue;
    if (!within) {
      const [a, b] = boundsOf(curve.table);
      low = Math.min(low, drawn(curve, a), drawn(curve, b));
      high = Math.max(high, drawn(curve, a), drawn(curve, b));
      continue;
    }
    const frames = new Set(within[curve.address]);
    for (let n = 0; n < keyCount(curve.table); n++) {
      if (!frames.has(curve.table[n * WIDTH + FRAME])) continue;
      const value = drawn(curve, curve.table[n * WIDTH + VALUE]);
      [low, high] = [Math.min(low, value), Math.max(high, value)];
    }
  }
  if (high < low) [low, high] = [-1, 1];
  const room = Math.max((high - low) * 0.12, LEAST_HIGH);
  return { low: low - room, high: high + room };
}

/** The values shown nearer by a factor about one of them. */
export function zoomedHeights(shown: { low: number; high: number }, about: number, by: number) {
  const near = (edge: number) => about + (edge - about) / by;
  const next = { low: near(shown.low), high: near(shown.high) };
  const tall = next.high - next.low;
  return tall < 1e-4 || tall > 1e7 ? shown : next;
}

/** The frames from the first to the last key of some curves, and at least those told. */
export function reachOf(curves: Shown[], first: number, last: number) {
  for (const { table } of curves) {
    first = Math.min(first, table[FRAME]);
    last = Math.max(last, table[(keyCount(table) - 1) * WIDTH]);
  }
  return { first, last };
}

/** Steps of a ruler at least so many pixels apart. */
export function stepOf(span: number, pixels: number, apart: number, whole = false): number {
  const rough = (span / pixels) * apart;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= rough) ?? 10 * power;
  return whole ? Math.max(Math.round(step), 1) : step;
}
