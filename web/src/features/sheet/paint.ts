// The sheet's keys, painted: rings on the frames of each row, and marks of what is missing.
import type { Member } from "../../desk/store";
import type { Inks } from "../../theme";
import { between, type Place, runs } from "../../model/time";
import { LABELS } from "./labels";
import { type Marks, type Row, storedFrames } from "./rows";

export const ROW = 20;
/** Pixels a frame below which keys are drawn as stretches. */
const NARROW = 3.5;

export interface Picture {
  active: Member;
  rows: Row[];
  marks: Map<string, Marks>;
  /** Frames of chosen keys by channel, and by how many frames they are being moved. */
  chosen: Record<string, number[]>;
  beside: Record<number, Record<string, number[]>>;
  moving: number;
  /** Key poses on which controls have no key; and controls first keyed in the middle, with that frame. */
  missing: Map<number, Set<string>>;
  late: Record<string, number>;
  /** An area being drawn, in pixels of the sheet. */
  area: { x: number; y: number; x2: number; y2: number } | null;
  place: Place;
  height: number;
  /** How far the rows are scrolled, in pixels. */
  top: number;
  ink: Inks;
}

export function paint(canvas: HTMLCanvasElement, picture: Picture) {
  const { active, rows, marks, chosen, beside, moving, missing, late, area, place, height, top, ink } = picture;
  const { x, width, first, last } = place;
  const pen = canvas.getContext("2d");
  if (!pen) return;
  const scale = Math.min(devicePixelRatio, 2);
  const wide = width - LABELS;
  canvas.width = wide * scale;
  canvas.height = height * scale;
  pen.setTransform(scale, 0, 0, scale, -LABELS * scale, 0);
  pen.clearRect(LABELS, 0, wide, height);
  const setsOf = (keys: Record<string, number[]> = {}) =>
    new Map(Object.entries(keys).map(([a, frames]) => [a, new Set(frames)]));
  const picked = new Map(Object.entries(beside).map(([id, keys]) => [Number(id), setsOf(keys)]));
  picked.set(active.id, setsOf(chosen));
  rows.forEach((row, n) => {
    const y = n * ROW - top;
    if (y < -ROW || y > height) return;
    pen.strokeStyle = ink.line;
    pen.lineWidth = row.depth === 0 ? 1 : 0.5;
    pen.beginPath();
    pen.moveTo(LABELS, y + ROW - 0.5);
    pen.lineTo(width, y + ROW - 0.5);
    pen.stroke();
    const { own, rising } = marks.get(row.key)!;
    const middle = y + ROW / 2;
    const radius = row.depth === 0 ? 4.5 : 3.5;
    const [ownSeen, derivedSeen] = [between(rising.own, first, last), between(rising.derived, first, last)];
    const sets = picked.get(row.member.id);
    const frames = storedFrames(row.member.clip);
    const isPicked = (f: number) =>
      !!sets?.size && row.addresses.some((a) => sets.get(a)?.has(f) && frames.get(a)?.includes(f));
    if (place.gap < NARROW) {
      // Keys that would touch are drawn as the stretches that they fill.
      const bars = (some: number[], high: number, tone: string) => {
        pen.fillStyle = tone;
        for (const [a, b] of runs(some, NARROW / place.gap))
          pen.fillRect(x(a) - 1, middle - high, Math.max(x(b) - x(a), 0) + 2, 2 * high);
      };
      bars(derivedSeen, 1, ink.faint);
      bars(ownSeen, row.depth === 0 ? 3 : 2, ink.blue);
      if (sets?.size) bars(ownSeen.filter(isPicked), row.depth === 0 ? 6 : 5, ink.blue);
    } else {
      pen.setLineDash([2, 2]);
      pen.strokeStyle = ink.faint;
      pen.lineWidth = 1.2;
      for (const f of derivedSeen) {
        pen.beginPath();
        pen.arc(x(f), middle, radius, 0, 7);
        pen.stroke();
      }
      pen.setLineDash([]);
      pen.strokeStyle = ink.blue;
      pen.lineWidth = 1.6;
      for (const f of ownSeen) {
        const picked = isPicked(f);
        pen.beginPath();
        pen.arc(x(picked ? f + moving : f), middle, radius, 0, 7);
        pen.fillStyle = picked ? ink.blue : ink.sheet;
        pen.fill();
        pen.stroke();
      }
    }
    // No key where the pose has them: a dash; first keyed in the middle: a bar before its first key.
    pen.strokeStyle = ink.red;
    pen.lineWidth = 2;
    for (const [f, names] of missing)
      if (row.depth < 2 && row.controls.some((c) => names.has(c))) {
        pen.beginPath();
        pen.moveTo(x(f) - 4, middle + (own.has(f) ? 7 : 0));
        pen.lineTo(x(f) + 4, middle + (own.has(f) ? 7 : 0));
        pen.stroke();
      }
    if (row.depth === 1 && late[row.key] !== undefined) {
      pen.beginPath();
      pen.moveTo(x(late[row.key]) - 7, middle - 5);
      pen.lineTo(x(late[row.key]) - 7, middle + 5);
      pen.stroke();
    }
  });
  if (area) {
    pen.fillStyle = ink.blue;
    pen.globalAlpha = 0.14;
    pen.fillRect(
      Math.min(area.x, area.x2),
      Math.min(area.y, area.y2) - top,
      Math.abs(area.x2 - area.x),
      Math.abs(area.y2 - area.y),
    );
    pen.globalAlpha = 1;
  }
}
