// Living holds: what is laid over a stretch to keep a held figure alive.
import { commit, here } from "./steps";
import { desk, type Member } from "./store";
import { type Living, livingsOf } from "../model/types";

/** What a living hold is of, by name: as angles in degrees, the shift in millimetres. */
export const AMOUNTS = ["breath", "trunk", "head", "arms"] as const;
export type Amount = (typeof AMOUNTS)[number];

/** As a new one begins: seen, and no more than that. */
export const USUAL = { breath: 0.8, trunk: 0.6, head: 0.8, arms: 0.6, shift: 4, period: 72, seed: 1, fade: 12 };

/** The one that lies on a frame. */
export const livingAt = (member: Member, frame: number): Living | undefined =>
  livingsOf(member.clip).find((span) => span.start <= frame && frame <= span.end);

/** Over the chosen columns, or what is played. */
export function stretchChosen(): { start: number; end: number } {
  const { columns, shot } = desk();
  if (columns.length > 1) return { start: columns[0], end: columns[columns.length - 1] };
  return { start: shot?.play_start ?? 1, end: shot?.play_end ?? 24 };
}

const told = (span: Living) => {
  const { start, end, breath, trunk, head, arms, shift, period, seed, fade, muted } = span;
  return { start, end, breath, trunk, head, arms, shift, period, seed, fade, muted };
};

export const livingEdit = (span: Living, now: Partial<Living>) => ({
  kind: "living" as const,
  at: span.start,
  ...told({ ...span, ...now }),
});

export const changeLiving = (member: Member, span: Living, now: Partial<Living>) =>
  commit(livingEdit(span, now), { ...here(), casting: member.id });

const radians = (degrees: number) => (degrees * Math.PI) / 180;

export function layLiving() {
  const { breath, trunk, head, arms, shift, period, seed, fade } = USUAL;
  const turned = { breath: radians(breath), trunk: radians(trunk), head: radians(head), arms: radians(arms) };
  const over = stretchChosen();
  return commit({
    kind: "living",
    at: null,
    ...over,
    ...turned,
    shift: shift / 1000,
    period,
    seed,
    fade,
    muted: false,
  });
}
