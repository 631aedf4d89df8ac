import { go } from "../playing";
import { canChange, useDesk } from "../store";
import { usePlace } from "../time";
import type { Room } from "../../model/time";
import { useInks } from "../../ui/look";
import { SpanRows } from "../../ui/SpanRows";

interface Ruled {
  start: number;
  end: number;
  muted: boolean;
}
/** A row of spans that are laid over by rule: what each is called, and what becomes of one that is dragged. */
export interface RuleRow {
  key: string;
  label: string;
  what: string;
  spans: { span: Ruled; onMoved: (first: number, last: number) => void }[];
}

/** What is laid over by rule, on the strip's frames: moved by the middle, made longer by the ends. */
export function RuleRows({ name, rows, room }: { name: string; rows: RuleRow[]; room: Room }) {
  const place = usePlace(room);
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const shot = useDesk((s) => s.shot)!;
  const frame = useDesk((s) => s.frame);
  return (
    <SpanRows
      name={name}
      rows={rows.map(({ key, label, what, spans }) => ({
        key,
        label,
        tone: ink.ink,
        spans: spans.map(({ span: { start, end, muted } }) => ({
          start,
          end,
          label: `${what} ${start} to ${end}${muted ? ", muted" : ""}`,
          text: muted ? "muted" : "",
          soft: true,
          stored: true,
          chosen: start <= frame && frame <= end,
        })),
      }))}
      range={[shot.start, shot.end]}
      place={place}
      editable={editable}
      onChange={({ key }, { start }, first, last) =>
        rows
          .find((row) => row.key === key)
          ?.spans.find(({ span }) => span.start === start)
          ?.onMoved(first, last)
      }
      onChoose={(_, span, at) => span && go(at)}
    />
  );
}
