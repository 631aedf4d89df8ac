import { memo } from "react";
import { useInks } from "../../ui/look";

const EVERY = [1, 2, 5, 6, 12, 24, 48, 120, 240, 480, 1200, 2400, 6000, 12000, 60000];

/** Ticks and numbers of frames from one to another; laid from frame 0, so that shifting time moves them as one. */
export const Scale = memo(function Scale(p: {
  from: number;
  to: number;
  gap: number;
  start: number;
  end: number;
  playStart: number;
  playEnd: number;
}) {
  const ink = useInks();
  const { gap, start } = p;
  const [from, to] = [Math.max(p.from, start), Math.min(p.to, p.end)];
  const every = EVERY.find((n) => n * gap >= 34) ?? 120000;
  const count = Math.max(to - from + 1, 0);
  const frames = gap > 2.5 ? Array.from({ length: count }, (_, n) => from + n) : [];
  // Round numbers count from 0, or 1 where every frame has one; the first frame always has its number.
  const numbers: number[] = [];
  for (let f = Math.ceil(from / every) * every; f <= to; f += every) if ((f - start) * gap > 20) numbers.push(f);
  if (from === start) numbers.unshift(start);
  return (
    <g>
      {frames.length > 0 && (
        <path
          d={frames.map((f) => `M${f * gap} 21v${f % every === 0 || f === start ? 8 : 4}`).join("")}
          stroke={ink.faint}
          strokeOpacity={0.6}
        />
      )}
      {numbers.map((f) => (
        <text
          key={f}
          x={f * gap}
          y={41}
          textAnchor="middle"
          fontSize={11}
          fill={f >= p.playStart && f <= p.playEnd ? ink.ink : ink.faint}
        >
          {f}
        </text>
      ))}
    </g>
  );
});
