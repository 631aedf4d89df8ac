// What happens to a figure, looked up anew after each step; and how it answers: it gives, or takes a blow.
import { ask, http } from "../api/client";
import { commitNumber } from "./amounts";
import { shaken } from "./life";
import { framesNear, useLookUp } from "./looking";
import { commit, here } from "./steps";
import { desk, type Member, useDesk } from "./store";
import { type Sized, stored } from "../model/amounts";
import {
  type AnyEdit,
  type CarryThrough,
  type Counter,
  type FootDown,
  type Give,
  givesOf,
  type Happening,
  type Knock,
  knocksOf,
  spansAbout,
  spansOn,
} from "../model/types";

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
  const { before, drop, there, back, muted, of, speed } = { ...span, ...now };
  return {
    kind: "give",
    at: span.start,
    event: now.event ?? eventOf(span),
    before,
    drop,
    there,
    back,
    muted,
    of,
    speed,
  };
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

/** Answers that are laid by numbers of their own, by kind. */
export interface Spans {
  "carry-through": CarryThrough;
  "foot down": FootDown;
  counter: Counter;
}
export type AnswerKind = keyof Spans;
/** A number of an answer: its word, its unit, and in how many digits it is read; frames are whole. */
export interface Part<S> {
  key: keyof S & string;
  label: string;
  unit: "°" | "mm" | "%" | "frames";
  /** By which slider it is tried, seen while it is dragged; none where it is typed. */
  slid?: Sized;
}
interface Laid<S extends { start: number; end: number }> {
  title: string;
  /** What a person calls the answer on the strip. */
  what: string;
  parts: Part<S>[];
  event: (span: S) => number;
  edit: (span: S, control: string, now: Partial<S> & { event?: number }) => AnyEdit;
  /** The edit of one that was dragged so that it goes from `first` to `last`. */
  dragged: (span: S, control: string, first: number, last: number) => AnyEdit;
}

const firstOf = (span: Counter) => span.start + span.there;
const lastOf = (span: Counter) => span.end - span.back;
const downAt = (span: FootDown) => Math.min(span.start + span.lead, span.end - 1);

function throughEdit(span: CarryThrough, now: Partial<CarryThrough> & { event?: number; frames?: number }): AnyEdit {
  const { late, overshoot, times, nod, twist, tilt, factor, muted, of, speed } = { ...span, ...now };
  const event = now.event ?? span.start;
  const frames = now.frames ?? span.end - span.start;
  const given = { late, overshoot, times, nod, twist, tilt, factor, muted, of, speed };
  return { kind: "carry-through", at: span.start, event, frames, ...given };
}
function footEdit(control: string, span: FootDown, now: Partial<FootDown> & { event?: number }): AnyEdit {
  const { lead, flat, there, back, drop, nod, toes, muted, of, speed } = { ...span, ...now };
  const event = now.event ?? downAt(span);
  const given = { lead, flat, there, back, drop, nod, toes, muted, of, speed };
  return { kind: "foot down", control, at: span.start, event, ...given };
}
function counterEdit(span: Counter, now: Partial<Counter> & { first?: number; last?: number }): AnyEdit {
  const { there, back, muted, moving } = { ...span, ...now };
  const [first, last] = [now.first ?? firstOf(span), now.last ?? lastOf(span)];
  return { kind: "counter", at: span.start, first, last, there, back, moving, muted };
}

