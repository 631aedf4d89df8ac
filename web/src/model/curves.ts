// Curves of channels as they are keyed, for whoever draws them: their handles laid, and read at any frame. The same
// rules as in hame/clip/curve.py, hame/clip/sampling.py and hame/maths/eases.py, which are what is stored and played.
import { FACTS } from "../api/facts.gen";
import type { Clip } from "./types";

const { columns, handles, shapes } = FACTS;
/** Columns of a table; rows lie one after the other. */
export const FRAME = columns.frame;
export const VALUE = columns.value;
export const SHAPE = columns.shape;
export const CODE = columns.handles;
export const IN_T = columns.inTime;
export const IN_V = columns.inValue;
export const OUT_T = columns.outTime;
export const OUT_V = columns.outValue;
export const STRENGTH = columns.strength;
export const WIDTH = FACTS.width;
export const { auto: AUTO, free: FREE, flat: FLAT, chord: CHORD } = handles;
const FREE_BOTH = FACTS.freeBoth;
/** Numbers under which ways are stored. */
export const STEPPED: number = shapes.stepped;
export const EVEN: number = shapes.even;
export const SMOOTH: number = shapes.smooth;
export const WIND_UP: number = shapes["wind-up"];
export const OVERSHOOT: number = shapes.overshoot;
export const INSTANT: number = shapes.instant;

export type Table = Float64Array;
export const keyCount = (table: Table) => table.length / WIDTH;

/** How the handles before and after a key come, and whether they stay in one line. */
export const kindsOf = (code: number) => ({ before: code & 3, after: (code >> 2) & 3, aligned: (code & 16) !== 0 });

const kept = new WeakMap<number[][], Table>();

/** The table of stored rows, with all handles laid. */
export function tableOf(rows: number[][]): Table {
  let table = kept.get(rows);
  if (!table) {
    table = new Float64Array(rows.length * WIDTH);
    rows.forEach((row, n) => {
      const at = n * WIDTH;
      for (let c = 0; c < 3; c++) table![at + c] = row[c];
      if (row.length === 4) table![at + STRENGTH] = row[3];
      if (row.length >= 7) {
        for (let c = 0; c < 4; c++) table![at + IN_T + c] = row[3 + c];
        table![at + CODE] = row.length === 9 ? row[7] : FREE_BOTH;
        table![at + STRENGTH] = row.length === 9 ? row[8] : 0;
      }
    });
    layHandles(table);
    kept.set(rows, table);
  }
  return table;
}

export const curveOf = (clip: Clip, address: string): Table | null => {
  const rows = clip.curves[address];
  return rows?.length ? tableOf(rows) : null;
};

/** Lays the handles that follow from the keys, in place. */
export function layHandles(table: Table) {
  const count = keyCount(table);
  for (let n = 0; n < count; n++) {
    const i = n * WIDTH;
    const { before: kindIn, after: kindOut } = kindsOf(table[i + CODE]);
    const before = n > 0 ? table[i] - table[i - WIDTH] : 0;
    const after = n < count - 1 ? table[i + WIDTH] - table[i] : 0;
    const left = before > 0 ? (table[i + VALUE] - table[i - WIDTH + VALUE]) / before : 0;
    const right = after > 0 ? (table[i + WIDTH + VALUE] - table[i + VALUE]) / after : 0;
    let slope = 0;
    if (left * right > 0) {
      const [w1, w2] = [2 * after + before, after + 2 * before];
      slope = (w1 + w2) / (w1 / left + w2 / right);
    }
    const back = before > 0 ? before : after;
    const forth = after > 0 ? after : before;
    if (kindIn === AUTO || kindIn === CHORD) {
      table[i + IN_T] = -back / 3;
      table[i + IN_V] = (-back / 3) * (kindIn === AUTO ? slope : left);
    } else if (kindIn === FLAT) table[i + IN_V] = 0;
    if (kindOut === AUTO || kindOut === CHORD) {
      table[i + OUT_T] = forth / 3;
      table[i + OUT_V] = (forth / 3) * (kindOut === AUTO ? slope : right);
    } else if (kindOut === FLAT) table[i + OUT_V] = 0;
  }
}

/** The share of both handles with which time does not run backwards in their gap. */
export function fitShare(gap: number, outT: number, inT: number): number {
  const [a, c] = [Math.max(outT, 0), Math.max(-inT, 0)];
  const needed = a + c - Math.sqrt(a * c);
  return needed <= gap * (1 + 1e-12) ? 1 : gap / needed;
}

