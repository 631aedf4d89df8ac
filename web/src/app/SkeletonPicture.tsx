import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import { useInks } from "../ui/look";
import { PART, useRoving } from "../ui/roving";

interface Props {
  character: Schemas["CharacterDetail"];
  /** Role by joint. */
  users: Record<string, string>;
  focus: string | null;
  problems: Set<string>;
  from: "front" | "side" | "top";
  onPick: (joint: string) => void;
}

interface Point {
  x: number;
  y: number;
}

/** A bone as a stroke of the pen: set down round at its joint and drawn out thin to the next, without an edge. */
function stroke(from: Point, to: Point): string {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const d = Math.hypot(dx, dy) || 1;
  const wide = Math.min(3.2, 0.6 + d * 0.06);
  const [nx, ny] = [(-dy / d) * wide, (dx / d) * wide];
  const thin = 0.45 / wide;
  const n = (v: number) => v.toFixed(2);
  const [a, b] = [`${n(from.x + nx)} ${n(from.y + ny)}`, `${n(from.x - nx)} ${n(from.y - ny)}`];
  const bend = (s: number) => `${n(from.x + dx * 0.4 + s * nx * 0.45)} ${n(from.y + dy * 0.4 + s * ny * 0.45)}`;
  const tip = (s: number) => `${n(to.x + s * nx * thin)} ${n(to.y + s * ny * thin)}`;
  return `M${a}Q${bend(1)} ${tip(1)}L${tip(-1)}Q${bend(-1)} ${b}A${n(wide)} ${n(wide)} 0 0 1 ${a}Z`;
}

/** The skeleton drawn flat, joints told apart by role and side; a click picks one. */
export function SkeletonPicture({ character, users, focus, problems, from, onPick }: Props) {
  const ink = useInks();
  const keys = useRoving<SVGSVGElement>("plane");
  const box = keys.ref;
  const [size, setSize] = useState({ width: 700, height: 600 });
  const [over, setOver] = useState<string | null>(null);
  useEffect(() => {
    const watch = new ResizeObserver(
      () => box.current && setSize({ width: box.current.clientWidth, height: box.current.clientHeight }),
    );
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, [box]);

  const { names, parents, places } = character.skeleton;
  const [a, b, flip] = from === "front" ? [0, 1, -1] : from === "side" ? [2, 1, -1] : [0, 2, 1];
  const way = from === "side" ? -1 : 1;
  const lo = (n: number) => Math.min(...places.map((p) => p[n]));
  const hi = (n: number) => Math.max(...places.map((p) => p[n]));
  const scale = Math.min(
    (size.width - 120) / Math.max(hi(a) - lo(a), 1e-6),
    (size.height - 150) / Math.max(hi(b) - lo(b), 1e-6),
  );
  const at = (j: number) => ({
    x: size.width / 2 + way * (places[j][a] - (hi(a) + lo(a)) / 2) * scale,
    y: size.height / 2 + flip * (places[j][b] - (hi(b) + lo(b)) / 2) * scale,
  });
  const colour = (joint: string) => {
    const role = users[joint];
    if (problems.has(joint)) return ink.red;
    return !role ? ink.faint : /\.L(\.|$)/.test(role) ? ink.left : /\.R(\.|$)/.test(role) ? ink.right : ink.ink;
  };
  const named = over ?? focus;
  return (
    <svg width="100%" height="100%" role="group" aria-label="Skeleton" style={{ display: "block" }} {...keys}>
      {parents.map((parent, j) => {
        if (parent < 0) return null;
        const [p, q] = [at(parent), at(j)];
        return <path key={j} d={stroke(p, q)} fill={ink.ink} opacity={0.34} />;
      })}
      {names.map((name, j) => {
        const p = at(j);
        const on = name === focus;
        return (
          <g
            key={name}
            role="button"
            {...PART}
            aria-label={`Joint ${name}`}
            data-joint={name}
            style={{ cursor: "pointer" }}
            onClick={() => onPick(name)}
            onFocus={() => setOver(name)}
            onBlur={() => setOver(null)}
            onMouseEnter={() => setOver(name)}
            onMouseLeave={() => setOver(null)}
          >
            <title>{`${name}${users[name] ? `: ${users[name]}` : ", no role"}`}</title>
            <circle cx={p.x} cy={p.y} r={9} fill="transparent" />
            {on && <circle cx={p.x} cy={p.y} r={10} fill="none" stroke={ink.blue} strokeWidth={2.5} />}
            <circle
              cx={p.x}
              cy={p.y}
              r={users[name] ? 4.5 : 3}
              fill={users[name] ? colour(name) : ink.sheet}
              stroke={colour(name)}
              strokeWidth={1.5}
            />
          </g>
        );
      })}
      {from !== "side" && (
        <text x={24} y={size.height / 2} fill={ink.right} fontWeight={700} fontSize={18}>
          R
        </text>
      )}
      {from !== "side" && (
        <text x={size.width - 34} y={size.height / 2} fill={ink.left} fontWeight={700} fontSize={18}>
          L
        </text>
      )}
      {named &&
        names.includes(named) &&
        (() => {
          const p = at(names.indexOf(named));
          const text = `${named}${users[named] ? `  (${users[named]})` : ""}`;
          return (
            <g style={{ pointerEvents: "none" }}>
              <rect x={p.x + 12} y={p.y - 23} width={text.length * 6.9 + 12} height={20} rx={4} fill={ink.ink} />
              <text x={p.x + 18} y={p.y - 8.5} fill={ink.paper} fontSize={12.5}>
                {text}
              </text>
            </g>
          );
        })()}
    </svg>
  );
}
