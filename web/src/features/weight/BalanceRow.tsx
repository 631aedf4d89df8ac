import { type Member, useDesk } from "../../desk/store";
import { useInks } from "../../ui/look";
import { usePlace } from "../../desk/time";
import type { Room } from "../../model/time";
import type { Balance } from "../../model/types";
import { BALANCE_HIGH } from "./high";

const FULL = 0.12; // metres of margin that fill half the row

/** How far the mass is inside what bears it (above the line) or outside (below, red), frame by frame. */
export function BalanceRow({ member, frame }: { member: Member; frame: Room }) {
  const { x, width, gap, first, last, left: labels } = usePlace(frame);
  const ink = useInks();
  const balance = useDesk((s) => s.balance);
  const middle = BALANCE_HIGH / 2;
  const rows = balance?.casting === member.id ? balance.rows : [];
  const step = Math.max(gap, 1);
  // A pixel shows the worst of the frames that lie on it: never more bars than pixels.
  const every = Math.max(Math.ceil(1 / gap), 1);
  const high = (margin: number) => Math.min(Math.abs(margin) / FULL, 1) * (middle - 3);
  const outside = rows.filter((row) => row.margin !== null && row.margin < 0).length;
  return (
    <svg
      width={width}
      height={BALANCE_HIGH}
      role="img"
      aria-label={
        rows.length
          ? `Balance: outside of what bears it on ${outside} of ${rows.length} frames`
          : "Balance: not known yet"
      }
      data-testid="balance-row"
      style={{ display: "block" }}
    >
      <line x1={0} x2={width} y1={middle} y2={middle} stroke={ink.line} />
      {barsOf(rows, balance?.first ?? 0, every, first, last).map(({ frame: n, margin }) => {
        const left = Math.max(x(n) - step / 2, labels - 14);
        if (margin === null)
          return <rect key={n} x={left} y={middle - 1} width={step} height={2} fill={ink.edge} opacity={0.5} />;
        const h = Math.max(high(margin), 1);
        const out = margin < 0;
        return (
          <rect
            key={n}
            data-out={out || undefined}
            x={left + 0.5}
            y={out ? middle : middle - h}
            width={Math.max(step - 1, 0.5)}
            height={h}
            fill={out ? ink.red : ink.blue}
          />
        );
      })}
      <text x={4} y={13} fontSize={10.5} fill={ink.ink}>
        inside
      </text>
      <text x={4} y={BALANCE_HIGH - 5} fontSize={10.5} fill={ink.red}>
        outside
      </text>
    </svg>
  );
}

/** Of what is seen, a bar for every so many frames: the worst of them, null where nothing bears the figure. */
function barsOf(rows: Balance[], begin: number, every: number, first: number, last: number) {
  const bars: { frame: number; margin: number | null }[] = [];
  const from = Math.max(Math.floor((first - begin) / every) * every, 0);
  for (let n = from; n < rows.length && begin + n <= last + every; n += every) {
    let margin: number | null = null;
    for (const row of rows.slice(n, n + every))
      if (row.margin !== null && (margin === null || row.margin < margin)) margin = row.margin;
    bars.push({ frame: begin + n, margin });
  }
  return bars;
}
