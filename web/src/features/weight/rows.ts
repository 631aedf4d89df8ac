// Which rows of weight stand on the strip, and how high each is.
import type { Member } from "../../desk/store";
import type { Balance } from "../../model/types";
import { ROWS, type Weighing, type WeightRow } from "../../model/weighing";

const HIGH: Record<WeightRow, number> = { margin: 40, bearers: 0, mass: 40, force: 40 };
/** Pixels of each limb that may bear. */
export const LANE = 11;
const GAP = 4;

export interface Laid {
  row: WeightRow;
  top: number;
  high: number;
}

/** The limbs that bear a figure: its feet, and what hands bear it on some frame. */
export function bearersOf(member: Member, rows: Balance[]) {
  let bear = bearing.get(rows);
  if (!bear) bearing.set(rows, (bear = new Set(rows.flatMap((row) => Object.keys(row.bearing)))));
  return member.rig.limbs.filter((limb) => limb.kind === "leg" || bear.has(limb.ik));
}
/** Which limbs bear on some frame, of what was found once. */
const bearing = new WeakMap<Balance[], Set<string>>();

/** The rows that are wished one below the other, and how high all are. */
export function laidRows(wished: Weighing["rows"], bearers: number): { laid: Laid[]; high: number } {
  const laid: Laid[] = [];
  let top = 0;
  for (const row of ROWS) {
    const high = row === "bearers" ? bearers * LANE : HIGH[row];
    if (!wished[row] || !high) continue;
    laid.push({ row, top, high });
    top += high + GAP;
  }
  return { laid, high: Math.max(top - GAP, 0) };
}

/** Of what is seen, one for every so many frames, made of those that lie on it. */
export function thinned<T>(
  rows: Balance[],
  begin: number,
  every: number,
  [first, last]: [number, number],
  of: (rows: Balance[]) => T,
): { frame: number; value: T }[] {
  const found: { frame: number; value: T }[] = [];
  const from = Math.max(Math.floor((first - begin) / every) * every, 0);
  for (let n = from; n < rows.length && begin + n <= last + every; n += every)
    found.push({ frame: begin + n, value: of(rows.slice(n, n + every)) });
  return found;
}

/** The least of some numbers that are known; null where none is. */
export function least(values: (number | null | undefined)[]): number | null {
  let found: number | null = null;
  for (const value of values)
    if (value !== null && value !== undefined && (found === null || value < found)) found = value;
  return found;
}
