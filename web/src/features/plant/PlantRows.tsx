import { useState } from "react";
import { choosePlant, changePlant, endOf, plantable, type Shown, shownPlants } from "../../desk/contacts";
import { commit } from "../../desk/steps";
import { canChange, type Member, setDesk, useDesk } from "../../desk/store";
import { useInks } from "../../ui/look";
import { PART, useRoving } from "../../ui/roving";

export const ROW = 15;
export const rowsHigh = (member: Member | undefined) => (member ? member.rig.limbs.length * ROW + 4 : 0);

interface Drag {
  control: string;
  shown: Shown | null;
  part: "start" | "end" | "both" | "new";
  from: number;
  now: number;
}

/** A row for each foot and hand with its plants: drawn by dragging, dragged at their ends, moved by their middle. */
export function PlantRows({
  member,
  x,
  frameAt,
  width,
}: {
  member: Member;
  x: (frame: number) => number;
  frameAt: (left: number) => number;
  width: number;
}) {
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const chosen = useDesk((s) => s.plant);
  const shot = useDesk((s) => s.shot)!;
  const keys = useRoving<SVGSVGElement>("line");
  const [drag, setDrag] = useState<Drag | null>(null);
  const limbs = plantable(member);
  const at = (event: React.PointerEvent) =>
    frameAt(event.clientX - event.currentTarget.closest("svg")!.getBoundingClientRect().left);

  function down(event: React.PointerEvent, control: string, shown: Shown | null, part: Drag["part"]) {
    event.stopPropagation();
    if (event.button !== 0) return;
    const frame = Math.min(Math.max(at(event), shot.start), shot.end);
    if (shown) {
      if (shown.stored) choosePlant(member, control, shown.start, Math.min(Math.max(frame, shown.start), shown.end));
      if (!editable || !shown.stored) return;
    } else if (!editable) return;
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    setDrag({ control, shown, part, from: frame, now: frame });
  }

  function up() {
    if (!drag) return;
    setDrag(null);
    const { control, shown, part } = drag;
    const [start, end] = dragged(drag);
    if (part === "new") {
      if (drag.now === drag.from) return setDesk({ plant: null });
      void commit({
        kind: "plant",
        plants: [{ control, start, end, about: "" }],
        release: 0,
        land: 0,
        figure: 0,
        thing: "",
      }).then((ok) => ok && setDesk({ plant: { control, start } }));
    } else if (shown && (start !== shown.start || end !== shown.end))
      void changePlant(control, shown.start, shown.plant, { start, end });
  }

  function key(event: React.KeyboardEvent, shown: Shown) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!event.altKey || !by || !shown.stored || !editable) return;
    event.preventDefault();
    event.stopPropagation();
    const start = shown.start + (event.shiftKey ? 0 : by);
    void changePlant(shown.control, shown.start, shown.plant, { start, end: Math.max(shown.end + by, start) });
  }

  return (
    <svg
      width={width}
      height={rowsHigh(member)}
      style={{ display: "block", touchAction: "none" }}
      role="group"
      aria-label="Plants"
      {...keys}
    >
      {limbs.map((limb, n) => {
        const y = n * ROW + 2;
        const side = member.controls.get(limb.ik)?.side ?? "";
        const tone = side === "L" ? ink.left : side === "R" ? ink.right : ink.ink;
        const spans = shownPlants(member, limb).filter((s) => s.end >= shot.start && s.start <= shot.end);
        return (
          <g key={limb.name}>
            <rect
              data-plants={limb.ik}
              x={0}
              y={y}
              width={width}
              height={ROW - 2}
              fill={n % 2 ? "transparent" : ink.sheet}
              style={{ cursor: editable ? "crosshair" : "default" }}
              onPointerDown={(e) => down(e, limb.ik, null, "new")}
              onPointerMove={(e) => drag && setDrag({ ...drag, now: at(e) })}
              onPointerUp={up}
            />
            <text x={4} y={y + 10} fontSize={10.5} fontWeight={700} fill={tone} pointerEvents="none">
              {side} {limb.kind === "leg" ? "foot" : "hand"}
            </text>
            {spans.map((span) => {
              const mine = drag?.shown === span ? dragged(drag) : [span.start, span.end];
              const on = chosen?.control === limb.ik && span.stored && chosen.start === span.start;
              const left = x(mine[0]) - 3;
              const wide = x(mine[1]) + 3 - left;
              const fixed = !span.plant.about;
              return (
                <g
                  key={`${span.start} ${span.stored}`}
                  role="button"
                  {...PART}
                  aria-pressed={on}
                  aria-label={
                    `${endOf(limb)} planted ${span.start} to ${span.end}` +
                    (fixed ? "" : `, about the ${span.plant.about}`)
                  }
                  onClick={(e) => {
                    if (e.detail === 0 && span.stored) choosePlant(member, limb.ik, span.start);
                  }}
                  onKeyDown={(e) => key(e, span)}
                >
                  <title>
                    {`${endOf(limb)} planted ${span.start} to ${span.end}` +
                      (fixed ? "" : `, turning about the ${span.plant.about}`) +
                      (span.stored ? "" : "; shown again by the cycle")}
                  </title>
                  <rect
                    x={left}
                    y={y + 1}
                    width={Math.max(wide, 4)}
                    height={ROW - 4}
                    rx={2.5}
                    fill={on ? ink.blue : tone}
                    fillOpacity={span.stored ? (fixed ? 0.9 : 0.45) : 0.16}
                    stroke={on ? ink.blue : tone}
                    strokeDasharray={span.stored ? undefined : "2 2"}
                    style={{ cursor: span.stored && editable ? "grab" : "default" }}
                    onPointerDown={(e) => down(e, limb.ik, span, "both")}
                    onPointerMove={(e) => drag && setDrag({ ...drag, now: at(e) })}
                    onPointerUp={up}
                  />
                  {!fixed && wide > 30 && (
                    <text
                      x={left + wide / 2}
                      y={y + 10}
                      fontSize={10}
                      textAnchor="middle"
                      fill={ink.ink}
                      pointerEvents="none"
                    >
                      {span.plant.about}
                    </text>
                  )}
                  {span.stored &&
                    editable &&
                    (["start", "end"] as const).map((part) => (
                      <rect
                        key={part}
                        x={part === "start" ? left - 3 : left + wide - 3}
                        y={y}
                        width={6}
                        height={ROW - 2}
                        fill="transparent"
                        style={{ cursor: "ew-resize" }}
                        onPointerDown={(e) => down(e, limb.ik, span, part)}
                        onPointerMove={(e) => drag && setDrag({ ...drag, now: at(e) })}
                        onPointerUp={up}
                      />
                    ))}
                </g>
              );
            })}
            {drag?.part === "new" && drag.control === limb.ik && drag.now !== drag.from && (
              <rect
                x={x(dragged(drag)[0]) - 3}
                y={y + 1}
                width={x(dragged(drag)[1]) - x(dragged(drag)[0]) + 6}
                height={ROW - 4}
                rx={2.5}
                fill={ink.blue}
                fillOpacity={0.5}
                pointerEvents="none"
              />
            )}
          </g>
        );
      })}
    </svg>
  );
}

/** The frames of a plant as it is dragged. */
function dragged({ shown, part, from, now }: Drag): [number, number] {
  if (!shown) return from < now ? [from, now] : [now, from];
  const by = now - from;
  if (part === "both") return [shown.start + by, shown.end + by];
  if (part === "start") return [Math.min(shown.start + by, shown.end), shown.end];
  return [shown.start, Math.max(shown.end + by, shown.start)];
}
