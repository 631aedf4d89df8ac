import Box from "@mui/material/Box";
import { useMemo } from "react";
import { howOf, select } from "../../desk/selecting";
import { hiddenOf, type Member, toHand, useDesk } from "../../desk/store";
import type { Control, Rig } from "../../model/types";
import { sideInk, useInks } from "../../ui/look";
import { PART, useRoving } from "../../ui/roving";

const WIDTH = 284;
const HEIGHT = 230;
const MARGIN = 18;
const NEAR = 15;

interface Spot {
  control: Control;
  x: number;
  y: number;
}

interface Chart {
  outline: string;
  spots: Spot[];
}

/** The face from the front, as it is made: its outline, and each of its controls where it moves the face. */
function chartOf(rig: Rig): Chart | null {
  const mine = rig.controls.filter((c) => c.part === "face" && c.count > 0);
  if (!rig.face.length || !mine.length) return null;
  const low = [0, 1].map((n) => Math.min(...rig.face.map((p) => p[n])));
  const high = [0, 1].map((n) => Math.max(...rig.face.map((p) => p[n])));
  const scale = Math.min(
    (WIDTH - 2 * MARGIN) / Math.max(high[0] - low[0], 1e-6),
    (HEIGHT - 2 * MARGIN) / Math.max(high[1] - low[1], 1e-6),
  );
  const at = (x: number, y: number) => [
    WIDTH / 2 + (x - (low[0] + high[0]) / 2) * scale,
    HEIGHT / 2 - (y - (low[1] + high[1]) / 2) * scale,
  ];
  const outline = `M${rig.face
    .map(([x, y]) =>
      at(x, y)
        .map((v) => v.toFixed(1))
        .join(" "),
    )
    .join("L")}Z`;
  const spots = mine.map((control): Spot => {
    // The joint of a jaw lies by the ears; what it moves is the chin.
    const chin = control.name === "jaw" ? [control.place[0], low[1] + 0.09 * (high[1] - low[1])] : control.place;
    const [x, y] = at(chin[0], chin[1]);
    return { control, x: control.shape.kind === "none" && control.name === "shapes" ? WIDTH - 26 : x, y };
  });
  // None lies on another; sides move outwards, what is in the middle up and down.
  for (let round = 0; round < 60; round++)
    for (const a of spots)
      for (const b of spots) {
        if (a === b) continue;
        const [dx, dy] = [b.x - a.x || 0.1, b.y - a.y || 0.1];
        const gap = (NEAR - Math.hypot(dx, dy)) / 2;
        if (gap <= 0) continue;
        const far = Math.hypot(dx, dy);
        const [mx, my] = a.control.side || b.control.side ? [dx / far, dy / far] : [0, Math.sign(dy)];
        if (a.control.side || !b.control.side) [a.x, a.y] = [a.x - mx * gap, a.y - my * gap];
        if (b.control.side || !a.control.side) [b.x, b.y] = [b.x + mx * gap, b.y + my * gap];
      }
  for (const spot of spots) {
    spot.x = Math.min(Math.max(spot.x, 12), WIDTH - 12);
    spot.y = Math.min(Math.max(spot.y, 12), HEIGHT - 12);
  }
  return { outline, spots };
}

/** What of the face is taken hold of, where it lies: of what is covered on the stage as well. */
export function FaceMap({ member }: { member: Member }) {
  const ink = useInks();
  const chart = useMemo(() => chartOf(member.rig), [member.rig]);
  const selection = useDesk((s) => s.selection);
  const hidden = useDesk((s) => hiddenOf(member, s));
  const keys = useRoving<SVGSVGElement>("plane");
  useDesk((s) => s.posed);
  if (!chart)
    return (
      <Box sx={{ p: 1.5, color: ink.faint }}>
        {member.name} has no face that could be posed: give its joints or shapes to zones of a face, on its page.
      </Box>
    );
  const spots = chart.spots.filter(({ control }) => toHand(member, control, hidden));
  const chosen = new Set(selection);
  /** Whatever is pressed, the control that lies nearest is meant. */
  const nearest = (event: React.MouseEvent<SVGElement>) => {
    const box = (event.currentTarget.ownerSVGElement ?? event.currentTarget).getBoundingClientRect();
    const scale = Math.min(box.width / WIDTH, box.height / HEIGHT);
    const x = (event.clientX - box.left - (box.width - WIDTH * scale) / 2) / scale;
    const y = (event.clientY - box.top - (box.height - HEIGHT * scale) / 2) / scale;
    const far = (spot: Spot) => Math.hypot(spot.x - x, spot.y - y);
    const found = spots.reduce<Spot | null>((best, spot) => (!best || far(spot) < far(best) ? spot : best), null);
    if (found) select([found.control.name], event.detail > 1 ? "add" : howOf(event));
  };
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      width="100%"
      style={{ display: "block", maxHeight: 250 }}
      role="group"
      aria-label="Face map"
      {...keys}
    >
      <path
        d={chart.outline}
        fill={ink.sheet}
        stroke={ink.line}
        strokeWidth={2}
        strokeLinejoin="round"
        onClick={nearest}
        style={{ cursor: "pointer" }}
      />
      <text x={8} y={16} fill={ink.right} fontSize={13} fontWeight={700}>
        R
      </text>
      <text x={WIDTH - 17} y={16} fill={ink.left} fontSize={13} fontWeight={700}>
        L
      </text>
      {spots.map(({ control, x, y }) => {
        const on = chosen.has(control.name);
        const tone = sideInk(ink, control.side);
        const moved = member.rig.channels
          .slice(control.first, control.first + control.count)
          .some((c, n) => Math.abs((member.pose.values[control.first + n] ?? c.rest) - c.rest) > 1e-4);
        return (
          <g
            key={control.name}
            role="button"
            {...PART}
            aria-label={control.label}
            aria-pressed={on}
            data-zone={control.name}
            style={{ cursor: "pointer" }}
            onClick={(e) => select([control.name], e.detail > 1 ? "add" : howOf(e))}
          >
            <title>{control.label + (moved ? ", moved here" : "")}</title>
            <circle cx={x} cy={y} r={8.5} fill="transparent" />
            {control.posed ? (
              <circle
                cx={x}
                cy={y}
                r={5.5}
                fill={on ? ink.blue : ink.paper}
                stroke={on ? ink.blue : tone}
                strokeWidth={moved ? 3 : 1.5}
              />
            ) : (
              <rect
                x={x - 5}
                y={y - 5}
                width={10}
                height={10}
                rx={2.5}
                fill={on ? ink.blue : ink.paper}
                stroke={on ? ink.blue : tone}
                strokeWidth={moved ? 3 : 1.5}
              />
            )}
          </g>
        );
      })}
    </svg>
  );
}
