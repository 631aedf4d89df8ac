// What is laid over a stretch by rule: living holds, and shakes.
import { commitNumber } from "./amounts";
import { commit, here } from "./steps";
import { desk, type Member } from "./store";
import { BREATHING, SHAKING, type Sized, stored } from "../model/amounts";
import { type Living, livingsOf, type Shake, shakesOf } from "../model/types";

/** As a new one begins, in degrees and millimetres: seen, and no more than that. */
const USUAL = { breath: 0.8, trunk: 0.6, head: 0.8, arms: 0.6, shift: 4 };
const SWING = { period: 72, seed: 1, fade: 12 };

const sizes = <S extends Sized>(fields: readonly S[], shown: Record<S, number>) =>
  Object.fromEntries(fields.map((field) => [field, stored(field, shown[field])])) as Record<S, number>;

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
/** Changes how much of one thing there is, in degrees or millimetres: again and again is one step. */
export const weighLiving = (member: Member, span: Living, field: (typeof BREATHING)[number], shown: number) =>
  commitNumber(livingEdit(span, { [field]: stored(field, shown) }), field, shown, { ...here(), casting: member.id });

export const layLiving = () =>
  commit({ kind: "living", at: null, ...stretchChosen(), ...sizes(BREATHING, USUAL), ...SWING, muted: false });

/** A shake with the control in which it begins. */
export interface Shaking {
  control: string;
  span: Shake;
}

export const shakesAt = (member: Member, frame: number): Shaking[] =>
  shakesOf(member.clip).filter(({ span }) => span.start <= frame && frame <= span.end);

/** Where a new one begins: in what is selected, or in the hips; of a prop in what it is moved by. */
export function shaken(member: Member): string {
  const { selection, activeId } = desk();
  if (member.id === activeId && selection.length) return selection[0];
  const of = (kind: string) => member.rig.controls.find((control) => control.kind === kind)?.name;
  return of("trunk") ?? of("body") ?? member.rig.controls[0].name;
}

/** From the chosen columns, or from the playhead for a second. */
export function stretchShaken(): { start: number; end: number } {
  const { columns, shot, frame } = desk();
  if (columns.length > 1) return { start: columns[0], end: columns[columns.length - 1] };
  return {
    start: frame,
    end: Math.max(Math.min(frame + Math.round(shot?.fps ?? 24), shot?.end ?? frame + 24), frame + 1),
  };
}

/** What a change of a shake is made of. */
export function shakeEdit({ control, span }: Shaking, now: Partial<Shake>) {
  const { start, end, aside, up, forth, nod, twist, tilt, period, half, factor, seed, muted } = { ...span, ...now };
  const told = { start, end, aside, up, forth, nod, twist, tilt, period, half, factor, seed, muted };
  return { kind: "shake" as const, control, at: span.start, ...told };
}

export const changeShake = (member: Member, shaking: Shaking, now: Partial<Shake>) =>
  commit(shakeEdit(shaking, now), { ...here(), casting: member.id });
export const weighShake = (
  member: Member,
  shaking: Shaking,
  field: (typeof SHAKING)[number] | "factor",
  shown: number,
) =>
  commitNumber(shakeEdit(shaking, { [field]: stored(field, shown) }), field, shown, { ...here(), casting: member.id });

/** As a new one begins, in millimetres and degrees. */
const FIRST = { aside: 6, up: 0, forth: 4, nod: 1.5, twist: 1, tilt: 1 };
const DYING = { period: 5, half: 6, factor: 0.5 };

export const layShake = (member: Member) =>
  commit({
    kind: "shake",
    control: shaken(member),
    at: null,
    ...stretchShaken(),
    ...sizes(SHAKING, FIRST),
    ...DYING,
    seed: 1,
    muted: false,
  });
