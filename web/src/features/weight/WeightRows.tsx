import { useMemo } from "react";
import { useFlights } from "../../desk/flights";
import { type Member, useDesk } from "../../desk/store";
import { usePlace } from "../../desk/time";
import type { Room } from "../../model/time";
import type { Balance, Flight } from "../../model/types";
import { sideInk, useInks } from "../../ui/look";
import { Flown } from "./Flown";
import { bearersOf, LANE, laidRows, least, thinned } from "./rows";

const FULL = 0.12; // metres of margin that fill half the row

interface Chart {
  rows: Balance[];
  begin: number;
  every: number;
  seen: [number, number];
  x: (frame: number) => number;
  step: number;
  labels: number;
  high: number;
  width: number;
}

/** Rows of the weight of a figure, those that are wished: frame by frame, on the strip's frames. */
export function WeightRows({ member, frame }: { member: Member; frame: Room }) {
  const { x, width, gap, first, last, left: labels } = usePlace(frame);
  const balance = useDesk((s) => s.balance);
  const wished = useDesk((s) => s.weighing.rows);
  const rows = useMemo(() => (balance?.casting === member.id ? balance.rows : []), [balance, member.id]);
  const { data: flights } = useFlights(member);
  const { laid, high } = laidRows(wished, bearersOf(member, rows).length);
  // A pixel shows the worst of the frames that lie on it: never more bars than pixels.
  const every = Math.max(Math.ceil(1 / gap), 1);
  const chart = {
    rows,
    begin: balance?.first ?? 0,
    every,
    seen: [first, last] as [number, number],
    x,
    step: Math.max(gap, 1) * every,
    labels,
    width,
  };
  return (
    <svg width={width} height={high} style={{ display: "block" }} data-testid="weight-rows">
      {laid.map(({ row, top, high: tall }) => {
        const of = { ...chart, high: tall };
        return (
          <g key={row} transform={`translate(0 ${top})`} data-row={row}>
            {row === "margin" && <Margin {...of} />}
            {row === "bearers" && <Bearers {...of} member={member} flights={flights ?? []} />}
            {row === "mass" && <Mass {...of} />}
            {row === "force" && <Force {...of} />}
          </g>
        );
      })}
    </svg>
  );
}

/** The left edge and the width of what stands for some frames; nothing of it lies over the labels. */
function bar({ x, step, labels }: Chart, frame: number): { x: number; width: number } {
  const left = Math.max(x(frame) - step / 2, labels - 14);
  return { x: left + 0.5, width: Math.max(step - 1, 0.5) };
}

/** A line through what is known, broken where nothing is. */
function line(points: { frame: number; value: number | null }[], { x, labels }: Chart, y: (value: number) => number) {
  let way = "";
  let up = true;
  for (const { frame, value } of points) {
    if (value === null || x(frame) < labels - 14) {
      up = true;
      continue;
    }
    way += `${up ? "M" : "L"}${x(frame).toFixed(1)} ${y(value).toFixed(1)}`;
    up = false;
  }
  return way;
}

/** How far what bears it reaches beyond the mass at rest (bars), and beyond where it is borne in motion (line). */
function Margin(chart: Chart) {
  const ink = useInks();
  const { rows, begin, every, seen, high, width } = chart;
  const middle = high / 2;
  const tall = (margin: number) => Math.min(Math.abs(margin) / FULL, 1) * (middle - 3);
  const y = (margin: number) => middle - Math.sign(margin) * tall(margin);
  const outside = (of: (row: Balance) => number | null | undefined) => rows.filter((row) => (of(row) ?? 0) < 0).length;
  const still = outside((row) => row.margin);
  const moving = outside((row) => row.moving?.margin);
  const said = rows.length
    ? `Margin: outside of what bears it on ${still} of ${rows.length} frames at rest, on ${moving} in motion`
    : "Margin: not known yet";
  const motion = thinned(rows, begin, every, seen, (some) => least(some.map((row) => row.moving?.margin)));
  return (
    <g role="img" aria-label={said} data-testid="balance-row">
      <title>{said}. Bars: as if it stood still. Line: in motion.</title>
      <line x1={0} x2={width} y1={middle} y2={middle} stroke={ink.line} />
      {thinned(rows, begin, every, seen, (some) => least(some.map((row) => row.margin))).map(({ frame, value }) => {
        const at = bar(chart, frame);
        if (value === null) return <rect key={frame} {...at} y={middle - 1} height={2} fill={ink.edge} opacity={0.5} />;
        const out = value < 0;
        const h = Math.max(tall(value), 1);
        return (
          <rect
            key={frame}
            data-out={out || undefined}
            {...at}
            y={out ? middle : middle - h}
            height={h}
            fill={out ? ink.red : ink.blue}
            opacity={0.55}
          />
        );
      })}
      <path d={line(motion, chart, y)} fill="none" stroke={ink.ink} strokeWidth={1.6} data-line="motion" />
      <text x={4} y={13} fontSize={10.5} fill={ink.ink}>
        inside
      </text>
      <text x={4} y={high - 5} fontSize={10.5} fill={ink.red}>
        outside
      </text>
    </g>
  );
}

