import { changeBlink, changeGaze } from "../../desk/gazes";
import type { Member } from "../../desk/store";
import { type RuleRow, RuleRows } from "../../desk/widgets/RuleRows";
import type { Room } from "../../model/time";
import { blinksOf, gazesOf } from "../../model/types";
import { facedRows } from "./rows";

/** Gazes and blinks on the strip's frames. */
export function FaceRows({ member, room }: { member: Member; room: Room }) {
  const rows = facedRows(member).map((key): RuleRow => {
    if (key === "blink") {
      const spans = blinksOf(member.clip).map((span) => ({
        span,
        onMoved: (start: number, end: number) => void changeBlink(member, span, { start, frames: end - start }),
      }));
      return { key, label: "Blinks", what: "Blink", spans };
    }
    const control = key.slice("gaze/".length);
    const name = control ? (member.controls.get(control)?.label ?? control) : "";
    const spans = gazesOf(member.clip)
      .filter((one) => one.control === control)
      .map((one) => ({
        span: one.span,
        onMoved: (start: number, end: number) => void changeGaze(member, one, { start, end }),
      }));
    return { key, label: name ? `Aims ${name}` : "Looks", what: name ? `${name} aimed` : "Look", spans };
  });
  return <RuleRows name="Gazes and blinks" rows={rows} room={room} />;
}
