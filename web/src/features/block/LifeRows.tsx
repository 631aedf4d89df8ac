import { changeLiving, changeShake, livingAt } from "../../desk/life";
import { go } from "../../desk/playing";
import { canChange, type Member, useDesk } from "../../desk/store";
import { usePlace } from "../../desk/time";
import type { Room } from "../../model/time";
import { livingsOf, shakesOf } from "../../model/types";
import { useInks } from "../../ui/look";
import { rowed } from "./rowed";
import { type Row, type RowSpan, SpanRows } from "../../ui/SpanRows";

/** What is laid over by rule, on the strip's frames: moved by the middle, made longer by the ends. */
export function LifeRows({ member, room }: { member: Member; room: Room }) {
  const place = usePlace(room);
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const shot = useDesk((s) => s.shot)!;
  const frame = useDesk((s) => s.frame);
  const living = livingAt(member, frame);
  const spanOf = (what: string, span: { start: number; end: number; muted: boolean }, chosen: boolean): RowSpan => ({
    start: span.start,
    end: span.end,
    label: `${what} ${span.start} to ${span.end}${span.muted ? ", muted" : ""}`,
    text: span.muted ? "muted" : "",
    soft: true,
    stored: true,
    chosen,
  });
  const rows = rowed(member).map((control): Row => {
    if (!control) {
      const spans = livingsOf(member.clip).map((span) => spanOf("Living hold", span, span === living));
      return { key: "", label: "Living hold", tone: ink.ink, spans };
    }
    const name = member.controls.get(control)?.label ?? control;
    const spans = shakesOf(member.clip).filter((shake) => shake.control === control);
    return {
      key: control,
      label: `Shake, ${name}`,
      tone: ink.ink,
      spans: spans.map(({ span }) => spanOf(`Shake of ${name}`, span, span.start <= frame && frame <= span.end)),
    };
  });
  return (
    <SpanRows
      name="Laid over by rule"
      rows={rows}
      range={[shot.start, shot.end]}
      place={place}
      editable={editable}
      onChange={({ key }, { start }, first, last) => {
        const now = { start: first, end: last };
        const hold = key ? undefined : livingsOf(member.clip).find((span) => span.start === start);
        const shake = shakesOf(member.clip).find(({ control, span }) => control === key && span.start === start);
        if (hold) void changeLiving(member, hold, now);
        if (shake) void changeShake(member, shake, now);
      }}
      onChoose={(_, span, at) => span && go(at)}
    />
  );
}
