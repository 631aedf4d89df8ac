// The part of the time line that is looked at: zoomed, shifted, fitted; kept by shot and person.
import { type RefObject, useEffect, useMemo } from "react";
import { keyFrames } from "../model/columns";
import { type Room, type Place, placed, shifted, showing, type Stretch, within, zoomed } from "../model/time";
import { whoIsIn } from "../api/client";
import { pictures } from "./pictures";
import { say } from "./steps";
import { active, desk, type DeskState, playhead, setDesk, useDesk } from "./store";

const KEPT = "hame-time";
const MOST_KEPT = 60;
/** Pixels a frame where each is to be hit with ease. */
const EASE = 10;

/** Of all the shot where nothing else was asked for. */
export const timeOf = ({ time, shot }: Pick<DeskState, "time" | "shot">): Stretch =>
  time ?? { first: shot?.start ?? 1, last: Math.max(shot?.end ?? 24, (shot?.start ?? 1) + 1) };

/** How far one can look: the shot, and keys that lie before or after it. */
function bounds(): Stretch {
  const { shot } = desk();
  const member = active();
  const frames = member ? keyFrames(member) : [];
  const [start, end] = [shot?.start ?? 1, shot?.end ?? 24];
  return { first: Math.min(start, frames[0] ?? start), last: Math.max(end, frames[frames.length - 1] ?? end) };
}

/** How many pixels the time line has, as it was drawn last: what is zoomed to a size asks for it. */
let drawn: Room = { left: 36, width: 900 };
export const timeDrawn = (room: Room) => void (drawn = room);

function show(next: Stretch) {
  const { shot, time } = desk();
  if (!shot) return;
  const whole = next.first === shot.start && next.last === shot.end;
  if (whole ? time === null : time?.first === next.first && time.last === next.last) return;
  pictures.after = performance.now() + (pictures.source?.slow ? 900 : 250);
  setDesk({ time: whole ? null : next });
  keepSoon();
}

export const zoomTime = (about: number, by: number) => show(zoomed(timeOf(desk()), about, by, bounds()));
export const shiftTime = (by: number) => show(shifted(timeOf(desk()), by, bounds()));
/** Shows some frames and no others. */
export const fitTime = (first: number, last: number) => show(within({ first, last }, bounds()));
export const showInTime = (frame: number) => show(showing(timeOf(desk()), frame, bounds()));

/** Shifts by a share of what is shown. */
export function pageTime(share: number) {
  const { first, last } = timeOf(desk());
  shiftTime((last - first) * share);
}

export function fitAll() {
  const { shot } = desk();
  if (shot) fitTime(shot.start, shot.end);
}
export function fitPlayed() {
  const { shot } = desk();
  if (shot) fitTime(shot.play_start, shot.play_end);
}
/** What is chosen: columns, or else keys, or else all keys of what is selected. */
export function fitChosen() {
  const { columns, keysChosen, selection } = desk();
  const keys = Object.values(keysChosen).flat();
  if (columns.length) return fitFrames(columns);
  if (keys.length) return fitFrames(keys);
  if (!selection.length) return say("Choose columns or keys, or select what has some: the time line then shows those.");
  fitSelected();
}
export function fitSelected() {
  const { selection } = desk();
  const member = active();
  const mine = new Set(selection);
  const frames = Object.entries(member?.clip.curves ?? {}).flatMap(([address, rows]) =>
    mine.has(address.slice(0, address.lastIndexOf("/"))) ? [rows[0][0], rows[rows.length - 1][0]] : [],
  );
  if (!frames.length) return say(selection.length ? "What is selected has no keys yet." : "Nothing is selected.");
  fitFrames(frames);
}
function fitFrames(frames: number[]) {
  let [first, last] = [Infinity, -Infinity];
  for (const f of frames) [first, last] = [Math.min(first, f), Math.max(last, f)];
  const room = last > first ? 0 : 6; // one frame alone is shown with those about it
  fitTime(first - room, last + room);
}

/** Every frame wide enough to be hit, about the playhead; where they are already, all of the shot. */
export function everyFrame() {
  const { first, last } = timeOf(desk());
  const wide = (drawn.width - drawn.left - 36) / EASE;
  if (last - first <= wide * 1.01) return fitAll();
  const { frame } = desk();
  const share = Math.min(Math.max((frame - first) / (last - first), 0.1), 0.9);
  fitTime(frame - share * wide, frame + (1 - share) * wide);
}

/** Where frames lie now in what is so wide; drawn anew as it changes. */
export function usePlace({ left, width }: Room): Place {
  const time = useDesk((s) => s.time);
  const shot = useDesk((s) => s.shot);
  return useMemo(() => placed({ left, width }, timeOf({ time, shot })), [time, shot, left, width]);
}
export const placeNow = (room: Room): Place => placed(room, timeOf(desk()));

// Kept by shot and person

type Kept = Record<string, [number, number]>;
const nameOf = (shot: number) => `${whoIsIn()} ${shot}`;
function kept(): Kept {
  try {
    return (JSON.parse(localStorage.getItem(KEPT) ?? "{}") ?? {}) as Kept;
  } catch {
    return {};
  }
}

let waiting = 0;
function keepSoon() {
  const { shot, time } = desk();
  if (!shot) return;
  const name = nameOf(shot.id);
  clearTimeout(waiting);
  waiting = window.setTimeout(() => {
    const others = Object.entries(kept()).filter(([other]) => other !== name);
    const mine: [string, [number, number]][] = time ? [[name, [time.first, time.last]]] : [];
    localStorage.setItem(KEPT, JSON.stringify(Object.fromEntries([...others.slice(-MOST_KEPT), ...mine])));
  }, 300);
}

/** What was looked at last of a shot; null: all of it. */
export function timeKept(shot: { id: number; start: number; end: number }): Stretch | null {
  const found = kept()[nameOf(shot.id)];
  if (!Array.isArray(found) || !found.every(Number.isFinite) || found[1] <= found[0]) return null;
  return within({ first: found[0], last: found[1] }, { first: shot.start, last: shot.end });
}

// The playhead is followed: frame by frame where it goes, and by the page while it plays.
useDesk.subscribe((now, before) => {
  if (now.shot && now.frame !== before.frame && now.takeId === before.takeId && !now.playing) showInTime(now.frame);
});
export function followPlaying() {
  const { first, last } = timeOf(desk());
  if (playhead.frame > last || playhead.frame < first)
    show(within({ first: playhead.frame, last: playhead.frame + last - first }, bounds()));
}

/** How far a notch of the wheel zooms. */
const NOTCH = 0.0016;

/** Time under the wheel of an element: zoomed about the pointer, and with Shift, or to the side, shifted.

 * Where it has rows (`rows`) the wheel alone goes through these, and zooms with Ctrl. */
export function useTimeWheel(element: RefObject<HTMLElement | null>, { left, width }: Room, rows = false) {
  useEffect(() => {
    const box = element.current!;
    const wheel = (event: WheelEvent) => {
      const zooms = event.ctrlKey || event.metaKey || !rows;
      const aside = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
      if (!zooms && !aside) return;
      event.preventDefault();
      const now = placeNow({ left, width });
      if (aside && !(rows && zooms))
        shiftTime((event.shiftKey ? event.deltaY || event.deltaX : event.deltaX) / now.gap);
      else zoomTime(now.timeAt(event.clientX - box.getBoundingClientRect().left), Math.exp(-event.deltaY * NOTCH));
    };
    box.addEventListener("wheel", wheel, { passive: false });
    return () => box.removeEventListener("wheel", wheel);
  }, [element, left, width, rows]);
}
