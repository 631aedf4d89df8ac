import { memo } from "react";
import type { Label } from "../../model/types";
import { useInks } from "../../ui/look";
import { PART } from "../../ui/roving";

/** How a column is drawn: of a whole pose by its rank, otherwise a dot. */
export interface Look {
  frame: number;
  pose: boolean;
  rank: Label["rank"];
  name: string;
  /** Its keys come from another frame. */
  follows: boolean;
  on: boolean;
  /** Where it is drawn while it is dragged. */
  at: number;
}

export interface ColumnActs {
  down: (event: React.PointerEvent, frame: number) => void;
  move: (event: React.PointerEvent) => void;
  up: (event: React.PointerEvent) => void;
  key: (event: React.KeyboardEvent, frame: number) => void;
  choose: (frame: number, add: boolean) => void;
}

/** One column; where it stands does not change while time is shifted, which moves all of them as one. */
export const Column = memo(function Column({
  look: { frame, pose, rank, name, follows, on, at },
  gap,
  acts,
}: {
  look: Look;
  gap: number;
  acts: ColumnActs;
}) {
  const ink = useInks();
  const line = follows ? ink.faint : ink.blue;
  return (
    <g
      role="button"
      {...PART}
      aria-label={`Column ${frame}`}
      aria-pressed={on}
      onClick={(e) => {
        if (e.detail === 0) acts.choose(frame, e.shiftKey); // of the pointer, which has chosen it as it went down
      }}
      onKeyDown={(e) => acts.key(e, frame)}
      data-column={frame}
      transform={`translate(${at * gap} 11)`}
      data-derived={follows || undefined}
      style={{ cursor: follows ? "pointer" : "grab" }}
      onPointerDown={(e) => acts.down(e, frame)}
      onPointerMove={acts.move}
      onPointerUp={acts.up}
    >
      <title>{follows ? `Keys at ${frame}, which follow others` : `Keys at ${frame}${name ? `: ${name}` : ""}`}</title>
      <rect x={-Math.min(gap / 2, 9)} y={-11} width={Math.min(gap, 18)} height={22} fill="transparent" />
      {!pose ? (
        <circle
          r={2.6}
          fill={on || !follows ? ink.blue : "none"}
          stroke={line}
          strokeWidth={1.2}
          strokeDasharray={follows ? "1.5 1.2" : undefined}
        />
      ) : rank === "key" ? (
        <circle
          r={5.5}
          fill={on ? ink.blue : ink.sheet}
          stroke={line}
          strokeWidth={follows ? 1.4 : 2}
          strokeDasharray={follows ? "2.5 2" : undefined}
        />
      ) : (
        <>
          <circle
            r={3.6}
            fill={on ? ink.blue : ink.sheet}
            stroke={line}
            strokeWidth={1.6}
            strokeDasharray={follows ? "2 1.6" : undefined}
          />
          {rank === "breakdown" && (
            <line x1={-5} x2={5} y1={7.5} y2={7.5} stroke={follows ? ink.faint : ink.red} strokeWidth={2} />
          )}
        </>
      )}
    </g>
  );
});

/** So many columns that they would touch: drawn as one shape, and found by where the pointer is. */
export const Dense = memo(function Dense({ looks, gap }: { looks: Look[]; gap: number }) {
  const ink = useInks();
  const tick = (some: Look[], high: number) => some.map(({ at }) => `M${at * gap} ${11 - high}v${2 * high}`).join("");
  const [chosen, rest] = [looks.filter((l) => l.on), looks.filter((l) => !l.on)];
  return (
    <g fill="none" strokeWidth={1} pointerEvents="none" data-dense={looks.length}>
      <path d={tick(rest, 3)} stroke={ink.blue} strokeOpacity={0.7} />
      <path d={tick(chosen, 7)} stroke={ink.blue} strokeWidth={1.6} />
    </g>
  );
});
