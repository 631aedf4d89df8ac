import Box from "@mui/material/Box";
import { titled } from "../../desk/bound";
import { plantable, shownPlants } from "../../desk/contacts";
import { useMemo, useState } from "react";
import { switchLimb } from "../../desk/posing";
import { howOf, select, selectAll, selectBelow, selectOtherSide } from "../../desk/selecting";
import { active, groupOf, hiddenOf, type Member, modeOf, toHand, useDesk } from "../../desk/store";
import type { Control, Grade, Rig } from "../../model/types";
import { Sets } from "../../desk/widgets/Sets";
import { SmallButton } from "../../ui/SmallButton";
import { sideInk, useInks } from "../../ui/look";
import { PART, useRoving } from "../../ui/roving";
import { ControlList } from "./ControlList";

const WIDTH = 284;
const HEIGHT = 238;
const FACE = { x: 42, y: 46 };

interface Spot {
  control: Control;
  x: number;
  y: number;
  r: number;
}

interface Chart {
  bones: string[];
  thick: number;
  spots: Map<string, Spot>;
  limbs: { name: string; x: number; y: number }[];
  face: boolean;
}

/** Lays a rig out as a schematic figure: from the front, or from above for a body that is wider than tall. */
function chartOf(rig: Rig): Chart {
  const flat = rig.controls
    .filter((c) => c.kind !== "pole" && c.kind !== "finger" && c.shape.kind !== "none")
    .map((c) => c.place);
  const span = (n: number) => Math.max(...flat.map((p) => p[n])) - Math.min(...flat.map((p) => p[n]));
  const up = span(1) >= span(2) * 0.6 ? 1 : 2;
  const all = rig.rest_places;
  const lo = (n: number) => Math.min(...all.map((p) => p[n]));
  const hi = (n: number) => Math.max(...all.map((p) => p[n]));
  const scale = Math.min((WIDTH - 84) / Math.max(hi(0) - lo(0), 1e-6), (HEIGHT - 30) / Math.max(hi(up) - lo(up), 1e-6));
  const sign = up === 1 ? -1 : 1;
  const mid = [(hi(0) + lo(0)) / 2, (hi(up) + lo(up)) / 2];
  const at = (p: number[]) => [WIDTH / 2 + (p[0] - mid[0]) * scale, HEIGHT / 2 + sign * (p[up] - mid[1]) * scale];

  const inHand = new Set<number>();
  rig.picks.forEach(([fk], j) => rig.controls.find((c) => c.name === fk)?.kind === "finger" && inHand.add(j));
  const bones = rig.parents.flatMap((parent, j) => {
    if (parent < 0 || inHand.has(j) || rig.parents[parent] < 0) return [];
    const [a, b] = [at(all[parent]), at(all[j])];
    return [`M${a[0].toFixed(1)} ${a[1].toFixed(1)}L${b[0].toFixed(1)} ${b[1].toFixed(1)}`];
  });

  const spots = new Map<string, Spot>();
  // What is nowhere, as sliders alone are, has no spot.
  const drawn = rig.controls.filter((c) => c.kind !== "finger" && c.shape.kind !== "none");
  for (const control of drawn) {
    const [x, y] = at(control.place);
    const r =
      control.kind === "face" || control.kind === "extra" || control.kind === "pole" || control.kind === "foot"
        ? 5
        : 7.5;
    spots.set(control.name, { control, x, y, r });
  }
  const master = spots.get("master");
  if (master && up === 1) master.y = HEIGHT - 9;
  // The trunk is one row from bottom to top, evenly enough that no two of its spots meet.
  const row = [...spots.values()]
    .filter((s) => s.control.side === "" && ["body", "trunk"].includes(s.control.kind))
    .sort((p, q) => p.y - q.y);
  row.forEach((s) => (s.x = WIDTH / 2));
  for (let round = 0; round < 200; round++)
    for (let n = 1; n < row.length; n++) {
      const gap = 17 - (row[n].y - row[n - 1].y);
      if (gap <= 0) continue;
      row[n - 1].y -= gap / 2;
      row[n].y += gap / 2;
    }
  // Jaw and eyes stand in a small face of their own.
  const face = [...spots.values()].filter((s) => s.control.kind === "face");
  for (const s of face)
    [s.x, s.y] = s.control.side ? [FACE.x + (s.control.side === "L" ? 10 : -10), FACE.y - 6] : [FACE.x, FACE.y + 11];
  // What else would lie on something is moved aside; the controls of a limb's two modes never show together.
  const fixed = new Set([...row, ...face, ...(master ? [master] : [])]);
  const loose = [...spots.values()].filter((s) => !fixed.has(s));
  for (let round = 0; round < 30; round++)
    for (const b of loose) {
      for (const a of row) {
        const wide = 13 + b.r + 2 - Math.abs(b.x - a.x);
        if (Math.abs(b.y - a.y) < 7 + b.r && wide > 0) b.x += b.control.side === "R" ? -wide : wide;
      }
      for (const a of loose) {
        if (
          a === b ||
          a.control.side !== b.control.side ||
          (a.control.mode && b.control.mode && a.control.mode !== b.control.mode)
        )
          continue;
        const [dx, dy] = [b.x - a.x, b.y - a.y || 0.1];
        const gap = a.r + b.r + 1.5 - Math.hypot(dx, dy);
        if (gap <= 0) continue;
        const d = Math.hypot(dx, dy);
        a.x -= (dx / d) * gap * 0.5;
        a.y -= (dy / d) * gap * 0.5;
        b.x += (dx / d) * gap * 0.5;
        b.y += (dy / d) * gap * 0.5;
      }
    }
  // Fingers stand in a row beside each hand's side of the map.
  for (const side of ["L", "R"]) {
    const fingers = rig.controls.filter((c) => c.kind === "finger" && c.side === side);
    fingers.forEach((control, n) => {
      const x = side === "L" ? WIDTH - 14 : 14;
      spots.set(control.name, { control, x, y: HEIGHT - 84 + n * 14, r: 5 });
    });
  }
  const limbs = rig.limbs.map((limb) => {
    const end = rig.controls.find((c) => c.name === limb.ik)!;
    const [x, y] = at(end.place);
    const out = end.side === "R" ? -1 : 1;
    return {
      name: limb.name,
      x: Math.min(Math.max(x + out * 27, 17), WIDTH - 17),
      y: limb.kind === "arm" ? y - 15 : y - 16,
    };
  });
  return { bones, thick: Math.max(0.052 * rig.height * scale, 5), spots, limbs, face: face.length > 0 };
}

