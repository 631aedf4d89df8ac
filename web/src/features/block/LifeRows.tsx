import { changeLiving, changeShake } from "../../desk/life";
import type { Member } from "../../desk/store";
import { type RuleRow, RuleRows } from "../../desk/widgets/RuleRows";
import type { Room } from "../../model/time";
import { livingsOf, shakesOf } from "../../model/types";
import { rowed } from "./rowed";

/** Living holds and shakes on the strip's frames. */
export function LifeRows({ member, room }: { member: Member; room: Room }) {
  const rows = rowed(member).map((control): RuleRow => {
    if (!control) {
      const spans = livingsOf(member.clip).map((span) => ({
        span,
        onMoved: (start: number, end: number) => void changeLiving(member, span, { start, end }),
      }));
      return { key: "", label: "Living hold", what: "Living hold", spans };
    }
    const name = member.controls.get(control)?.label ?? control;
    const spans = shakesOf(member.clip)
      .filter((shake) => shake.control === control)
      .map((shake) => ({
        span: shake.span,
        onMoved: (start: number, end: number) => void changeShake(member, shake, { start, end }),
      }));
    return { key: control, label: `Shake, ${name}`, what: `Shake of ${name}`, spans };
  });
  return <RuleRows name="Laid over by rule" rows={rows} room={room} />;
}