export const LAID: { [K in AnswerKind]: Laid<Spans[K]> } = {
  "carry-through": {
    title: "Carries through",
    what: "Carries through",
    parts: [
      { key: "nod", label: "Ahead", unit: "°", slid: "ahead" },
      { key: "tilt", label: "Aside", unit: "°", slid: "ahead" },
      { key: "twist", label: "Round", unit: "°", slid: "ahead" },
      { key: "late", label: "Late", unit: "frames" },
      { key: "overshoot", label: "Past it", unit: "%", slid: "past" },
      { key: "times", label: "Swings", unit: "frames" },
    ],
    event: (span) => span.start,
    edit: (span, _, now) => throughEdit(span, now),
    dragged: (span, _, first, last) => throughEdit(span, { event: first, frames: last - first, ...left(span, first) }),
  },
  "foot down": {
    title: "Comes down",
    what: "Comes down",
    parts: [
      { key: "toes", label: "Toes up", unit: "°", slid: "toes" },
      { key: "flat", label: "Flat after", unit: "frames" },
      { key: "drop", label: "Dips", unit: "mm", slid: "dips" },
      { key: "there", label: "Down in", unit: "frames" },
      { key: "nod", label: "Head", unit: "°", slid: "ahead" },
      { key: "back", label: "Back in", unit: "frames" },
    ],
    event: downAt,
    edit: (span, control, now) => footEdit(control, span, now),
    dragged: (span, control, first, last) => {
      const longer = last - first - (span.end - span.start);
      const event = downAt(span) + first - span.start;
      return footEdit(control, span, { event, back: Math.max(span.back + longer, 1), ...left(span, first) });
    },
  },
  counter: {
    title: "Leans against it",
    what: "Leans",
    parts: [
      { key: "there", label: "Comes in", unit: "frames" },
      { key: "back", label: "Goes in", unit: "frames" },
    ],
    event: firstOf,
    edit: (span, _, now) => counterEdit(span, now),
    dragged: (span, _, first, last) => {
      const from = first + span.there;
      return counterEdit(span, { first: from, last: Math.max(last - span.back, from) });
    },
  },
};
/** What was dragged away from its event does not go along with it any more. */
const left = (span: { start: number }, first: number) => (first === span.start ? {} : { of: "", speed: 0 });

export interface Answering<K extends AnswerKind = AnswerKind> {
  kind: K;
  control: string;
  span: Spans[K];
}
export const ANSWER_KINDS = Object.keys(LAID) as AnswerKind[];
/** All that are laid by numbers of their own, kind by kind. */
export const answersOf = (member: Member): Answering[] =>
  ANSWER_KINDS.flatMap((kind) => {
    const alone = spansOn<Spans[typeof kind]>(member.clip, kind).map((span) => ({ kind, control: "", span }));
    return [...alone, ...spansAbout<Spans[typeof kind]>(member.clip, kind).map((one) => ({ kind, ...one }))];
  });
export const answersAt = (member: Member, frame: number) => answersOf(member).filter(({ span }) => on(span, frame));
const laid = <K extends AnswerKind>(one: Answering<K>) => LAID[one.kind] as Laid<Spans[K]>;
export const answerTitle = (one: Answering) => laid(one).title;
export const answerParts = (one: Answering) =>
  laid(one).parts as { key: string; label: string; unit: Part<never>["unit"]; slid?: Sized }[];
export const answerEvent = (one: Answering) => laid(one).event(one.span);
export const answerEdit = (one: Answering, now: Record<string, unknown>): AnyEdit =>
  laid(one).edit(one.span, one.control, now as Partial<Spans[AnswerKind]>);
export const changeAnswer = (member: Member, one: Answering, now: Record<string, unknown>) =>
  commit(answerEdit(one, now), { ...here(), casting: member.id });
export const dragAnswer = (member: Member, one: Answering, first: number, last: number) =>
  commit(laid(one).dragged(one.span, one.control, first, last), { ...here(), casting: member.id });

/** The events that are answered by one of a kind of edit. */
export const answeredBy = (member: Member, edit: AnyEdit): boolean => {
  const at = (edit as { event?: number }).event;
  if (edit.kind === "give") return givesOf(member.clip).some((span) => eventOf(span) === at);
  const control = (edit as { control?: string }).control ?? "";
  return answersOf(member).some((one) => one.kind === edit.kind && one.control === control && answerEvent(one) === at);
};

/** Trunk and arms that lean against a fall at a frame and those beside on which it would. */
export const leanAt = (first: number, last: number, moving: boolean): AnyEdit => ({
  kind: "counter",
  at: null,
  first,
  last,
  there: 4,
  back: 6,
  moving,
  muted: false,
});
