import Box from "@mui/material/Box";
import { useRef, useState } from "react";
import { eased, EVEN, OVERSHOOT, WIND_UP } from "../../model/curves";
import type { Chart as ChartData } from "../../desk/gaps";
import { go } from "../../desk/playing";
import { leaveTry, tryEdit } from "../../desk/posing";
import { commit, say } from "../../desk/steps";
import { canChange, useDesk } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import { useInks } from "../../ui/look";
import { Line } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";

const [WIDE, LEFT, SPAN] = [264, 26, 212];
const SNAPS = [0, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4, 1];

let copied: { time: number; favour: number; set: boolean }[] | null = null;

/**
 * The chart as on paper: the two poses at its ends, a tick for each frame between where it stands. Ticks are dragged,
 * with Ctrl to halves and thirds, and the curves follow.
 */
export function Chart(p: {
  chart: ChartData;
  controls: string[] | null;
  gaps: [number, number][] | null;
  tried: { number: number; strength: number } | null;
}) {
  const ink = useInks();
  const { first, last, favours } = p.chart;
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  const [pins, setPins] = useState<Record<number, number>>({});
  const [held, setHeld] = useState<{ frame: number; favour: number } | null>(null);
  const [keyed, setKeyed] = useState(false);
  const box = useRef<SVGSVGElement>(null);
  const length = last - first;
  const wide = p.tried && [WIND_UP, OVERSHOOT].includes(p.tried.number) ? 0.25 * p.tried.strength : 0;
  const low = Math.min(p.tried?.number === WIND_UP ? -wide : 0, ...favours);
  const high = Math.max(p.tried?.number === OVERSHOOT ? 1 + wide : 1, ...favours);
  const x = (favour: number) => LEFT + ((favour - low) / (high - low)) * SPAN;
  const frames = Array.from({ length: Math.max(length - 1, 0) }, (_, n) => first + 1 + n);
  const standing = (f: number) =>
    held?.frame === f
      ? held.favour
      : p.tried
        ? p.tried.number === EVEN
          ? (f - first) / length
          : eased(p.tried.number, p.tried.strength, (f - first) / length)
        : favours[f - first];
  const edit = (at: Record<number, number>, gaps: [number, number][] = [[first, last]]): AnyEdit => ({
    kind: "chart",
    gaps,
    ticks: frames.map((f) => ({ time: (f - first) / length, favour: at[f] ?? favours[f - first], set: f in at })),
    controls: p.controls,
    keyed,
  });
  const favourAt = (event: React.PointerEvent) => {
    const r = box.current!.getBoundingClientRect();
    const favour = low + (((event.clientX - r.left) * (WIDE / r.width) - LEFT) / SPAN) * (high - low);
    const near = SNAPS.find((snap) => Math.abs(snap - favour) < (event.ctrlKey || event.metaKey ? 0.09 : 0.012));
    return event.shiftKey ? favour : (near ?? favour);
  };
  return (
    <>
      <svg
        ref={box}
        viewBox={`0 0 ${WIDE} 74`}
        width="100%"
        role="group"
        aria-label={`Timing chart from ${first} to ${last}`}
        style={{ touchAction: "none", display: "block" }}
        onPointerMove={(event) => {
          if (!held) return;
          const favour = Math.min(Math.max(favourAt(event), -0.5), 1.5);
          setHeld({ frame: held.frame, favour });
          tryEdit(edit({ ...pins, [held.frame]: favour }));
        }}
        onPointerUp={() => {
          if (!held) return;
          const next = { ...pins, [held.frame]: held.favour };
          setPins(next);
          void commit(edit(next)).then(() => setHeld(null));
        }}
        onPointerCancel={() => {
          setHeld(null);
          leaveTry();
        }}
      >
        <line x1={x(0)} x2={x(1)} y1={38} y2={38} stroke={ink.ink} strokeWidth={1.5} />
        {low < -0.01 && <line x1={x(low)} x2={x(0)} y1={38} y2={38} stroke={ink.faint} strokeDasharray="3 2" />}
        {high > 1.01 && <line x1={x(1)} x2={x(high)} y1={38} y2={38} stroke={ink.faint} strokeDasharray="3 2" />}
        {[1 / 3, 1 / 2, 2 / 3].map((share) => (
          <path key={share} d={`M${x(share)} 34.5v7`} stroke={ink.faint} strokeWidth={1} strokeDasharray="1 1.5" />
        ))}
        {[
          [first, 0],
          [last, 1],
        ].map(([f, at]) => (
          <g key={f} style={{ cursor: "pointer" }} onClick={() => go(f)}>
            <line x1={x(at)} x2={x(at)} y1={24} y2={52} stroke={ink.blue} strokeWidth={2} />
            <circle cx={x(at)} cy={13} r={10} fill={ink.sheet} stroke={ink.blue} strokeWidth={1.5} />
            <text x={x(at)} y={17} textAnchor="middle" fontSize={11} fill={ink.ink}>
              {f}
            </text>
          </g>
        ))}
        {frames.map((f, n) => {
          const at = x(standing(f));
          const on = held?.frame === f || frame === f;
          return (
            <g
              key={f}
              role="slider"
              tabIndex={0}
              aria-label={`Frame ${f}`}
              aria-valuenow={Math.round(standing(f) * 100)}
              aria-valuetext={`${Math.round(standing(f) * 100)} percent`}
              style={{ cursor: editable ? "ew-resize" : "default" }}
              onKeyDown={(event) => {
                const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
                if (!by || !editable) return;
                event.preventDefault();
                event.stopPropagation();
                const next = { ...pins, [f]: standing(f) + by };
                setPins(next);
                void commit(edit(next));
              }}
              onPointerDown={(event) => {
                if (!editable) return say("You look as a guest here; an animator drags ticks.", true);
                box.current!.setPointerCapture(event.pointerId);
                go(f);
                setHeld({ frame: f, favour: favours[f - first] });
              }}
            >
              <rect x={at - 5} y={26} width={10} height={44} fill="transparent" />
              <line
                x1={at}
                x2={at}
                y1={31}
                y2={45}
                stroke={on ? ink.red : f in pins ? ink.blue : ink.ink}
                strokeWidth={on || f in pins ? 2.4 : 1.5}
              />
              {(length < 15 || n % Math.ceil(length / 14) === 0 || on) && (
                <text
                  x={at}
                  y={n % 2 ? 70 : 58}
                  textAnchor="middle"
                  fontSize={10}
                  fill={on ? ink.red : ink.faint}
                  fontWeight={on ? 700 : 400}
                >
                  {on ? `${f} · ${Math.round(standing(f) * 100)}%` : f}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <Box sx={{ color: ink.faint, fontSize: 12 }}>
        {frames.length
          ? "Drag a tick to where its frame shall stand; Ctrl snaps to halves and thirds."
          : "These poses are one frame apart: there is nothing between them."}
      </Box>
      <Tick label="A key on every tick that I set" on={keyed} onChange={setKeyed} />
      <Line>
        <SmallButton
          onClick={() => {
            copied = frames.map((f) => ({ time: (f - first) / length, favour: favours[f - first], set: true }));
            say("The chart is copied: go to another gap, or choose columns, and lay it there.");
          }}
        >
          Copy chart
        </SmallButton>
        <SmallButton
          onClick={() =>
            copied
              ? void commit({
                  kind: "chart",
                  gaps: p.gaps ?? [[first, last]],
                  ticks: copied,
                  controls: p.controls,
                  keyed,
                })
              : say("No chart is copied yet.")
          }
        >
          Lay it on {p.gaps ? `${p.gaps.length} gaps` : "this gap"}
        </SmallButton>
        {Object.keys(pins).length > 0 && <SmallButton onClick={() => setPins({})}>Let ticks follow</SmallButton>}
      </Line>
    </>
  );
}