/** Ways in closed form, by the numbers under which they are stored. */
export function eased(kind: number, strength: number, t: number): number {
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  const power = 1 + 4 * strength;
  const s = 2 * strength * FACTS.tenPercent;
  switch (kind) {
    case shapes["slow start"]:
      return t ** power;
    case shapes["slow stop"]:
      return 1 - (1 - t) ** power;
    case shapes.both:
      return t < 0.5 ? 0.5 * (2 * t) ** power : 1 - 0.5 * (2 - 2 * t) ** power;
    case shapes["wind-up"]:
      return t * t * ((s + 1) * t - s);
    case shapes.overshoot:
      return (t - 1) ** 2 * ((s + 1) * (t - 1) + s) + 1;
    case shapes.bounce: {
      if (t < 1 / 2.75) return 7.5625 * t * t;
      const [at, base] = t < 2 / 2.75 ? [1.5, 0.75] : t < 2.5 / 2.75 ? [2.25, 0.9375] : [2.625, 0.984375];
      const u = t - at / 2.75;
      return 1 - 2 * strength * (1 - (7.5625 * u * u + base));
    }
    case shapes.instant:
      return 1;
    default:
      return t;
  }
}

/** The row of the key at or before a frame; -1 before the first. */
export function rowAt(table: Table, frame: number): number {
  let [low, high] = [0, keyCount(table)];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (table[middle * WIDTH] <= frame) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** The value of a curve at a frame, which need not be whole. */
export function valueAt(table: Table, frame: number): number {
  const count = keyCount(table);
  const row = rowAt(table, frame);
  if (row < 0) return table[VALUE];
  const i = row * WIDTH;
  if (row >= count - 1) return table[i + VALUE];
  const j = i + WIDTH;
  const gap = table[j] - table[i];
  const t = frame - table[i];
  const [v0, v1] = [table[i + VALUE], table[j + VALUE]];
  const shape = table[i + SHAPE];
  if (shape === STEPPED || t === 0) return v0;
  if (shape === EVEN) return v0 + ((v1 - v0) * t) / gap;
  if (shape > SMOOTH) return v0 + (v1 - v0) * eased(shape, table[i + STRENGTH], t / gap);
  const outT = Math.max(table[i + OUT_T], 0);
  const inT = Math.min(table[j + IN_T], 0);
  const share = fitShare(gap, outT, inT);
  const [x1, x2] = [share * outT, gap + share * inT];
  let [low, high] = [0, 1];
  for (let n = 0; n < 50; n++) {
    const u = (low + high) / 2;
    const w = 1 - u;
    if (3 * w * w * u * x1 + 3 * w * u * u * x2 + u * u * u * gap < t) low = u;
    else high = u;
  }
  const u = (low + high) / 2;
  const w = 1 - u;
  const [y1, y2] = [v0 + share * table[i + OUT_V], v1 + share * table[j + IN_V]];
  return w * w * w * v0 + 3 * w * w * u * y1 + 3 * w * u * u * y2 + u * u * u * v1;
}

const PIECES = 32;
const paths = new WeakMap<Table, Path2D>();

/** The curve from its first key to its last as a path in frames and values. */
export function pathOf(table: Table): Path2D {
  let path = paths.get(table);
  if (path) return path;
  path = new Path2D();
  traceOf(path, table, 0, keyCount(table) - 1);
  paths.set(table, path);
  return path;
}

/** Draws the curve from one key of its table to another, by their numbers, into a path. */
export function traceOf(path: Path2D, table: Table, from: number, to: number) {
  path.moveTo(table[from * WIDTH + FRAME], table[from * WIDTH + VALUE]);
  for (let n = from; n < to; n++) {
    const i = n * WIDTH;
    const j = i + WIDTH;
    const [f0, v0, shape, f1, v1] = [table[i], table[i + VALUE], table[i + SHAPE], table[j], table[j + VALUE]];
    if (shape === STEPPED) {
      path.lineTo(f1, v0);
      path.lineTo(f1, v1);
    } else if (shape === EVEN) path.lineTo(f1, v1);
    else if (shape === SMOOTH) {
      const [outT, inT] = [Math.max(table[i + OUT_T], 0), Math.min(table[j + IN_T], 0)];
      const s = fitShare(f1 - f0, outT, inT);
      path.bezierCurveTo(f0 + s * outT, v0 + s * table[i + OUT_V], f1 + s * inT, v1 + s * table[j + IN_V], f1, v1);
    } else
      for (let p = 1; p <= PIECES; p++) {
        const t = p / PIECES;
        path.lineTo(
          f0 + (f1 - f0) * t,
          v0 + (v1 - v0) * eased(shape, table[i + STRENGTH], shape === shapes.instant ? 1 : t),
        );
      }
  }
}

/** What is done to chosen keys in one: the same as the edit of that name. */
export interface Reshape {
  by_frames: number;
  by: Record<string, number>;
  about_frame: number;
  time: number;
  about: Record<string, number>;
  value: number;
  shear: Record<string, number>;
  bend: Record<string, number>;
}

export const UNSHAPED: Reshape = {
  by_frames: 0,
  by: {},
  about_frame: 0,
  time: 1,
  about: {},
  value: 1,
  shear: {},
  bend: {},
};

/** A curve after its chosen keys were reshaped, to be looked at before that is stored; `from` and `to` are of all. */
export function reshaped(
  table: Table,
  address: string,
  frames: number[],
  how: Reshape,
  from: number,
  to: number,
): Table {
  const chosen = new Set(frames);
  const middle = (from + to) / 2;
  const half = Math.max((to - from) / 2, 1e-9);
  const rows: number[][] = [];
  const moved: number[][] = [];
  const [shear, bend, about] = [how.shear[address] ?? 0, how.bend[address] ?? 0, how.about[address] ?? 0];
  for (let n = 0; n < keyCount(table); n++) {
    const row = [...table.subarray(n * WIDTH, (n + 1) * WIDTH)];
    if (!chosen.has(row[FRAME])) {
      rows.push(row);
      continue;
    }
    const share = Math.min(Math.max((row[FRAME] - middle) / half, -1), 1);
    const steeper = shear - (to > from ? (2 * bend * share) / half : 0);
    row[VALUE] = about + how.value * (row[VALUE] - about);
    row[VALUE] += (how.by[address] ?? 0) + shear * (row[FRAME] - how.about_frame) + bend * (1 - share * share);
    for (const t of [IN_T, OUT_T]) {
      row[t + 1] = how.value * row[t + 1] + steeper * row[t];
      row[t] *= how.time;
    }
    row[FRAME] = Math.floor(how.about_frame + how.time * (row[FRAME] - how.about_frame) + how.by_frames + 0.5);
    moved.push(row);
  }
  const spots = new Map(moved.map((row) => [row[FRAME], row]));
  const all = [...rows.filter((row) => !spots.has(row[FRAME])), ...spots.values()].sort((a, b) => a[0] - b[0]);
  const after = new Float64Array(all.length * WIDTH);
  all.forEach((row, n) => after.set(row, n * WIDTH));
  layHandles(after);
  return after;
}

/** A curve with one handle of a key set by hand: so many frames long, its end so far above the key; `alone`: broken. */
export function withHandle(
  before: Table,
  row: number,
  side: "before" | "after",
  time: number,
  value: number,
  alone: boolean,
): Table {
  const table = before.slice();
  const i = row * WIDTH;
  const after = side === "after";
  const way = (after ? i : i - WIDTH) + SHAPE;
  if (table[way] !== SMOOTH) table[way] = SMOOTH; // a handle acts on a curve alone
  const kinds = kindsOf(table[i + CODE]);
  const loose = (kind: number) => kind === AUTO || kind === FLAT;
  const aligned = !alone && (kinds.aligned || (loose(kinds.before) && loose(kinds.after)));
  const [t, v, ot, ov] = after ? [OUT_T, OUT_V, IN_T, IN_V] : [IN_T, IN_V, OUT_T, OUT_V];
  table[i + t] = after ? time : -time;
  table[i + v] = value;
  if (aligned && time > 1e-6) table[i + ov] = (value / table[i + t]) * table[i + ot];
  const [mine, behind] = aligned ? [FREE, FREE] : after ? [kinds.before, FREE] : [FREE, kinds.after];
  table[i + CODE] = mine + 4 * behind + (aligned ? 16 : 0);
  layHandles(table);
  return table;
}