/** What share of what is asked of the ground each limb bears, in motion. */
function Bearers({ member, flights, ...chart }: Chart & { member: Member; flights: Flight[] }) {
  return (
    <>
      <Borne {...chart} member={member} />
      {flights.map((flight) => (
        <Flown key={flight.release} {...chart} flight={flight} />
      ))}
    </>
  );
}

function Borne({ member, ...chart }: Chart & { member: Member }) {
  const ink = useInks();
  const { rows, begin, every, seen } = chart;
  return bearersOf(member, rows).map((limb, n) => {
    const side = member.controls.get(limb.ik)?.side ?? "";
    const mark = side ? side[0].toUpperCase() : "";
    const number = limb.name.match(/\d+/)?.[0] ?? "";
    const name = `${mark}${number} ${limb.kind === "leg" ? "foot" : "hand"}`.trim();
    return (
      <g key={limb.ik} transform={`translate(0 ${n * LANE})`} role="img" aria-label={`What ${limb.label} bears`}>
        <text x={4} y={LANE - 2} fontSize={10} fill={ink.ink}>
          {name}
        </text>
        {thinned(rows, begin, every, seen, (some) =>
          Math.max(...some.map((row) => (row.moving ? row.moving.bearing : row.bearing)[limb.ik] ?? 0)),
        ).map(({ frame, value }) => {
          if (value <= 0.005) return null;
          const h = Math.max(value * (LANE - 2), 1);
          return <rect key={frame} {...bar(chart, frame)} y={LANE - 1 - h} height={h} fill={sideInk(ink, side)} />;
        })}
      </g>
    );
  });
}

/** How high the mass is and how fast it goes, each on a scale of its own. */
function Mass(chart: Chart) {
  const ink = useInks();
  const { rows, begin, every, seen, high } = chart;
  const heights = rows.map((row) => row.centre[1]);
  const low = Math.min(...heights);
  const top = Math.max(...heights);
  const fastest = Math.max(...rows.map((row) => row.moving?.speed ?? 0));
  const within = (value: number, least: number, most: number) =>
    high - 4 - ((value - least) / Math.max(most - least, 0.02)) * (high - 8);
  if (!rows.length) return null;
  const said = `The mass is ${low.toFixed(2)} to ${top.toFixed(2)} m high, and goes at up to ${fastest.toFixed(2)} m/s`;
  return (
    <g role="img" aria-label={said}>
      <title>{said}</title>
      <path
        d={line(
          thinned(rows, begin, every, seen, (some) => some[0].moving?.speed ?? null),
          chart,
          (v) => within(v, 0, fastest),
        )}
        fill="none"
        stroke={ink.axisX}
        strokeWidth={1.4}
        strokeDasharray="4 2"
      />
      <path
        d={line(
          thinned(rows, begin, every, seen, (some) => some[0].centre[1]),
          chart,
          (v) => within(v, low, top),
        )}
        fill="none"
        stroke={ink.blue}
        strokeWidth={1.8}
      />
      <text x={4} y={14} fontSize={10} fill={ink.blue}>
        {low.toFixed(2)}–{top.toFixed(2)} m
      </text>
      <text x={4} y={high - 8} fontSize={10} fill={ink.axisX}>
        to {fastest.toFixed(1)} m/s
      </text>
    </g>
  );
}

/** With how many of its weights it presses on the ground; the line is one. */
function Force(chart: Chart) {
  const ink = useInks();
  const most = useDesk((s) => s.weighing.limits.landing);
  const { rows, begin, every, seen, high, width, labels } = chart;
  const peak = Math.max(...rows.map((row) => row.moving?.force ?? 0), 0);
  const top = Math.max(peak, 2);
  const zero = high - 6;
  const y = (force: number) => zero - (force / top) * (zero - 3);
  const said = rows.length ? `It presses with up to ${peak.toFixed(1)} of its weights` : "Force: not known yet";
  return (
    <g role="img" aria-label={said}>
      <title>{said}. The line is its weight.</title>
      {thinned(rows, begin, every, seen, (some) => {
        const forces = some.map((row) => row.moving?.force ?? 0);
        return Math.min(...forces) < 0 ? Math.min(...forces) : Math.max(...forces);
      }).map(({ frame, value }) => {
        const out = value < 0 || value > most;
        const h = Math.min(Math.abs(value) / top, 1) * (value < 0 ? 5 : zero - 3);
        return (
          <rect
            key={frame}
            {...bar(chart, frame)}
            y={value < 0 ? zero : zero - h}
            height={Math.max(h, 0.5)}
            fill={out ? ink.red : ink.blue}
            opacity={0.7}
          />
        );
      })}
      <line x1={labels - 14} x2={width} y1={y(1)} y2={y(1)} stroke={ink.edge} strokeDasharray="3 3" />
      <line x1={labels - 14} x2={width} y1={zero} y2={zero} stroke={ink.line} />
      <text x={4} y={13} fontSize={10.5} fill={ink.ink}>
        force
      </text>
      <text x={4} y={high - 8} fontSize={10} fill={ink.faint}>
        to {peak.toFixed(1)}
      </text>
    </g>
  );
}
