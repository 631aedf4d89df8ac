import { useState } from "react";
import type { Place } from "../model/time";
import { useInks } from "./look";
import { PART, useRoving } from "./roving";

export const ROW = 15;
export const rowsHigh = (count: number) => (count ? count * ROW + 4 : 0);

/** A stretch of frames in a row of the strip. */
export interface RowSpan {
  start: number;
  end: number;
  /** What it is, for readers and the pointer. */
  label: string;
  /** Written on it where there is room. */
  text: string;
  /** Drawn lighter: it holds less than all. */
  soft: boolean;
  /** Stored where it stands; otherwise it is shown from elsewhere and not changed here. */
  stored: boolean;
  chosen: boolean;
}

export interface Row {
  key: string;
  label: string;
  tone: string;
  spans: RowSpan[];
  /** Frames on which what the row is of has keys. */
  keys?: number[];
}

interface Drag {
  row: Row;
  span: RowSpan | null;
  part: "start" | "end" | "both" | "new";
  from: number;
  now: number;
}

/** Rows of spans on the strip's frames: drawn by dragging, dragged at their ends, moved by their middle, or by keys. */
export function SpanRows({
  name,
  rows,
  range,
  place: { x, frameAt, width, first, last, left: labels },
  editable,
  onDraw,
  onChange,
  onChoose,
}: {
  name: string;
  rows: Row[];
  range: [number, number];
  place: Place;
  editable: boolean;
  onDraw?: (row: Row, start: number, end: number) => void;
  onChange: (row: Row, span: RowSpan, start: number, end: number) => void;
  /** A span chosen, with the frame that was pointed at; none where an empty place was. */
  onChoose: (row: Row, span: RowSpan | null, frame: number) => void;
}) {
  const ink = useInks();
  const keys = useRoving<SVGSVGElement>("line");
  const [drag, setDrag] = useState<Drag | null>(null);
  const at = (event: React.PointerEvent) =>
    frameAt(event.clientX - event.currentTarget.closest("svg")!.getBoundingClientRect().left);

  function down(event: React.PointerEvent, row: Row, span: RowSpan | null, part: Drag["part"]) {
    event.stopPropagation();
    if (event.button !== 0) return;
    const frame = Math.min(Math.max(at(event), range[0]), range[1]);
    if (span) onChoose(row, span, Math.min(Math.max(frame, span.start), span.end));
    if (!editable || (span && !span.stored) || (!span && !onDraw)) return;
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    setDrag({ row, span, part, from: frame, now: frame });
  }
  const over = (event: React.PointerEvent) => drag && setDrag({ ...drag, now: at(event) });
  function up() {
    if (!drag) return;
    setDrag(null);
    const { row, span, part, now, from } = drag;
    const [start, end] = dragged(drag);
    if (part === "new") {
      if (now === from) onChoose(row, null, from);
      else onDraw?.(row, start, end);
    } else if (span && (start !== span.start || end !== span.end)) onChange(row, span, start, end);
  }
  const pointer = { onPointerMove: over, onPointerUp: up, onPointerCancel: () => setDrag(null) };

  /** Alt with an arrow moves a span by a frame, with Shift its end alone. */
  function key(event: React.KeyboardEvent, row: Row, span: RowSpan) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!event.altKey || !by || !span.stored || !editable) return;
    event.preventDefault();
    event.stopPropagation();
    const start = span.start + (event.shiftKey ? 0 : by);
    onChange(row, span, start, Math.max(span.end + by, start));
  }

  return (
    <svg
      width={width}
      height={rowsHigh(rows.length)}
      style={{ display: "block", touchAction: "none" }}
      role="group"
      aria-label={name}
      {...keys}
    >
      {rows.map((row, n) => {
        const y = n * ROW + 2;
        return (
          <g key={row.key}>
            <rect
              data-row={row.key}
              x={0}
              y={y}
              width={width}
              height={ROW - 2}
              fill={n % 2 ? "transparent" : ink.sheet}
              style={{ cursor: editable && onDraw ? "crosshair" : "default" }}
              onPointerDown={(e) => down(e, row, null, "new")}
              {...pointer}
            />
            <text x={4} y={y + 10} fontSize={10.5} fontWeight={700} fill={row.tone} pointerEvents="none">
              {row.label}
            </text>
            {row.spans
              .filter((span) => span.end >= first - 1 && span.start <= last + 1)
              .map((span) => {
                const mine = drag?.span === span ? dragged(drag) : [span.start, span.end];
                // What begins before the first frame that is seen begins at the labels.
                const left = Math.max(x(mine[0]) - 3, labels - 14);
                const wide = Math.max(x(mine[1]) + 3 - left, 4);
                const tone = span.chosen ? ink.blue : row.tone;
                return (
                  <g
                    key={`${span.start} ${span.stored}`}
                    role="button"
                    {...PART}
                    aria-pressed={span.chosen}
                    aria-label={span.label}
                    onClick={(e) => e.detail === 0 && onChoose(row, span, span.start)}
                    onKeyDown={(e) => key(e, row, span)}
                  >
                    <title>{span.label}</title>
                    <rect
                      x={left}
                      y={y + 1}
                      width={wide}
                      height={ROW - 4}
                      rx={2.5}
                      fill={tone}
                      fillOpacity={span.stored ? (span.soft ? 0.3 : 0.9) : 0.12}
                      stroke={tone}
                      strokeDasharray={span.stored ? undefined : "2 2"}
                      style={{ cursor: span.stored && editable ? "grab" : "default" }}
                      onPointerDown={(e) => down(e, row, span, "both")}
                      {...pointer}
                    />
                    {span.text && wide > span.text.length * 5.6 + 8 && (
                      <text
                        x={left + wide / 2}
                        y={y + 10}
                        fontSize={10}
                        textAnchor="middle"
                        fill={span.stored && !span.soft ? ink.paper : ink.ink}
                        pointerEvents="none"
                      >
                        {span.text}
                      </text>
                    )}
                    {span.stored &&
                      editable &&
                      (["start", "end"] as const)
                        .filter((part) => part === "end" || span.start >= first - 1)
                        .map((part) => (
                          <rect
                            key={part}
                            x={part === "start" ? left - 3 : left + wide - 3}
                            y={y}
                            width={6}
                            height={ROW - 2}
                            fill="transparent"
                            style={{ cursor: "ew-resize" }}
                            onPointerDown={(e) => down(e, row, span, part)}
                            {...pointer}
                          />
                        ))}
                  </g>
                );
              })}
            {row.keys
              ?.filter((frame) => frame >= first && frame <= last)
              .map((frame) => (
                <path
                  key={`key ${frame}`}
                  d={`M${x(frame) - 3} ${y + ROW / 2 - 1}l3 -3l3 3l-3 3z`}
                  fill={ink.paper}
                  stroke={row.tone}
                  strokeWidth={1.5}
                  pointerEvents="none"
                />
              ))}
            {drag?.part === "new" && drag.row.key === row.key && drag.now !== drag.from && (
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

/** The frames of a span as it is dragged. */
function dragged({ span, part, from, now }: Drag): [number, number] {
  if (!span) return from < now ? [from, now] : [now, from];
  const by = now - from;
  if (part === "both") return [span.start + by, span.end + by];
  if (part === "start") return [Math.min(span.start + by, span.end), span.end];
  return [span.start, Math.max(span.end + by, span.start)];
}
