// What happens to a figure, looked up anew after each step; and how it answers: it gives, or takes a blow.
import { ask, http } from "../api/client";
import { commitNumber } from "./amounts";
import { shaken } from "./life";
import { framesNear, useLookUp } from "./looking";
import { commit, here } from "./steps";
import { desk, type Member, useDesk } from "./store";
import { stored } from "../model/amounts";
import { type AnyEdit, type Give, givesOf, type Happening, type Knock, knocksOf } from "../model/types";

/** What happens to a figure on the frames that are played. */
export function useHappenings(member: Member) {
  const shot = useDesk((s) => s.shot);
  const frames = shot ? framesNear(shot) : { first: 1, last: 1 };
  return useLookUp({
    what: "happenings",
    of: [member.id, frames.first, frames.last],
    ask: (take_id) =>
      ask(
        http.GET("/api/takes/{take_id}/happenings", {
          params: { path: { take_id }, query: { casting: member.id, ...frames } },
        }),
      ) as Promise<Happening[]>,
    enabled: !!shot && !member.prop,
  });
}

const on = (span: { start: number; end: number }, frame: number) => span.start <= frame && frame <= span.end;

/** A blow with the control on which it lands. */
export interface Knocking {
  control: string;
  span: Knock;
}
export const giveAt = (member: Member, frame: number): Give | undefined =>
  givesOf(member.clip).find((span) => on(span, frame));
export const knocksAt = (member: Member, frame: number): Knocking[] =>
  knocksOf(member.clip).filter(({ span }) => on(span, frame));

/** Where a give answers: its last frame before a take-off, else its first. */
export const eventOf = (span: Give) => (span.before ? span.end : span.start);

export function giveEdit(span: Give, now: Partial<Give> & { event?: number }): AnyEdit {
  const { before, drop, there, back, muted } = { ...span, ...now };
  return { kind: "give", at: span.start, event: now.event ?? eventOf(span), before, drop, there, back, muted };
}
export const changeGive = (member: Member, span: Give, now: Partial<Give> & { event?: number }) =>
  commit(giveEdit(span, now), { ...here(), casting: member.id });
export const weighGive = (member: Member, span: Give, shown: number) =>
  commitNumber(giveEdit(span, { drop: stored("drop", shown) }), "drop", shown, { ...here(), casting: member.id });

const BLOW = { there: 2, back: 8, aside: 0, up: 0, forth: 0, nod: -0.14, twist: 0, tilt: 0, factor: 0.6, late: 0.5 };
export const blowOn = (member: Member): AnyEdit => ({
  kind: "knock",
  control: shaken(member),
  at: null,
  event: desk().frame,
  ...BLOW,
  muted: false,
});
export function knockEdit({ control, span }: Knocking, now: Partial<Knock>): AnyEdit {
  const { start, there, back, aside, up, forth, nod, twist, tilt, factor, late, muted } = { ...span, ...now };
  return {
    kind: "knock",
    control,
    at: span.start,
    event: start,
    there,
    back,
    aside,
    up,
    forth,
    nod,
    twist,
    tilt,
    factor,
    late,
    muted,
  };
}
export const changeKnock = (member: Member, knocking: Knocking, now: Partial<Knock>) =>
  commit(knockEdit(knocking, now), { ...here(), casting: member.id });
