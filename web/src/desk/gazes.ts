// What somebody looks at over a stretch, and blinks.
import { stretchChosen } from "./life";
import { commit, here } from "./steps";
import { desk, type Member } from "./store";
import { type Blink, blinksOf, type Gaze, gazesOf } from "../model/types";
import type { OwnerOf } from "./widgets/Owner";

/** A gaze with the control that is aimed by it; a figure that looks has none. */
export interface Looking {
  control: string;
  span: Gaze;
}

export const gazesAt = (member: Member, frame: number): Looking[] =>
  gazesOf(member.clip).filter(({ span }) => span.start <= frame && frame <= span.end);

/** What a change of a gaze is made of. */
export function gazeEdit({ control, span }: Looking, now: Partial<Gaze>) {
  const { start, end, figure, to, x, y, z, eyes, head, chest, lead, ease_in, ease_out, share, axis, muted } = {
    ...span,
    ...now,
  };
  const told = { start, end, figure, to, x, y, z, eyes, head, chest, lead, ease_in, ease_out, share, axis, muted };
  return { kind: "gaze" as const, control, at: span.start, ...told };
}

export const changeGaze = (member: Member, looking: Looking, now: Partial<Gaze>) =>
  commit(gazeEdit(looking, now), { ...here(), casting: member.id });

const DEGREE = Math.PI / 180;
/** As a new one begins (common practice): eyes first, three frames before the head. */
const USUAL = { eyes: 18 * DEGREE, head: 60 * DEGREE, chest: 20 * DEGREE, lead: 3, ease_in: 6, ease_out: 6, share: 1 };
/** Metres ahead of a face: what is looked at without a thing. */
const AHEAD = 3;

export function layGaze(member: Member, control: string, owner: OwnerOf) {
  const { frame } = desk();
  const where = owner.control ? { x: 0, y: 0, z: 0 } : ahead(member, frame);
  return commit({
    kind: "gaze",
    control,
    at: null,
    ...stretchChosen(),
    figure: owner.figure,
    to: owner.control,
    ...where,
    ...USUAL,
    axis: "z",
    muted: false,
  });
}

/** A place straight ahead of who looks, as they stand now. */
function ahead(member: Member, frame: number): { x: number; y: number; z: number } {
  const number = Math.max(
    member.rig.controls.findIndex((c) => c.name === "head"),
    0,
  );
  const [x, y, z, qx, qy, qz, qw] = member.motion.controlAt(frame, number);
  const way = [2 * (qx * qz + qw * qy), 2 * (qy * qz - qw * qx), 1 - 2 * (qx * qx + qy * qy)];
  const round = (v: number) => Math.round(v * 100) / 100;
  return { x: round(x + AHEAD * way[0]), y: round(y + AHEAD * way[1]), z: round(z + AHEAD * way[2]) };
}

export const blinkAt = (member: Member, frame: number): Blink | undefined =>
  blinksOf(member.clip).find((span) => span.start <= frame && frame <= span.end);

export const layBlink = (frames: number, pose: number | null) =>
  commit({ kind: "blink", at: null, start: desk().frame, frames, pose, muted: false });

export const changeBlink = (member: Member, span: Blink, now: Partial<{ start: number; frames: number }>) =>
  commit(
    {
      kind: "blink",
      at: span.start,
      start: span.start,
      frames: span.end - span.start,
      pose: null,
      muted: span.muted,
      ...now,
    },
    { ...here(), casting: member.id },
  );
