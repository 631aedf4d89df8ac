import { changeLiving, livingAt } from "../../desk/living";
import { go } from "../../desk/playing";
import { canChange, type Member, useDesk } from "../../desk/store";
import { usePlace } from "../../desk/time";
import type { Frame } from "../../model/time";
import { livingsOf } from "../../model/types";
import { useInks } from "../../ui/look";
import { type Row, SpanRows } from "../../ui/SpanRows";

/** The living holds on the strip's frames: moved by their middle, made longer by their ends. */
export function LivingRows({ member, frame: lies }: { member: Member; frame: Frame }) {
  const place = usePlace(lies);
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const shot = useDesk((s) => s.shot)!;
  const frame = useDesk((s) => s.frame);
  const here = livingAt(member, frame);
  const row: Row = {
    key: "living",
    label: "Living hold",
    tone: ink.ink,
    spans: livingsOf(member.clip).map((span) => ({
      start: span.start,
      end: span.end,
      label: `Living hold ${span.start} to ${span.end}${span.muted ? ", muted" : ""}`,
      text: span.muted ? "muted" : "",
      soft: true,
      stored: true,
      chosen: span === here,
    })),
  };
  return (
    <SpanRows
      name="Living holds"
      rows={[row]}
      range={[shot.start, shot.end]}
      place={place}
      editable={editable}
      onChange={(_, { start }, first, last) => {
        const span = livingsOf(member.clip).find((s) => s.start === start);
        if (span) void changeLiving(member, span, { start: first, end: last });
      }}
      onChoose={(_, span, at) => span && go(at)}
    />
  );
}
