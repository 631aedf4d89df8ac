// Draws the graph: a grid, curves, keys by how their handles come, the handles of chosen keys, and what is held.
import {
  CHORD,
  CODE,
  FLAT,
  FRAME,
  FREE,
  IN_T,
  IN_V,
  keyCount,
  kindsOf,
  OUT_T,
  OUT_V,
  pathOf,
  rowAt,
  SHAPE,
  SMOOTH,
  STEPPED,
  type Table,
  VALUE,
  valueAt,
  WIDTH,
} from "../../model/curves";
import type { Inks } from "../../theme";
import { groupsOf, laid } from "./alike";
import { type Shown, told } from "./shown";
import { drawn, frameAt, type Place, stepOf, xOf, yOf } from "./view";
import { type Region, gripsOf } from "./region";

/** How many curves have their names and values written at them: of more, only the one that is pointed at. */
const FEW = 9;

const HANDLES = 60;

export interface Picture extends Place {
  curves: Shown[];
  chosen: Record<string, number[]>;
  /** Curves as they are while keys are held. */
  held: Map<string, Table>;
  pointed: string;
  frame: number;
  box: { x: number; y: number; x2: number; y2: number } | null;
  region: Region | null;
  playFirst: number;
  playLast: number;
  ink: Inks;
  font: string;
}

export const tableIn = (picture: Pick<Picture, "held">, curve: Shown) => picture.held.get(curve.address) ?? curve.table;

export function paint(canvas: HTMLCanvasElement, p: Picture) {
  const pen = canvas.getContext("2d");
  if (!pen) return;
  const ratio = Math.min(devicePixelRatio, 2);
  if (canvas.width !== Math.round(p.width * ratio) || canvas.height !== Math.round(p.height * ratio)) {
    canvas.width = Math.round(p.width * ratio);
    canvas.height = Math.round(p.height * ratio);
  }
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.clearRect(0, 0, p.width, p.height);
  pen.font = `11px ${p.font}`;
  grid(pen, p);
  strokes(pen, p);
  keys(pen, p);
  handles(pen, p);
  names(pen, p);
  if (p.region) region(pen, p.region, p);
  if (p.box) {
    pen.fillStyle = p.ink.blue;
    pen.globalAlpha = 0.14;
    pen.fillRect(p.box.x, p.box.y, p.box.x2 - p.box.x, p.box.y2 - p.box.y);
    pen.globalAlpha = 1;
  }
}

function grid(pen: CanvasRenderingContext2D, p: Picture) {
  const { view, width, height, ink } = p;
  pen.fillStyle = ink.sheet;
  const [a, b] = [xOf(p, p.playFirst), xOf(p, p.playLast)];
  pen.fillRect(a, 0, b - a, height);
  pen.strokeStyle = ink.line;
  pen.lineWidth = 1;
  pen.fillStyle = ink.faint;
  const wide = stepOf(view.last - view.first, width, 46, true);
  pen.textAlign = "center";
  for (let f = Math.ceil(view.first / wide) * wide; f <= view.last; f += wide) {
    const x = Math.round(xOf(p, f)) + 0.5;
    pen.beginPath();
    pen.moveTo(x, 14);
    pen.lineTo(x, height);
    pen.stroke();
    pen.fillText(String(f), x, 11);
  }
  const tall = stepOf(view.high - view.low, height, 30);
  pen.textAlign = "right";
  for (let v = Math.ceil(view.low / tall) * tall; v <= view.high; v += tall) {
    const y = Math.round(yOf(p, v)) + 0.5;
    if (y < 16) continue;
    pen.globalAlpha = Math.abs(v) < tall / 2 ? 1 : 0.55;
    pen.beginPath();
    pen.moveTo(0, y);
    pen.lineTo(width - 34, y);
    pen.stroke();
    pen.globalAlpha = 1;
    pen.fillText(String(+v.toFixed(4)).replace("-", "−"), width - 4, y + 4);
  }
}

/** The curves that are drawn one by one: all of a few, and of many those that are pointed at, chosen or held. */
function apart(p: Picture): Shown[] {
  if (p.curves.length <= FEW) return p.curves;
  return p.curves.filter(
    (curve) => curve.address === p.pointed || p.chosen[curve.address]?.length || p.held.has(curve.address),
  );
}

function together(pen: CanvasRenderingContext2D, p: Picture) {
  const { view, width, height } = p;
  const sx = width / (view.last - view.first);
  const sy = height / (view.high - view.low);
  for (const group of groupsOf(p.curves, new Set(apart(p).map((curve) => curve.address)))) {
    const seen = [...group.stretches.values()]
      .filter((one) => one.first <= view.last && one.last >= view.first)
      .map((one) => laid(one, sx, sy * group.scale));
    const put = (what: "lines" | "dots") => {
      for (const stretch of seen) pen.stroke(stretch[what]);
    };
    pen.save();
    pen.translate(-view.first * sx, height + (view.low - group.shift) * sy);
    pen.strokeStyle = group.colour;
    pen.globalAlpha = 0.6;
    pen.lineWidth = group.width;
    put("lines");
    pen.globalAlpha = 1;
    pen.lineWidth = 3.4;
    pen.lineCap = "round";
    put("dots");
    pen.restore();
  }
}

