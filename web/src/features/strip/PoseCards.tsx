import Box from "@mui/material/Box";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import { chartsOf } from "../../desk/gaps";
import { go } from "../../desk/playing";
import { pictureAt, pictures, wishPicture } from "../../desk/pictures";
import { derived, isPose, labelAt } from "../../model/columns";
import { between, type Place, thinned, windowOf } from "../../model/time";
import { chooseGap } from "../../desk/choosing";
import { openStrip } from "../../desk/viewing";
import { useLookUp } from "../../desk/looking";
import { active, desk, useDesk } from "../../desk/store";
import type { Chart } from "../../model/types";
import { useInks } from "../../ui/look";

const CARD = { width: 66, height: 74 };
const CAPTION = 28;

/**
 * A picture of each key pose, where its column is; where keys lie close, those of named poses first, and a small mark
 * where a pose has no room for its own. They stand on what is `lift` pixels high below them.
 */
export function PoseCards({ frames, place, lift }: { frames: number[]; place: Place; lift: number }) {
  const ink = useInks();
  const member = useDesk((s) => active(s));
  const { gap, first, last, left, width, x } = place;
  // Of all frames, not of those that are seen: shifting time takes no card away and brings none.
  const carded = useMemo(() => {
    if (!member) return [];
    // Named keys have a card first, then breakdowns, then whole columns, then the rest.
    const rank = (f: number) => {
      const label = labelAt(member.clip, f);
      return label ? (label.rank === "key" ? 0 : 1) : isPose(member, f) ? 2 : 3;
    };
    return thinned(frames, rank, gap, CARD.width + 2);
  }, [frames, gap, member]);
  const [from, to] = windowOf({ first, last });
  const chosen = useMemo(() => between(carded, from, to), [carded, from, to]);
  const without = useMemo(() => {
    const has = new Set(chosen);
    return between(frames, from, to).filter((f) => !has.has(f) && member && isPose(member, f));
  }, [chosen, frames, from, to, member]);
  const wanted = useDesk((s) => s.chartsShown) && member && !member.prop && chosen.length > 1 && chosen.length <= 60;
  const charts = useLookUp({
    what: "charts",
    of: [member?.id, chosen],
    ask: (takeId) => chartsOf(takeId, member!.id, chosen),
    enabled: !!wanted,
    keep: !!wanted,
  });
  const half = CARD.width / 2;
  return (
    <div
      style={{
        position: "absolute",
        left: left - half,
        right: 0,
        top: 0,
        bottom: lift,
        zIndex: 1,
        overflow: "hidden", // a low strip cuts the pictures, never the columns below them
        pointerEvents: "none",
      }}
    >
      <svg
        width={Math.max(width - left + half, 0)}
        height={6}
        aria-hidden
        style={{ position: "absolute", left: 0, bottom: 0, pointerEvents: "none" }}
      >
        {/* A pose without a card: small, but there. */}
        <path
          d={without.map((f) => `M${x(f) - left + half - 2} 1h4v4h-4z`).join("")}
          fill={ink.sheet}
          stroke={ink.faint}
          strokeWidth={0.8}
        />
      </svg>
      <div style={{ transform: `translateX(${half - first * gap}px)`, position: "absolute", left: 0, top: 0 }}>
        {charts.data?.map((chart) => {
          const [a, b] = [chart.first * gap + half + 3, chart.last * gap - half - 3];
          return b - a < 24 ? null : <SmallChart key={chart.first} chart={chart} left={a} wide={b - a} />;
        })}
        {chosen.map((f) => (
          <Card key={f} frame={f} left={f * gap - half} />
        ))}
      </div>
    </div>
  );
}

