import { answersOf, changeGive, changeKnock, dragAnswer, eventOf, LAID } from "../../desk/answers";
import type { Member } from "../../desk/store";
import { type RuleRow, RuleRows } from "../../desk/widgets/RuleRows";
import type { Room } from "../../model/time";
import { givesOf, knocksOf } from "../../model/types";
import { answered } from "./answered";

/** Frames back of an answer that was dragged: what comes at once stays as quick, and goes as slowly as is left. */
const backIn = (span: { start: number; end: number; back: number }, first: number, last: number) =>
  Math.max(span.back + (last - first) - (span.end - span.start), 1);

/** How the figure answers, on the strip's frames. */
export function AnswerRows({ member, room }: { member: Member; room: Room }) {
  const rows = answered(member).map(({ kind, control }): RuleRow => {
    const of = control ? (member.controls.get(control)?.label ?? control) : "";
    const key = `${kind} ${control}`;
    if (kind !== "give" && kind !== "knock") {
      const what = of ? `${LAID[kind].what}, ${of}` : LAID[kind].what;
      const spans = answersOf(member)
        .filter((one) => one.kind === kind && one.control === control)
        .map((one) => ({
          span: one.span,
          onMoved: (first: number, last: number) => void dragAnswer(member, one, first, last),
        }));
      return { key, label: what, what, spans };
    }
    if (kind === "give") {
      const spans = givesOf(member.clip).map((span) => ({
        span,
        onMoved: (first: number, last: number) => {
          const event = span.before ? last : first;
          // Dragged away from its event, it does not go along with that any more.
          const away = event === eventOf(span) ? {} : { of: "", speed: 0 };
          void changeGive(member, span, { event, back: backIn(span, first, last), ...away });
        },
      }));
      return { key, label: "Gives", what: "Gives", spans };
    }
    const spans = knocksOf(member.clip)
      .filter((knock) => knock.control === control)
      .map((knock) => ({
        span: knock.span,
        onMoved: (first: number, last: number) =>
          void changeKnock(member, knock, { start: first, back: backIn(knock.span, first, last) }),
      }));
    return { key, label: `Blow, ${of}`, what: `Blow on ${of}`, spans };
  });
  return <RuleRows name="Answers" rows={rows} room={room} />;
}
