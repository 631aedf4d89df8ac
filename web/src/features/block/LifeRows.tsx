import { changeLiving, changeShake } from "../../desk/life";
import type { Member } from "../../desk/store";
import { type RuleRow, RuleRows } from "../../desk/widgets/RuleRows";
import type { Room } from "../../model/time";
import { livingsOf, shakesOf, springsOf } from "../../model/types";
import { changeSpring } from "../../desk/springs";
import { rowed, SPRING } from "./rowed";

/** Living holds, springs and shakes on the strip's frames. */
export function LifeRows({ member, room }: { member: Member; room: Room }) {
  const rows = rowed(member).map((control): RuleRow => {
    if (!control) {
      const spans = livingsOf(member.clip).map((span) => ({
        span,
        onMoved: (start: number, end: number) => void changeLiving(member, span, { start, end }),
      }));
      return { key: "", label: "Living hold", what: "Living hold", spans };
    }
    if (control.startsWith(SPRING)) {
      const about = control.slice(SPRING.length);
      const label = (member.controls.get(about)?.label ?? about).replace(/, all of it$/, "");
      const swings = springsOf(member.clip)
        .filter((spring) => spring.control === about)
        .map((spring) => ({
          span: spring.span,
          onMoved: (start: number, end: number) => void changeSpring(member, spring, { start, end }),
        }));
      return { key: control, label: `Spring, ${label}`, what: `Spring on ${label}`, spans: swings };
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