/** Where the frames between two poses stand, as on paper; a click takes the gap into the bench. */
function SmallChart({ chart, left, wide }: { chart: Chart; left: number; wide: number }) {
  const ink = useInks();
  const on = useDesk((s) => s.gap?.first === chart.first);
  const x = (favour: number) => 2 + Math.min(Math.max(favour, -0.05), 1.05) * (wide - 4);
  return (
    <Box
      component="button"
      aria-label={`Timing chart from ${chart.first} to ${chart.last}`}
      title={`Timing from ${chart.first} to ${chart.last}: a click opens it in the bench`}
      onClick={() => chooseGap(chart.first, chart.last)}
      sx={{
        position: "absolute",
        left,
        width: wide,
        top: 16,
        height: 34,
        p: 0,
        border: 0,
        bgcolor: "transparent",
        pointerEvents: "auto",
        cursor: "pointer",
      }}
    >
      <svg width={wide} height={34} aria-hidden>
        <line x1={2} x2={wide - 2} y1={17} y2={17} stroke={on ? ink.blue : ink.faint} strokeWidth={on ? 2 : 1} />
        {chart.favours.map((favour, n) => {
          const end = n === 0 || n === chart.favours.length - 1;
          return (
            <line
              key={n}
              x1={x(favour)}
              x2={x(favour)}
              y1={end ? 7 : 11}
              y2={end ? 27 : 23}
              stroke={end ? ink.blue : ink.ink}
              strokeWidth={end ? 2 : 1.2}
            />
          );
        })}
      </svg>
    </Box>
  );
}

const Card = memo(function Card({ frame, left }: { frame: number; left: number }) {
  const ink = useInks();
  const box = useRef<HTMLCanvasElement>(null);
  const view = useDesk((s) => s.view);
  // The picture is drawn anew only when this very frame moves differently.
  const stamp = useDesk((s) => s.cast.map((m) => m.motion.stampOf(frame)).join());
  const here = useDesk((s) => s.frame === frame);
  const member = useDesk((s) => active(s));
  const label = member && labelAt(member.clip, frame);
  const follows = !!member && derived(member.clip, frame);
  const rank = label?.rank ?? "key";
  const [ready, setReady] = useState(0);

  useEffect(() => {
    const again = () => setReady((n) => n + 1);
    pictures.listeners.add(again);
    return () => void pictures.listeners.delete(again);
  }, []);

  useEffect(
    () =>
      wishPicture(`card ${frame}`, () => {
        const own = desk().cast.filter((m) => m.id === desk().activeId);
        const picture = pictureAt(frame, {
          width: CARD.width,
          height: CARD.height - CAPTION,
          sheet: ink.sheet,
          view,
          of: own,
        });
        if (picture) box.current?.getContext("2d")?.drawImage(picture, 0, 0);
      }),
    [frame, stamp, view, ready, ink, member?.id],
  );

  return (
    <Box
      component="button"
      onDoubleClick={() => openStrip("graph")}
      onClick={() => go(frame)}
      title={`${label?.name || "Pose"} at ${frame}${follows ? ", follows another" : ""}`}
      sx={{
        position: "absolute",
        left,
        top: 1,
        width: CARD.width,
        height: CARD.height,
        p: 0,
        border: here ? 2 : 1,
        borderColor: here ? ink.blue : ink.line,
        borderStyle: follows ? "dashed" : "solid",
        borderRadius: 1,
        bgcolor: ink.sheet,
        pointerEvents: "auto",
        cursor: "pointer",
        overflow: "hidden",
        fontFamily: "inherit",
        color: ink.ink,
      }}
    >
      <canvas
        ref={box}
        width={CARD.width * 2}
        height={(CARD.height - CAPTION) * 2}
        style={{ display: "block", width: "100%", height: CARD.height - CAPTION }}
      />
      <Box sx={{ height: CAPTION, fontSize: 11, lineHeight: "13px", opacity: follows ? 0.75 : 1, overflow: "hidden" }}>
        {/* Keys are ringed and breakdowns underlined, as on paper. */}
        <Box
          component="span"
          sx={{
            display: "inline-block",
            lineHeight: "11px",
            ...(rank === "key"
              ? { border: 1.5, borderColor: ink.blue, borderRadius: 6, px: 0.5 }
              : rank === "breakdown"
                ? { borderBottom: 2, borderColor: ink.red }
                : {}),
          }}
        >
          {frame}
        </Box>
        {label?.name && (
          <Box
            sx={{
              fontSize: 10.5,
              lineHeight: "12px",
              overflow: "hidden",
              textOverflow: "ellipsis",
              whiteSpace: "nowrap",
              px: 0.25,
            }}
          >
            {follows ? label.name.replace("Opposite", "Opp.") : label.name}
          </Box>
        )}
      </Box>
    </Box>
  );
});
