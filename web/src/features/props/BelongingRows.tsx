import { belongingRows, changeBelonging } from "../../desk/belonging";
import { go } from "../../desk/playing";
import { select } from "../../desk/selecting";
import { canChange, type Member, useDesk } from "../../desk/store";
import { keyFramesOf } from "../../model/columns";
import { belongingsOf } from "../../model/types";
import { ownerSaid } from "../../desk/widgets/Owner";
import { sideInk, useInks } from "../../ui/look";
import { usePlace } from "../../desk/time";
import type { Room } from "../../model/time";
import { type Row, SpanRows } from "../../ui/SpanRows";

/** A row for each control that belongs to something at some time, of all the cast. */
export function BelongingRows({ cast, frame: lies }: { cast: Member[]; frame: Room }) {
  const place = usePlace(lies);
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const shot = useDesk((s) => s.shot)!;
  const selection = useDesk((s) => s.selection);
  const frame = useDesk((s) => s.frame);
  const rows = belongingRows(cast).map(({ member, control }): Row => {
    const { label, side } = member.controls.get(control)!;
    const thing = member.prop && control === member.rig.controls[0].name;
    return {
      key: `${member.id} ${control}`,
      label: thing ? member.name : cast.length > 1 ? `${member.name}: ${label}` : label,
      tone: sideInk(ink, side),
      keys: thing ? keyFramesOf(member, new Set([control])) : undefined,
      spans: belongingsOf(member.clip, control).map((span) => {
        const owner = ownerSaid(member, cast, { figure: span.figure, control: span.to });
        return {
          start: span.start,
          end: span.end,
          stored: true,
          soft: true,
          text: owner,
          chosen: selection.includes(control) && span.start <= frame && frame <= span.end,
          label: `${thing ? member.name : label} belongs to ${owner}, ${span.start} to ${span.end}`,
        };
      }),
    };
  });
  const of = (row: Row) => {
    const [id, control] = [row.key.slice(0, row.key.indexOf(" ")), row.key.slice(row.key.indexOf(" ") + 1)];
    return { member: cast.find((m) => String(m.id) === id)!, control };
  };
  return (
    <SpanRows
      name="Who carries what"
      rows={rows}
      range={[shot.start, shot.end]}
      place={place}
      editable={editable}
      onChange={(row, span, start, end) => {
        const { member, control } = of(row);
        const found = belongingsOf(member.clip, control).find((s) => s.start === span.start);
        if (found) void changeBelonging(member, control, found, { start, end });
      }}
      onChoose={(row, span, at) => {
        const { member, control } = of(row);
        select([control], "set", member.id);
        if (span) go(at);
      }}
    />
  );
}
