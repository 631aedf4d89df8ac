import { useEffect, useState } from "react";
import { flying } from "../../desk/flights";
import { leaveTry, tryEdit } from "../../desk/posing";
import { commit } from "../../desk/steps";
import { canChange, useDesk } from "../../desk/store";
import type { AnyEdit, Flight } from "../../model/types";
import { useInks } from "../../ui/look";

const CM = 1; // a pixel of the top that is dragged
const REACH = 7;

interface Drag {
  what: "frames" | "height";
  from: { x: number; y: number };
  to: number;
}

/** A flight between what bears: frames, height and gravity; its landing is dragged along, its top up and down. */
export function Flown(p: { flight: Flight; x: (frame: number) => number; labels: number; high: number }) {
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const [drag, setDrag] = useState<Drag | null>(null);
  useEffect(() => {
    if (!drag) return;
    const escape = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      leaveTry();
      setDrag(null);
    };
    window.addEventListener("keydown", escape, true);
    return () => window.removeEventListener("keydown", escape, true);
  }, [drag]);
  const { release, landing, rise, gravity } = p.flight;
  const frames = drag?.what === "frames" ? drag.to : landing - release;
  const height = drag?.what === "height" ? drag.to : Math.round(rise * 100);
  const [from, to] = [Math.max(p.x(release), p.labels - 14), p.x(release + frames)];
  if (to <= from) return null;
  const said = [`${frames} f`, `${height} cm`, `${Math.round(gravity * 100)} %`];
  const told = drag ? [drag.what === "frames" ? said[0] : said[1]] : said;
  const room = drag ? 1 : Math.floor((to - from - 8) / 38);
  const y = p.high / 2;
  const middle = (from + to) / 2;
  const edit = (now: Drag): AnyEdit =>
    flying(p.flight, now.what === "frames" ? { frames: now.to } : { height: now.to / 100 });
  const held = (what: Drag["what"], label: string, cx: number, cy: number) => (
    <circle
      cx={cx}
      cy={cy}
      r={REACH}
      fill="transparent"
      aria-label={label}
      style={{ cursor: what === "frames" ? "ew-resize" : "ns-resize", touchAction: "none" }}
      onPointerDown={(event) => {
        if (event.button !== 0 || !editable) return;
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        const begun = what === "frames" ? landing - release : Math.round(rise * 100);
        setDrag({ what, from: { x: event.clientX, y: event.clientY }, to: begun });
      }}
      onPointerMove={(event) => {
        if (!drag) return;
        const by =
          what === "frames"
            ? Math.round((event.clientX - drag.from.x) / Math.max(p.x(1) - p.x(0), 0.01))
            : Math.round((drag.from.y - event.clientY) * CM);
        const now = Math.max(
          (what === "frames" ? landing - release : Math.round(rise * 100)) + by,
          what === "frames" ? 2 : 1,
        );
        if (now === drag.to) return;
        setDrag({ ...drag, to: now });
        tryEdit(edit({ ...drag, to: now }));
      }}
      onPointerUp={() => {
        if (!drag) return;
        setDrag(null);
        if (drag.to === (what === "frames" ? landing - release : Math.round(rise * 100))) return leaveTry();
        void commit(edit(drag));
      }}
      onPointerCancel={() => {
        leaveTry();
        setDrag(null);
      }}
    />
  );
  return (
    <g data-flight={release}>
      <title>
        A flight from {release} to {landing}: {landing - release} frames, {said[1]} high, {said[2]} of gravity
      </title>
      <path d={`M${from + 2} ${y + 7}Q${middle} ${y - 15} ${to - 2} ${y + 7}`} fill="none" stroke={ink.edge} />
      {room > 0 && (
        <text x={middle} y={y + 7} fontSize={10.5} textAnchor="middle" fill={drag ? ink.blue : ink.ink}>
          {told.slice(0, room).join(" · ")}
        </text>
      )}
      {held("frames", `Landing of the flight from ${release}`, to - 2, y + 5)}
      {held("height", `Top of the flight from ${release}`, middle, y - 4)}
    </g>
  );
}
