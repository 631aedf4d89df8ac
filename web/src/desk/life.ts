// What is laid over a stretch by rule: living holds, and shakes.
import { commitNumber } from "./amounts";
import { commit, here } from "./steps";
import { desk, type Member } from "./store";
import { type Living, livingsOf, type Shake, shakesOf } from "../model/types";

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
/** Changes how much of one thing there is, in degrees or millimetres: again and again is one step. */
export const weighLiving = (member: Member, span: Living, field: Amount | "shift", shown: number) =>
  commitNumber(livingEdit(span, { [field]: stored(field, shown) }), field, shown, { ...here(), casting: member.id });
/** What is shown in degrees, millimetres or percent as it is stored. */
export const stored = (field: string, shown: number) =>
  field === "factor" ? shown / 100 : ["shift", ...SHIFTS].includes(field) ? shown / 1000 : radians(shown);

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

/** The ways of a shake: places in metres, turns in radians. */
export const SHIFTS = ["aside", "up", "forth"] as const;
export const TURNS = ["nod", "twist", "tilt"] as const;
export type Way = (typeof SHIFTS)[number] | (typeof TURNS)[number];

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
export const weighShake = (member: Member, shaking: Shaking, field: Way | "factor", shown: number) =>
  commitNumber(shakeEdit(shaking, { [field]: stored(field, shown) }), field, shown, { ...here(), casting: member.id });

const FIRST = { aside: 6, forth: 4, nod: 1.5, twist: 1, tilt: 1, period: 5, half: 6, factor: 0.5 };

export function layShake(member: Member) {
  const { aside, forth, nod, twist, tilt, period, half, factor } = FIRST;
  return commit({
    kind: "shake",
    control: shaken(member),
    at: null,
    ...stretchShaken(),
    aside: aside / 1000,
    up: 0,
    forth: forth / 1000,
    nod: radians(nod),
    twist: radians(twist),
    tilt: radians(tilt),
    period,
    half,
    factor,
    seed: 1,
    muted: false,
  });
}