export function BodyMap() {
  const member = useDesk((s) => active(s));
  useDesk((s) => s.posed);
  const rig = member?.rig;
  const chart = useMemo(() => (rig ? chartOf(rig) : null), [rig]);
  if (!member || !chart) return null;
  return <Figure member={member} chart={chart} />;
}

function Figure({ member, chart }: { member: Member; chart: Chart }) {
  const ink = useInks();
  const selection = useDesk((s) => s.selection);
  const hidden = useDesk((s) => hiddenOf(member, s));
  const faceless = useDesk((s) => s.looks.hidden.face);
  const frame = useDesk((s) => s.frame);
  const [list, setList] = useState(false);
  const keys = useRoving<SVGSVGElement>("plane");
  const chosen = new Set(selection);
  const planted = useMemo(
    () =>
      new Set(
        plantable(member)
          .filter((limb) => shownPlants(member, limb).some((s) => s.start <= frame && frame <= s.end))
          .map((limb) => limb.ik),
      ),
    [member, frame],
  );
  const grips = useDesk((s) => (s.tool === "pull" && !s.few ? s.grips[member.id] : undefined));
  // A grip is drawn on every control of its part: of a limb's two modes only one is to hand.
  const gripped = new Map(
    member.rig.parts.flatMap((part) =>
      grips?.[part.name] ? part.controls.slice(0, 2).map((name) => [name, grips[part.name].grade] as const) : [],
    ),
  );
  const keyed = useMemo(() => keyedAt(member, frame), [member, frame]);
  const waiting = new Set(
    Object.keys(member.clip.pending[String(frame)] ?? {}).map((a) => a.slice(0, a.lastIndexOf("/"))),
  );

  const colour = (c: Control) => sideInk(ink, c.side);
  const spots = [...chart.spots.values()].filter(({ control }) => toHand(member, control, hidden));

  return (
    <Box aria-label="Body map" role="group" sx={{ height: "100%", display: "flex", flexDirection: "column" }}>
      {list ? (
        <ControlList member={member} />
      ) : (
        <svg
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          width="100%"
          style={{ display: "block", flex: 1, minHeight: 0 }}
          role="group"
          aria-label="Controls on the body"
          {...keys}
        >
          <path
            d={chart.bones.join("")}
            stroke={ink.floor}
            strokeWidth={chart.thick}
            strokeLinecap="round"
            strokeLinejoin="round"
            fill="none"
          />
          <text x={8} y={16} fill={ink.right} fontSize={13} fontWeight={700}>
            R
          </text>
          <text x={WIDTH - 17} y={16} fill={ink.left} fontSize={13} fontWeight={700}>
            L
          </text>
          {chart.face && !faceless && (
            <ellipse
              cx={FACE.x}
              cy={FACE.y}
              rx={23}
              ry={27}
              fill="none"
              stroke={ink.line}
              strokeWidth={1.5}
              aria-hidden
            />
          )}
          {spots.map(({ control, x, y, r }) => {
            const on = chosen.has(control.name);
            return (
              <g
                key={control.name}
                role="button"
                {...PART}
                aria-label={control.label}
                aria-pressed={on}
                data-control={control.name}
                style={{ cursor: "pointer" }}
                onClick={(e) => select([control.name], e.detail > 1 ? "add" : howOf(e))}
              >
                <title>
                  {control.label +
                    (keyed.has(control.name) ? ", keyed here" : "") +
                    (planted.has(control.name) ? ", planted here" : "") +
                    (waiting.has(control.name) ? ", pending here" : "") +
                    (gripped.has(control.name) ? `, gripped ${gripped.get(control.name)}` : "")}
                </title>
                <circle cx={x} cy={y} r={r + 3} fill="transparent" />
                <Gripped grade={gripped.get(control.name)} x={x} y={y} r={r + 4.5} ink={colour(control)} />
                {planted.has(control.name) && (
                  <path
                    d={`M${x - r - 3} ${y + r + 3}h${2 * r + 6}`}
                    stroke={colour(control)}
                    strokeWidth={2.5}
                    pointerEvents="none"
                  />
                )}
                <Mark
                  control={control}
                  x={x}
                  y={y}
                  r={r}
                  fill={on ? ink.blue : ink.sheet}
                  stroke={on ? ink.blue : colour(control)}
                  thick={keyed.has(control.name) ? 3 : 1.5}
                  dashed={waiting.has(control.name) ? ink.red : ""}
                />
                {control.side && (
                  <Side
                    control={control}
                    x={x}
                    y={y}
                    r={r}
                    ink={on && inside(control, r) ? ink.paper : colour(control)}
                  />
                )}
              </g>
            );
          })}
          {chart.limbs.map(({ name, x, y }) => {
            const limb = member.rig.limbs.find((l) => l.name === name)!;
            const mode = modeOf(member, name);
            const to = mode === "ik" ? "fk" : "ik";
            return (
              <g
                key={name}
                role="button"
                {...PART}
                aria-label={`${limb.label} ${limb.kind}: ${mode.toUpperCase()}, change to ${to.toUpperCase()}`}
                data-limb={name}
                style={{ cursor: "pointer" }}
                onClick={() => void switchLimb(name, to)}
              >
                <title>
                  {`${limb.label} ${limb.kind} is posed by ${mode.toUpperCase()}. ` +
                    `Click to change to ${to.toUpperCase()}; nothing moves by it.`}
                </title>
                <rect
                  x={x - 12}
                  y={y - 8}
                  width={24}
                  height={15}
                  rx={7.5}
                  fill={mode === "ik" ? ink.ink : ink.sheet}
                  stroke={ink.ink}
                />
                <text
                  x={x}
                  y={y + 3.5}
                  textAnchor="middle"
                  fontSize={10}
                  fontWeight={700}
                  fill={mode === "ik" ? ink.paper : ink.ink}
                >
                  {mode.toUpperCase()}
                </text>
              </g>
            );
          })}
        </svg>
      )}
      <Box sx={{ display: "flex", gap: 0.5, px: 1, pb: 0.75, flex: "none", flexWrap: "wrap", "& button": { px: 0.5 } }}>
        <SmallButton on={list} onClick={() => setList(!list)} title="Controls by name, or as a figure">
          List
        </SmallButton>
        <SmallButton onClick={selectAll} title={titled("Select the whole character", "select all")}>
          Whole
        </SmallButton>
        <SmallButton
          onClick={selectBelow}
          disabled={!selection.length}
          title={titled("Add all controls below the selected ones", "select below")}
        >
          All below
        </SmallButton>
        <SmallButton
          onClick={selectOtherSide}
          disabled={!selection.length}
          title={titled("Select the same on the other side", "other side")}
        >
          Other side
        </SmallButton>
        <Sets member={member} />
      </Box>
    </Box>
  );
}