function strokes(pen: CanvasRenderingContext2D, p: Picture) {
  if (p.curves.length > FEW) together(pen, p);
  const { view, width, height } = p;
  const sx = width / (view.last - view.first);
  const sy = height / (view.high - view.low);
  const many = p.curves.length > FEW;
  for (const curve of apart(p)) {
    const table = tableIn(p, curve);
    const { derived } = curve;
    const path = new Path2D();
    const m = new DOMMatrix([sx, 0, 0, -sy * curve.scale, -view.first * sx, height + (view.low - curve.shift) * sy]);
    path.addPath(pathOf(table), m);
    pen.strokeStyle = curve.colour;
    const last = table.length - WIDTH;
    // Level before the first key and after the last, as it plays.
    for (const [at, to] of [
      [0, 0],
      [last, width],
    ]) {
      const x = xOf(p, table[at]);
      if ((to === 0 ? x <= 0 : x >= width) || (to && derived.length)) continue;
      path.moveTo(x, yOf(p, drawn(curve, table[at + VALUE])));
      path.lineTo(to, yOf(p, drawn(curve, table[at + VALUE])));
    }
    const from = derived.length ? xOf(p, derived[0]) : Infinity;
    const on = p.pointed === curve.address;
    pen.lineWidth = on ? curve.width + 1.4 : curve.width;
    pen.globalAlpha = many && !on && !p.chosen[curve.address]?.length ? 0.6 : 1;
    pen.setLineDash(many && !on ? [] : curve.dash); // dashes cost a raster much: of many curves they tell little
    pen.stroke(path);
    if (derived.length && from < width) {
      pen.setLineDash([1, 3]);
      pen.lineWidth = 1.4;
      pen.beginPath();
      pen.moveTo(xOf(p, table[last]), yOf(p, drawn(curve, table[last + VALUE])));
      for (let n = 0; n < derived.length; n += 2) pen.lineTo(xOf(p, derived[n]), yOf(p, drawn(curve, derived[n + 1])));
      pen.stroke();
    }
  }
  pen.globalAlpha = 1;
  pen.setLineDash([]);
}

/** Marks of keys: round where handles come of themselves, square where they were set, a bar on a stepped way. */
function keys(pen: CanvasRenderingContext2D, p: Picture) {
  const { view, width, height } = p;
  const sx = width / (view.last - view.first);
  const sy = height / (view.high - view.low);
  const shown = apart(p);
  const dots = shown.reduce((sum, curve) => sum + keyCount(curve.table), 0) < 1500;
  for (const curve of shown) {
    const table = tableIn(p, curve);
    const moving = p.held.has(curve.address);
    const picked = p.chosen[curve.address]?.length && !moving ? new Set(p.chosen[curve.address]) : null;
    pen.beginPath();
    const on: number[] = [];
    for (let i = Math.max(rowAt(table, view.first), 0) * WIDTH; i < table.length; i += WIDTH) {
      if (table[i] > view.last) break;
      const x = (table[i] - view.first) * sx;
      const y = height - (table[i + VALUE] * curve.scale + curve.shift - view.low) * sy;
      if (y < -6 || y > height + 6) continue;
      if (picked?.has(table[i])) on.push(x, y, table[i + CODE]);
      else if (!dots) pen.rect(x - 1.5, y - 1.5, 3, 3);
      else if (table[i + CODE]) pen.rect(x - 2.8, y - 2.8, 5.6, 5.6);
      else {
        pen.moveTo(x + 3, y);
        pen.arc(x, y, 3, 0, 7);
      }
      if (dots && table[i + SHAPE] === STEPPED) pen.rect(x + 4, y - 0.75, 6, 1.5);
      if (dots && table[i + SHAPE] > SMOOTH) pen.rect(x + 4, y - 3, 1.5, 6);
    }
    pen.fillStyle = curve.colour;
    pen.fill();
    pen.fillStyle = p.ink.sheet;
    pen.strokeStyle = p.ink.blue;
    pen.lineWidth = 2;
    for (let n = 0; n < on.length; n += 3) {
      pen.beginPath();
      if (on[n + 2]) pen.rect(on[n] - 4, on[n + 1] - 4, 8, 8);
      else pen.arc(on[n], on[n + 1], 4.5, 0, 7);
      pen.fill();
      pen.stroke();
    }
  }
}

export interface HandleEnd {
  curve: Shown;
  row: number;
  side: "before" | "after";
  x: number;
  y: number;
  kind: number;
  aligned: boolean;
}

