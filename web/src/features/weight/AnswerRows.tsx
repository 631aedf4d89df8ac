import { changeGive, changeKnock } from "../../desk/answers";
import type { Member } from "../../desk/store";
import { type RuleRow, RuleRows } from "../../desk/widgets/RuleRows";
import type { Room } from "../../model/time";
import { givesOf, knocksOf } from "../../model/types";
import { answered } from "./rows";

/** Frames back of an answer that was dragged: what comes at once stays as quick, and goes as slowly as is left. */
const backIn = (span: { start: number; end: number; back: number }, first: number, last: number) =>
  Math.max(span.back + (last - first) - (span.end - span.start), 1);

/** How the figure answers, on the strip's frames. */
export function AnswerRows({ member, room }: { member: Member; room: Room }) {
  const rows = answered(member).map((control): RuleRow => {
    if (!control) {
      const spans = givesOf(member.clip).map((span) => ({
        span,
        onMoved: (first: number, last: number) =>
          void changeGive(member, span, { event: span.before ? last : first, back: backIn(span, first, last) }),
      }));
      return { key: "", label: "Gives", what: "Gives", spans };
    }
    const name = member.controls.get(control)?.label ?? control;
    const spans = knocksOf(member.clip)
      .filter((knock) => knock.control === control)
      .map((knock) => ({
        span: knock.span,
        onMoved: (first: number, last: number) =>
          void changeKnock(member, knock, { start: first, back: backIn(knock.span, first, last) }),
      }));
    return { key: control, label: `Blow, ${name}`, what: `Blow on ${name}`, spans };
  });
  return <RuleRows name="Answers" rows={rows} room={room} />;
}
