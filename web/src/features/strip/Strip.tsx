import Box from "@mui/material/Box";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { deleteChosen, moveColumns } from "../../desk/arranging";
import { go } from "../../desk/playing";
import { dropPending, keyWhole } from "../../desk/posing";
import { select } from "../../desk/selecting";
import { derived, isPose, keyFrames, labelAt } from "../../model/columns";
import { chooseColumns, letColumnsGo } from "../../desk/choosing";
import { toggleStrip } from "../../desk/viewing";
import { active, canChange, onShow, playhead, useDesk } from "../../desk/store";
import { Parts } from "../../desk/widgets/Parts";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";
import { PART, useRoving } from "../../ui/roving";
import { PoseCards } from "./PoseCards";
import { Ranges, Transport } from "./Transport";

/** Where the frames of the strip lie, in pixels from its left, and how wide it is. */
interface Place {
  x: (frame: number) => number;
  frameAt: (left: number) => number;
  width: number;
}

/**
 * Pose cards, the ruler with its columns, the playhead, rows between the two if there are any, and what it is opened
 * into, on the same frames.
 */
export function Strip({
  below,
  between,
  inset,
}: {
  below?: (place: Place) => React.ReactNode;
  between?: { high: number; rows: (place: Place) => React.ReactNode };
  inset: number;
}) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot);
  const member = useDesk((s) => active(s));
  const frame = useDesk((s) => s.frame);
  const columns = useDesk((s) => s.columns);
  const editable = useDesk((s) => canChange(s));
  const opened = useDesk((s) => s.opened);
  const box = useRef<HTMLDivElement>(null);
  const keys = useRoving<SVGSVGElement>("line");
  const needle = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  const [drag, setDrag] = useState<{ frames: number[]; by: number; from: number } | null>(null);
  const keyed = useMemo(() => (member ? keyFrames(member) : []), [member]);
  const known = useDesk((s) => s.faults);
  const faults = useMemo(
    () => Object.values(known).flatMap((group) => (group ?? []).filter((fault) => fault.casting === member?.id)),
    [known, member?.id],
  );
  const waiting = useMemo(() => Object.keys(member?.clip.pending ?? {}).map(Number), [member]);

  useEffect(() => {
    const watch = new ResizeObserver(() => setWidth(box.current?.clientWidth ?? 900));
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);

  const start = shot?.start ?? 1;
  const end = shot?.end ?? 24;
  const left = inset ? inset + 14 : 36; // half a pose card, so that the first stands over its column
  const gap = (width - left - 36) / Math.max(end - start, 1);
  const x = useCallback((f: number) => left + (f - start) * gap, [left, start, gap]);
  const frameOf = useCallback((px: number) => Math.round((px - left) / gap) + start, [left, start, gap]);

  // While playing only the needle moves, without React.
  useEffect(() => {
    const place = () => {
      if (needle.current) needle.current.style.transform = `translateX(${left + (playhead.frame - start) * gap}px)`;
    };
    place();
    return onShow(place);
  }, [start, gap, left]);

  if (!shot || !member) return <Box ref={box} sx={{ height: "100%" }} />;

  const frameAt = (clientX: number) => frameOf(clientX - box.current!.getBoundingClientRect().left);
  const every = [1, 2, 5, 6, 12, 24, 48, 120, 240].find((n) => n * gap >= 34) ?? 480;
  const ticks = Array.from({ length: end - start + 1 }, (_, n) => start + n);
  const here = member.clip.pending[String(frame)];

  function scrub(event: React.PointerEvent) {
    if (event.buttons & 1) go(frameAt(event.clientX));
  }

  function columnDown(event: React.PointerEvent, at: number) {
    event.stopPropagation();
    if (event.button !== 0) return;
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    const many = choose(at, event.shiftKey, columns.includes(at));
    if (editable && !derived(member!.clip, at)) setDrag({ frames: many, by: 0, from: at });
    else go(at);
  }
  /** Chooses a column: alone, added with Shift, or with those that it is chosen among. */
  function choose(at: number, add: boolean, among = false): number[] {
    const many = (add ? [...new Set([...columns, at])] : among ? columns : [at]).sort((a, b) => a - b);
    chooseColumns(many);
    return many;
  }
  /** Alt with an arrow moves the column, and those chosen with it, by a frame. */
  function columnKey(event: React.KeyboardEvent, at: number) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!event.altKey || !by) return;
    event.preventDefault();
    event.stopPropagation();
    if (!editable || derived(member!.clip, at)) return;
    const frames = columns.includes(at) ? columns : [at];
    void moveColumns(frames, by, false).then((ok) => {
      if (!ok) return;
      go(at + by);
      setTimeout(() => keys.ref.current?.querySelector<SVGElement>(`[data-column="${at + by}"]`)?.focus());
    });
  }
  function columnMove(event: React.PointerEvent) {
    if (drag) setDrag({ ...drag, by: frameAt(event.clientX) - drag.from });
  }
  function columnUp(event: React.PointerEvent) {
    if (!drag) return;
    const { frames, by, from } = drag;
    setDrag(null);
    if (by === 0) go(from);
    else void moveColumns(frames, by, event.ctrlKey || event.metaKey).then((ok) => ok && go(from + by));
  }

  return (
    <Box
      sx={{
        height: "100%",
        display: "flex",
        flexDirection: "column",
        bgcolor: ink.paper,
        borderTop: 1,
        borderColor: "divider",
      }}
      data-testid="strip"
    >
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 1, height: 36, flex: "none" }}>
        <Transport />
        <Box sx={{ flex: 1, display: "flex", justifyContent: "center", gap: 0.5, alignItems: "center", minWidth: 0 }}>
          {here ? (
            <>
              <Box role="status" sx={{ color: ink.red, fontWeight: 700, whiteSpace: "nowrap" }}>
                Pending pose at {frame}: not keyed yet
              </Box>
              <SmallButton onClick={() => void keyWhole()}>Key it</SmallButton>
              <SmallButton onClick={() => void dropPending()}>Drop it</SmallButton>
            </>
          ) : columns.length > 0 ? (
            <>
              <Box sx={{ color: ink.faint, whiteSpace: "nowrap" }}>
                Column {columns.slice(0, 4).join(", ")}
                {columns.length > 4 ? " …" : ""}
              </Box>
              <Parts />
              <SmallButton
                onClick={() => void deleteChosen()}
                title="Delete. Drag the column to move it, Ctrl-drag to duplicate it"
              >
                Delete
              </SmallButton>
            </>
          ) : null}
        </Box>
        <SmallButton on={opened === "sheet"} onClick={() => toggleStrip("sheet")} title="Keys by part of the body (S)">
          Sheet
        </SmallButton>
        <SmallButton
          on={opened === "graph"}
          onClick={() => toggleStrip("graph")}
          title="Curves of what is selected (V)"
        >
          Graph
        </SmallButton>
        <Ranges />
      </Box>
      <Box
        ref={box}
        sx={{
          position: "relative",
          flex: below ? "none" : 1,
          height: below ? (opened === "graph" ? 48 : 122) + (between?.high ?? 0) : undefined,
          minHeight: 0,
          overflow: "hidden",
        }}
      >
        {opened !== "graph" && <PoseCards frames={keyed} x={x} width={width} lift={44 + (between?.high ?? 0)} />}
        <Box
          sx={{
            position: "absolute",
            left: 0,
            right: 0,
            bottom: between?.high ?? 0,
            height: 44,
            touchAction: "none",
            cursor: "ew-resize",
          }}
          data-testid="ruler"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            letColumnsGo();
            go(frameAt(e.clientX));
          }}
          onPointerMove={scrub}
        >
          <svg width={width} height={44} style={{ display: "block" }} role="group" aria-label="Columns" {...keys}>
            <rect
              x={x(shot.play_start) - gap / 2}
              y={20}
              width={(shot.play_end - shot.play_start + 1) * gap}
              height={24}
              fill={ink.sheet}
            />
            <line x1={0} x2={width} y1={20.5} y2={20.5} stroke={ink.line} />
            {gap > 2.5 &&
              ticks.map((f) => (
                <line
                  key={f}
                  x1={x(f)}
                  x2={x(f)}
                  y1={21}
                  y2={(f - start) % every === 0 ? 29 : 25}
                  stroke={ink.faint}
                  strokeOpacity={0.6}
                />
              ))}
            {ticks
              .filter((f) => (f - (every > 1 ? Math.min(start, 1) : start)) % every === 0 || f === start)
              .filter((f, n, all) => n === 0 || x(f) - x(all[n - 1]) > 20)
              .map((f) => (
                <text
                  key={f}
                  x={x(f)}
                  y={41}
                  textAnchor="middle"
                  fontSize={11}
                  fill={f >= shot.play_start && f <= shot.play_end ? ink.ink : ink.faint}
                >
                  {f}
                </text>
              ))}
            {faults.map((alert) => (
              <g
                key={`${alert.kind} ${alert.control} ${alert.first}`}
                stroke={ink.red}
                style={{ cursor: "pointer" }}
                onPointerDown={(e) => {
                  e.stopPropagation();
                  select([alert.control], "set", alert.casting);
                  go(alert.worst);
                }}
              >
                <title>{`${alert.says}, ${alert.first} to ${alert.last}`}</title>
                <line x1={x(alert.first) - 2} x2={x(alert.last) + 2} y1={31} y2={31} strokeWidth={2.5} />
                <path d={`M${x(alert.worst)} 25v4`} strokeWidth={2.5} />
              </g>
            ))}
            {waiting.map((f) => (
              <circle
                key={`p${f}`}
                cx={x(f)}
                cy={11}
                r={7}
                fill="none"
                stroke={ink.red}
                strokeWidth={2}
                strokeDasharray="3 2"
              >
                <title>{`Pending pose at ${f}`}</title>
              </circle>
            ))}
            {keyed.map((f) => {
              const moved = drag?.frames.includes(f) ? drag.by : 0;
              const on = columns.includes(f);
              const follows = derived(member.clip, f);
              const label = labelAt(member.clip, f);
              const rank = label?.rank ?? "key";
              return (
                <g
                  key={f}
                  role="button"
                  {...PART}
                  aria-label={`Column ${f}`}
                  aria-pressed={on}
                  onClick={(e) => {
                    if (e.detail > 0) return; // of the pointer, which has chosen it as it went down
                    choose(f, e.shiftKey);
                    go(f);
                  }}
                  onKeyDown={(e) => columnKey(e, f)}
                  data-column={f}
                  transform={`translate(${x(f + moved)} 11)`}
                  data-derived={follows || undefined}
                  style={{ cursor: follows ? "pointer" : "grab" }}
                  onPointerDown={(e) => columnDown(e, f)}
                  onPointerMove={columnMove}
                  onPointerUp={columnUp}
                >
                  <title>
                    {follows
                      ? `Keys at ${f}, which follow others`
                      : `Keys at ${f}${label?.name ? `: ${label.name}` : ""}`}
                  </title>
                  <rect x={-Math.min(gap / 2, 9)} y={-11} width={Math.min(gap, 18)} height={22} fill="transparent" />
                  {!isPose(member, f) ? (
                    <circle
                      r={2.6}
                      fill={on ? ink.blue : follows ? "none" : ink.blue}
                      stroke={follows ? ink.faint : ink.blue}
                      strokeWidth={1.2}
                      strokeDasharray={follows ? "1.5 1.2" : undefined}
                    />
                  ) : rank === "key" ? (
                    <circle
                      r={5.5}
                      fill={on ? ink.blue : ink.sheet}
                      stroke={follows ? ink.faint : ink.blue}
                      strokeWidth={follows ? 1.4 : 2}
                      strokeDasharray={follows ? "2.5 2" : undefined}
                    />
                  ) : (
                    <>
                      <circle
                        r={3.6}
                        fill={on ? ink.blue : ink.sheet}
                        stroke={follows ? ink.faint : ink.blue}
                        strokeWidth={1.6}
                        strokeDasharray={follows ? "2 1.6" : undefined}
                      />
                      {rank === "breakdown" && (
                        <line x1={-5} x2={5} y1={7.5} y2={7.5} stroke={follows ? ink.faint : ink.red} strokeWidth={2} />
                      )}
                    </>
                  )}
                </g>
              );
            })}
          </svg>
        </Box>
        {between && (
          <Box sx={{ position: "absolute", left: 0, right: 0, bottom: 0, height: between.high, overflow: "hidden" }}>
            {between.rows({ x, frameAt: frameOf, width })}
          </Box>
        )}
        <Box
          ref={needle}
          sx={{
            position: "absolute",
            left: -1,
            bottom: between ? 0 : 15,
            top: 2,
            width: 2,
            bgcolor: ink.red,
            pointerEvents: "none",
          }}
        />
        {keyed.length === 0 && (
          <Box
            sx={{
              position: "absolute",
              left: 0,
              right: 0,
              top: 6,
              textAlign: "center",
              color: ink.faint,
              pointerEvents: "none",
            }}
          >
            No keys yet. Pose the figure and press Shift+K: its picture then stands here. Space plays.
          </Box>
        )}
      </Box>
      {below && <Box sx={{ flex: 1, minHeight: 0, position: "relative" }}>{below({ x, frameAt: frameOf, width })}</Box>}
    </Box>
  );
}
