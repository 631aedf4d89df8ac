// What is shown of the weight of a motion, and beyond what it is told as a fault.
import { FACTS } from "../api/facts.gen";

export const ROWS = ["margin", "bearers", "mass", "force"] as const;
export type WeightRow = (typeof ROWS)[number];
export const ROW_LABELS: Record<WeightRow, string> = {
  margin: "Margin, at rest and in motion",
  bearers: "Who bears",
  mass: "Height and speed of the mass",
  force: "Force, in weights",
};

export type Limits = Record<keyof typeof FACTS.limits, number>;
export type Limit = keyof Limits;

/** Each with what it is called, its unit, the digits that are shown, and how many of its own make one shown. */
export const LIMITS: Record<
  Limit,
  { label: string; unit: string; digits: number; by: number; low: number; high: number }
> = {
  falls: { label: "Held still, beside its feet by", unit: "cm", digits: 0, by: 100, low: 0, high: 1000 },
  outside: { label: "In motion, borne beside its feet by", unit: "cm", digits: 0, by: 100, low: 0, high: 1000 },
  frames: { label: "for frames in a row", unit: "", digits: 0, by: 1, low: 1, high: 1000 },
  pull: { label: "Held down by the ground with", unit: "% of its weight", digits: 0, by: 1, low: 0, high: 10000 },
  friction: { label: "Friction of the ground", unit: "", digits: 2, by: 1, low: 0, high: 100 },
  flight: { label: "Falls otherwise than things by", unit: "% of gravity", digits: 0, by: 1, low: 0, high: 10000 },
  turning: { label: "Turned in the air by nothing, with", unit: "° a second", digits: 0, by: 1, low: 0, high: 100000 },
  landing: { label: "Lands with more than", unit: "weights", digits: 1, by: 1, low: 0, high: 1000 },
  strength: { label: "Moves what it carries with", unit: "N", digits: 0, by: 1, low: 0, high: 1000000 },
};

export interface Weighing {
  rows: Record<WeightRow, boolean>;
  limits: Limits;
}

export const usualWeighing = (): Weighing => ({
  rows: { margin: true, bearers: true, mass: false, force: false },
  limits: { ...FACTS.limits },
});

/** What was kept of it, and the usual where that is none or not of its kind. */
export function readWeighing(kept: unknown): Weighing {
  const usual = usualWeighing();
  const given = (typeof kept === "object" && kept ? kept : {}) as { rows?: unknown; limits?: unknown };
  const rows = (typeof given.rows === "object" && given.rows ? given.rows : {}) as Record<string, unknown>;
  const limits = (typeof given.limits === "object" && given.limits ? given.limits : {}) as Record<string, unknown>;
  for (const row of ROWS) if (typeof rows[row] === "boolean") usual.rows[row] = rows[row];
  for (const name of Object.keys(LIMITS) as Limit[]) {
    const value = limits[name];
    const { low, high, by } = LIMITS[name];
    if (typeof value === "number" && value * by >= low && value * by <= high) usual.limits[name] = value;
  }
  return usual;
}