/** The ends of the handles of chosen keys that lead a way. */
export function handleEnds(p: Omit<Picture, "box" | "region" | "ink" | "font">): HandleEnd[] {
  const ends: HandleEnd[] = [];
  for (const curve of p.curves) {
    const frames = p.chosen[curve.address];
    if (!frames?.length) continue;
    const table = tableIn(p, curve);
    for (const frame of frames) {
      const row = rowAt(table, frame);
      const i = row * WIDTH;
      if (row < 0 || table[i + FRAME] !== frame) continue;
      const { before, after, aligned } = kindsOf(table[i + CODE]);
      const end = (side: "before" | "after", t: number, v: number, kind: number) =>
        ends.push({
          curve,
          row,
          side,
          kind,
          aligned,
          x: xOf(p, frame + table[i + t]),
          y: yOf(p, drawn(curve, table[i + VALUE] + table[i + v])),
        });
      const led = (n: number) => n >= 0 && n < keyCount(table) - 1 && table[n * WIDTH + SHAPE] !== STEPPED;
      if (led(row - 1)) end("before", IN_T, IN_V, before);
      if (led(row)) end("after", OUT_T, OUT_V, after);
      if (ends.length > HANDLES) return [];
    }
  }
  return ends;
}

function handles(pen: CanvasRenderingContext2D, p: Picture) {
  for (const { curve, row, x, y, kind, aligned } of handleEnds(p)) {
    const table = tableIn(p, curve);
    const [kx, ky] = [xOf(p, table[row * WIDTH]), yOf(p, drawn(curve, table[row * WIDTH + VALUE]))];
    pen.strokeStyle = p.ink.blue;
    pen.lineWidth = 1.2;
    pen.setLineDash(kind === FREE && !aligned ? [4, 2] : []);
    pen.beginPath();
    pen.moveTo(kx, ky);
    pen.lineTo(x, y);
    pen.stroke();
    pen.setLineDash([]);
    pen.fillStyle = kind === FREE ? p.ink.blue : p.ink.sheet;
    pen.beginPath();
    // A ring comes of itself, a bar is level, a lozenge goes along the way, a full dot was set by hand.
    if (kind === FLAT) pen.rect(x - 5, y - 2, 10, 4);
    else if (kind === CHORD) {
      pen.moveTo(x - 5, y);
      pen.lineTo(x, y - 5);
      pen.lineTo(x + 5, y);
      pen.lineTo(x, y + 5);
      pen.closePath();
    } else pen.arc(x, y, 3.6, 0, 7);
    pen.fill();
    pen.stroke();
  }
}

function names(pen: CanvasRenderingContext2D, p: Picture) {
  const few = p.curves.length <= FEW;
  const taken: { x: number; y: number }[] = [];
  const free = (x: number, y: number) => {
    for (const step of [0, 13, -13, 26, -26, 39, -39])
      if (!taken.some((t) => Math.abs(t.y - y - step) < 12 && Math.abs(t.x - x) < 120)) {
        taken.push({ x, y: y + step });
        return y + step;
      }
    return y;
  };
  const label = (text: string, x: number, y: number, colour: string, align: CanvasTextAlign) => {
    pen.textAlign = align;
    const wide = pen.measureText(text).width;
    pen.fillStyle = p.ink.sheet;
    pen.globalAlpha = 0.86;
    pen.fillRect((align === "right" ? x - wide : x) - 2, y - 9, wide + 4, 12);
    pen.globalAlpha = 1;
    pen.fillStyle = colour;
    pen.fillText(text, x, y);
  };
  for (const curve of p.curves) {
    if (!few && curve.address !== p.pointed) continue;
    const table = tableIn(p, curve);
    const at = yOf(p, drawn(curve, valueAt(table, frameAt(p, 6))));
    const side = curve.side ? ` ${curve.side}` : "";
    if (at > 16 && at < p.height)
      label(`${curve.name}${side} · ${curve.channel}`, 6, free(6, at - 4), curve.colour, "left");
    const value = valueAt(table, p.frame);
    const [x, y] = [xOf(p, p.frame) + 7, yOf(p, drawn(curve, value))];
    if (y > 16 && y < p.height && x > 0 && x < p.width)
      label(told(curve, value), x, free(x, y - 4), curve.colour, "left");
  }
}

function region(pen: CanvasRenderingContext2D, at: Region, p: Picture) {
  const { ink } = p;
  pen.strokeStyle = ink.blue;
  pen.lineWidth = 1;
  pen.setLineDash([3, 3]);
  pen.strokeRect(at.x, at.y, at.x2 - at.x, at.y2 - at.y);
  pen.setLineDash([]);
  for (const [name, x, y] of gripsOf(at, p)) {
    pen.fillStyle = ink.sheet;
    pen.beginPath();
    if (name === "bend") pen.arc(x, y + 5, 7, Math.PI, 2 * Math.PI);
    else if (name === "shear") {
      pen.moveTo(x - 4, y + 6);
      pen.lineTo(x, y - 6);
      pen.lineTo(x + 4, y - 6);
      pen.lineTo(x, y + 6);
      pen.closePath();
    } else pen.rect(x - 3, y - 3, 6, 6);
    pen.fill();
    pen.stroke();
  }
}
