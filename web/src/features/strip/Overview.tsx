import { useRef } from "react";
import { fitAll, fitTime, pageTime, shiftTime, timeOf } from "../../desk/time";
import { desk, useDesk } from "../../desk/store";
import { useInks } from "../../ui/look";

export const OVERVIEW = 8;

/** All frames of the shot, and which of them are shown: shifted by its middle, zoomed by its ends. */
export function Overview({ left, width }: { left: number; width: number }) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const time = useDesk((s) => s.time);
  const held = useRef<{ part: "first" | "last" | "both"; x: number; first: number; last: number } | null>(null);
  const { first, last } = timeOf({ time, shot });
  const [low, high] = [Math.min(shot.start, first), Math.max(shot.end, last)];
  const wide = Math.max(width - left - 36, 1);
  const gap = wide / Math.max(high - low, 1);
  const x = (f: number) => (f - low) * gap;
  const thumb = { x: Math.min(x(first), wide - 12), width: Math.max((last - first) * gap, 12) };

  function down(event: React.PointerEvent, part: "first" | "last" | "both") {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { part, x: event.clientX, first, last };
  }
  function move(event: React.PointerEvent) {
    const from = held.current;
    if (!from) return;
    const by = (event.clientX - from.x) / gap;
    if (from.part === "both") fitTime(from.first + by, from.last + by);
    else if (from.part === "first") fitTime(Math.min(from.first + by, from.last - 4), from.last);
    else fitTime(from.first, Math.max(from.last + by, from.first + 4));
  }
  const pointer = { onPointerMove: move, onPointerUp: () => (held.current = null) };
  function key(event: React.KeyboardEvent) {
    const by = { ArrowLeft: -0.25, ArrowRight: 0.25, PageUp: -1, PageDown: 1 }[event.key];
    if (by) pageTime(by);
    else if (event.key === "Home") shiftTime(-1e7);
    else if (event.key === "End") shiftTime(1e7);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
  return (
    <svg
      width={wide}
      height={OVERVIEW}
      style={{ position: "absolute", left, top: 0, touchAction: "none", zIndex: 2 }}
      role="scrollbar"
      aria-label="Frames shown"
      aria-orientation="horizontal"
      aria-controls="time"
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuenow={Math.round(first)}
      aria-valuetext={`${Math.round(first)} to ${Math.round(last)} of ${low} to ${high}`}
      tabIndex={0}
      data-testid="time-shown"
      onKeyDown={key}
      onDoubleClick={fitAll}
      onPointerDown={(e) => {
        // Beside it: there at once.
        const f = low + (e.clientX - e.currentTarget.getBoundingClientRect().left) / gap;
        fitTime(f - (last - first) / 2, f + (last - first) / 2);
        const now = timeOf(desk());
        e.currentTarget.setPointerCapture(e.pointerId);
        held.current = { part: "both", x: e.clientX, ...now };
      }}
      {...pointer}
    >
      <title>The frames shown: drag it, drag its ends, double-click for all</title>
      <rect y={2} width={wide} height={4} rx={2} fill={ink.line} />
      <rect
        x={thumb.x}
        y={1}
        width={thumb.width}
        height={6}
        rx={3}
        fill={ink.edge}
        fillOpacity={time ? 1 : 0.35}
        style={{ cursor: "grab" }}
        onPointerDown={(e) => down(e, "both")}
        {...pointer}
      />
      {(["first", "last"] as const).map((part) => (
        <rect
          key={part}
          x={part === "first" ? thumb.x - 4 : thumb.x + thumb.width - 4}
          width={8}
          height={OVERVIEW}
          fill="transparent"
          style={{ cursor: "ew-resize" }}
          onPointerDown={(e) => down(e, part)}
          {...pointer}
        />
      ))}
    </svg>
  );
}
