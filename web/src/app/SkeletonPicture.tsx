import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { useInks } from "../ui/look";

interface Props {
  character: Schemas["CharacterDetail"];
  /** Role by joint. */
  users: Record<string, string>;
  focus: string | null;
  problems: Set<string>;
  from: "front" | "side" | "top";
  onPick: (joint: string) => void;
}

/** The skeleton drawn flat, joints told apart by role and side; a click picks one. */
export function SkeletonPicture({ character, users, focus, problems, from, onPick }: Props) {
  const ink = useInks();
  const box = useRef<SVGSVGElement>(null);
  const [size, setSize] = useState({ width: 700, height: 600 });
  const [over, setOver] = useState<string | null>(null);
  useEffect(() => {
    const watch = new ResizeObserver(
      () => box.current && setSize({ width: box.current.clientWidth, height: box.current.clientHeight }),
    );
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);

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
    <svg ref={box} width="100%" height="100%" role="group" aria-label="Skeleton" style={{ display: "block" }}>
      {parents.map((parent, j) => {
        if (parent < 0) return null;
        const [p, q] = [at(parent), at(j)];
        const d = Math.hypot(q.x - p.x, q.y - p.y) || 1;
        const w = Math.min(d * 0.09, 5);
        const [nx, ny] = [(-(q.y - p.y) / d) * w, ((q.x - p.x) / d) * w];
        const m = { x: p.x + (q.x - p.x) * 0.2, y: p.y + (q.y - p.y) * 0.2 };
        return (
          <path
            key={j}
            d={`M${p.x} ${p.y}L${m.x + nx} ${m.y + ny}L${q.x} ${q.y}L${m.x - nx} ${m.y - ny}Z`}
            fill={ink.floor}
            stroke={ink.shade}
          />
        );
      })}
      {names.map((name, j) => {
        const p = at(j);
        const on = name === focus;
        return (
          <g
            key={name}
            role="button"
            aria-label={`Joint ${name}`}
            data-joint={name}
            style={{ cursor: "pointer" }}
            onClick={() => onPick(name)}
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
