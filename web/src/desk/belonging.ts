// What controls belong to: where it is told, and how it is changed.
import { commit, here } from "./steps";
import type { Member } from "./store";
import type { Belonging } from "../model/types";

const TRACK = "belonging/";

/** The controls of the cast that belong to something at some time. */
export const belongingRows = (cast: Member[]): { member: Member; control: string }[] =>
  cast.flatMap((member) =>
    Object.keys(member.clip.tracks)
      .filter((track) => track.startsWith(TRACK) && member.controls.has(track.slice(TRACK.length)))
      .map((track) => ({ member, control: track.slice(TRACK.length) })),
  );

export function changeBelonging(member: Member, control: string, span: Belonging, now: Partial<Belonging>) {
  const { start, end, ties, weight, ease_in, ease_out } = { ...span, ...now };
  return commit(
    { kind: "rebelong", control, at: span.start, start, end, ties, weight, ease_in, ease_out },
    { ...here(), casting: member.id },
  );
}
