import { type Member, useDesk } from "../../desk/store";
import { useInks } from "../../ui/look";
import type { RowsPlace } from "../../ui/SpanRows";
import { BALANCE_HIGH } from "./high";

const FULL = 0.12; // metres of margin that fill half the row

/** How far the mass is inside what bears it (above the line) or outside (below, red), frame by frame. */
export function BalanceRow({ member, x, width }: { member: Member } & RowsPlace) {
  const ink = useInks();
  const balance = useDesk((s) => s.balance);
  const middle = BALANCE_HIGH / 2;
  const rows = balance?.casting === member.id ? balance.rows : [];
  const step = Math.max(x(2) - x(1), 1);
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
      {rows.map((row, n) => {
        const left = x(balance!.first + n) - step / 2;
        if (row.margin === null)
          return <rect key={n} x={left} y={middle - 1} width={step} height={2} fill={ink.edge} opacity={0.5} />;
        const h = Math.max(high(row.margin), 1);
        const out = row.margin < 0;
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
