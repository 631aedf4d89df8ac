// Several of the cast meant at once: who joins the one that the tools act on, and one step for all of them.
import { keyFrames } from "../model/columns";
import type { AnyEdit } from "../model/types";
import { withLayer } from "./layers";
import { commit, here, say } from "./steps";
import { active, desk, type DeskState, joined, type Member, setDesk } from "./store";

/** One of the cast that is meant, and which of its controls; null is the whole of it. */
export interface Meant {
  member: Member;
  controls: string[] | null;
}

/** Takes one of the cast in as a whole, or lets it go. */
export function toggleJoined(member: Member) {
  const company = { ...desk().company };
  if (member.id in company) delete company[member.id];
  else company[member.id] = [];
  setDesk({ company, keysBeside: {} });
}
export const joinAll = () =>
  setDesk({
    company: Object.fromEntries(desk().cast.map((member) => [member.id, desk().company[member.id] ?? []])),
    keysBeside: {},
  });
export const joinNobody = () => setDesk({ company: {}, keysBeside: {} });

/** The active one and those that join it: each as a whole, or (nobody by nothing) by what is selected of it. */
export function meantBy(whole: boolean): Meant[] {
  const member = active();
  if (!member) return [];
  const { selection, company } = desk();
  const own = whole ? [{ member, controls: null }] : selection.length ? [{ member, controls: selection }] : [];
  const others = joined().map((other): Meant => {
    const chosen = company[other.id];
    return { member: other, controls: whole || !chosen.length ? null : chosen };
  });
  return [...own, ...others];
}

/** Who is meant by edits of poses, as *Parts* says. Says why when nobody is. */
export function meant(): Meant[] {
  const found = meantBy(desk().parts === "whole");
  if (active() && !found.length)
    say("Nothing is selected, and the parts are set to “selection”: select some, or choose the whole character.");
  return found;
}

/** Who is meant, in words for the bar. */
export function meantSaid(s: DeskState): string {
  const others = joined(s);
  const name = active(s)?.name ?? "nobody";
  if (!others.length) return name;
  return others.length === 1 ? `${name} and ${others[0].name}` : `${name} and ${others.length} more`;
}

/** One step for all who are meant; those for whom there is nothing to do are passed over. */
export function commitFor(who: Meant[], make: (one: Meant) => AnyEdit | null): Promise<boolean> {
  return commitTogether(
    who.flatMap((one) => {
      const edit = make(one);
      return edit ? [{ member: one.member, edit }] : [];
    }),
  );
}

/** Several edits in one step, in their order, each of one of the cast; `whole`: all of them or none. */
export function commitTogether(parts: { member: Member; edit: AnyEdit }[], whole = false): Promise<boolean> {
  if (!parts.length) return Promise.resolve(false);
  const place = { ...here(), casting: parts[0].member.id };
  if (parts.length === 1) return commit(parts[0].edit, place);
  return commit(
    {
      kind: "together",
      anyway: false,
      whole,
      parts: parts.map(({ member, edit }) => ({ casting: member.id, edit: withLayer(edit, member) })),
    } as AnyEdit,
    place,
  );
}

/** Of those who are meant, who has keys on some frames; all of them where none has. */
export function keyedOn(who: Meant[], frames: number[]): Meant[] {
  const wanted = new Set(frames);
  const found = who.filter(({ member }) => keyFrames(member).some((frame) => wanted.has(frame)));
  return found.length ? found : who;
}
