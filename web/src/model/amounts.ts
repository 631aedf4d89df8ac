// Edits that have an amount: what it is called, its bounds, and the same edit with another one.
import type { AnyEdit } from "./types";

/** The amount of an edit, in percent or in its own unit. */
export interface Measure {
  label: string;
  unit: "%" | "°" | "mm";
  low: number;
  high: number;
  value: number;
  /** The edit with another amount in place of this. */
  at: (value: number) => AnyEdit;
}

type Of<K extends AnyEdit["kind"]> = Extract<AnyEdit, { kind: K }>;
const DEGREE = Math.PI / 180;

/** So many percent of a number of the edit, which goes from `low` to `high`. */
function share<K extends AnyEdit["kind"]>(
  edit: Of<K>,
  field: keyof Of<K>,
  label: string,
  low: number,
  high: number,
): Measure {
  const at = (value: number) => ({ ...edit, [field]: value / 100 });
  return { label, unit: "%", low, high, value: 100 * Number(edit[field] ?? 0), at };
}

/** So many percent of several numbers of the edit together, as they are at 100. */
const times = (label: string, most: number, at: (factor: number) => AnyEdit): Measure => ({
  label,
  unit: "%",
  low: 0,
  high: most,
  value: 100,
  at: (value) => at(value / 100),
});

/** Some numbers of an edit, each so many times as large. */
function larger<E extends AnyEdit>(edit: E, fields: readonly (keyof E)[], factor: number): E {
  const now = { ...edit };
  for (const field of fields) now[field] = ((edit[field] as number) * factor) as E[keyof E];
  return now;
}

export const BREATHING = ["breath", "trunk", "head", "arms", "shift"] as const;
export const SHAKING = ["aside", "up", "forth", "nod", "twist", "tilt"] as const;
const LATE = 24; // frames: as late as a part is made by hand

function later(edit: Of<"delay"> | Of<"delay event">): Measure {
  const longest = Math.max(...edit.chain.map((link) => Math.abs(link.frames)), 1);
  return times("Lateness", Math.max(200, Math.floor((100 * Math.min(LATE, 4 * longest)) / longest)), (factor) => ({
    ...edit,
    chain: edit.chain.map((link) => ({ ...link, frames: Math.round(link.frames * factor) })),
  }));
}

/** The numbers of what lives and of what shakes: their words, units, and as much as a slider asks for. */
export const SIZES = {
  breath: { label: "Breath", unit: "°", most: 3 },
  trunk: { label: "Trunk", unit: "°", most: 3 },
  head: { label: "Head", unit: "°", most: 3 },
  arms: { label: "Arms", unit: "°", most: 3 },
  shift: { label: "Shift", unit: "mm", most: 15 },
  aside: { label: "Aside", unit: "mm", most: 20 },
  up: { label: "Up", unit: "mm", most: 20 },
  forth: { label: "Forth", unit: "mm", most: 20 },
  nod: { label: "Nod", unit: "°", most: 6 },
  twist: { label: "Twist", unit: "°", most: 6 },
  tilt: { label: "Tilt", unit: "°", most: 6 },
  drop: { label: "Deep", unit: "mm", most: 400 },
  factor: { label: "A link", unit: "%", most: 100 },
  ahead: { label: "Ahead", unit: "°", most: 30, least: -30 },
  past: { label: "Past it", unit: "%", most: 90 },
  toes: { label: "Toes up", unit: "°", most: 40 },
  dips: { label: "Dips", unit: "mm", most: 80 },
} as const satisfies Record<string, { label: string; unit: Measure["unit"]; most: number; least?: number }>;
export type Sized = keyof typeof SIZES;

const SCALES = { mm: 1000, "°": 1 / DEGREE, "%": 100 };
/** A number as it is read, in its unit, and what is read as it is stored: in metres, radians or a share. */
export const read = (field: Sized, stored: number) => stored * SCALES[SIZES[field].unit];
export const stored = (field: Sized, shown: number) => shown / SCALES[SIZES[field].unit];

/** One number of what lives or shakes, in the unit in which it is read. */
function one(edit: Of<"living"> | Of<"shake"> | Of<"give">, field: Sized): Measure {
  const { label, unit, most } = SIZES[field];
  const value = read(field, Number((edit as Record<string, unknown>)[field]));
  const at = (to: number) => ({ ...edit, [field]: stored(field, to) }) as AnyEdit;
  return { label, unit, low: 0, high: Math.max(most, value), value, at };
}

/**
 * The amount of an edit, or null where it has none. `field` is the number that the hand has changed last, of those that
 * have several.
 */
export function measureOf(edit: AnyEdit, field = ""): Measure | null {
  switch (edit.kind) {
    case "breakdown":
      return share(edit, "share", "Favour", -50, 150);
    case "exaggerate":
      return share(edit, "degree", "Strength", -100, 100);
    case "lay":
      return share(edit, "share", "Share", 0, 100);
    case "way":
      return share(edit, "strength", "Strength", 0, 100);
    case "calm":
      return share(edit, "share", "Calmed", 0, 100);
    case "weigh layer":
      return share(edit, "weight", "Weight", 0, 100);
    case "delay":
    case "delay event":
      return edit.kind === "delay event" && edit.together ? null : later(edit);
    case "living":
    case "shake":
      if (field in SIZES) return one(edit, field as Sized);
      if (edit.at !== null && edit.at !== undefined) return null; // where it lies was changed, or whether it counts
      return edit.kind === "living"
        ? times("All of it", 300, (factor) => larger(edit, BREATHING, factor))
        : times("All of it", 300, (factor) => larger(edit, SHAKING, factor));
    case "express":
      return times("Expression", 150, (factor) => ({
        ...edit,
        mixed: edit.mixed.map((one) => ({ ...one, share: Math.min(one.share * factor, 1.5) })),
      }));
    case "give":
      return one(edit, "drop");
    case "knock":
      if (edit.at !== null && edit.at !== undefined) return null;
      return times("All of it", 300, (factor) => larger(edit, SHAKING, factor));
    case "together": {
      const parts = edit.parts.map((part) => measureOf(part.edit as AnyEdit));
      const [first] = parts;
      if (!first || parts.some((part) => !part || part.label !== first.label || part.value !== first.value))
        return null;
      const at = (value: number) => ({
        ...edit,
        parts: edit.parts.map((part, n) => ({ ...part, edit: parts[n]!.at(value) })),
      });
      return { ...first, at: at as Measure["at"] };
    }
    default:
      return null;
  }
}