/** Whether the letter of a spot's side has room in it; else it stands beside. */
const inside = (control: Control, r: number) => r > 7 || groupOf(control) === "hands";

/** The letter of a side, so that it is not told by ink alone. */
function Side(p: { control: Control; x: number; y: number; r: number; ink: string }) {
  const within = inside(p.control, p.r);
  const out = within ? 0 : (p.control.side === "R" ? -1 : 1) * (p.r + 5);
  return (
    <text
      x={p.x + out}
      y={p.y + (p.r > 6 ? 3.4 : 2.6)}
      textAnchor="middle"
      fontSize={p.r > 6 ? 9 : 7.5}
      fontWeight={700}
      fill={p.ink}
      style={{ pointerEvents: "none" }}
    >
      {p.control.side}
    </text>
  );
}

/** A grip by its form: loose is dashed, firm a ring, fast two. */
function Gripped({ grade, x, y, r, ink }: { grade?: Grade; x: number; y: number; r: number; ink: string }) {
  if (!grade) return null;
  const ring = { cx: x, cy: y, fill: "none", stroke: ink, strokeWidth: 1.5, pointerEvents: "none" as const };
  return (
    <>
      <circle {...ring} r={r} strokeDasharray={grade === "loose" ? "3 2.5" : undefined} />
      {grade === "fast" && <circle {...ring} r={r + 3.5} />}
    </>
  );
}

