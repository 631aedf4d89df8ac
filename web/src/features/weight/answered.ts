// Which rows of answers stand on the strip.
import { type AnswerKind, answersOf } from "../../desk/answers";
import type { Member } from "../../desk/store";
import { givesOf, knocksOf } from "../../model/types";

const MOST = 5;
/** A row of answers on the strip: of a kind, and of a control where it is about one. */
export interface AnswerRow {
  kind: "give" | "knock" | AnswerKind;
  control: string;
}
/** Rows that the answers of a figure have on the strip. */
export function answered(member: Member): AnswerRow[] {
  const all: AnswerRow[] = [
    ...givesOf(member.clip).map(() => ({ kind: "give" as const, control: "" })),
    ...knocksOf(member.clip).map(({ control }) => ({ kind: "knock" as const, control })),
    ...answersOf(member).map(({ kind, control }) => ({ kind, control })),
  ];
  const rows = new Map(all.map((row) => [`${row.kind} ${row.control}`, row]));
  return [...rows.values()].slice(0, MOST);
}