function Mark(p: {
  control: Control;
  x: number;
  y: number;
  r: number;
  fill: string;
  stroke: string;
  thick: number;
  dashed: string;
}) {
  const shared = {
    fill: p.fill,
    stroke: p.dashed || p.stroke,
    strokeWidth: p.thick,
    strokeDasharray: p.dashed ? "3 2" : undefined,
  };
  if (p.control.kind === "master") return <rect x={p.x - 26} y={p.y - 6} width={52} height={12} rx={6} {...shared} />;
  if (p.control.kind === "body") return <rect x={p.x - 15} y={p.y - 7} width={30} height={14} rx={4} {...shared} />;
  if (p.control.kind === "trunk") return <rect x={p.x - 11} y={p.y - 6.5} width={22} height={13} rx={6} {...shared} />;
  if (p.control.kind === "pole")
    return (
      <path d={`M${p.x - p.r} ${p.y} L${p.x} ${p.y - p.r} L${p.x + p.r} ${p.y} L${p.x} ${p.y + p.r} Z`} {...shared} />
    );
  if (p.control.kind === "ik")
    return <rect x={p.x - p.r} y={p.y - p.r} width={2 * p.r} height={2 * p.r} rx={3} {...shared} />;
  return <circle cx={p.x} cy={p.y} r={p.r} {...shared} />;
}

function keyedAt(member: Member, frame: number): Set<string> {
  const found = new Set<string>();
  for (const [address, rows] of Object.entries(member.clip.curves))
    if (rows.some((row) => row[0] === frame)) found.add(address.slice(0, address.lastIndexOf("/")));
  return found;
}
