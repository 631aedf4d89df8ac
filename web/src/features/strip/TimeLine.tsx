import { useEffect, useMemo, useRef, useState } from "react";
import { keySaid } from "../../desk/bound";
import { letColumnsGo } from "../../desk/choosing";
import { go } from "../../desk/playing";
import { select } from "../../desk/selecting";
import { active, canChange, onShow, playhead, desk, useDesk } from "../../desk/store";
import { followPlaying, placeNow, shiftTime, timeDrawn, usePlace, useTimeWheel } from "../../desk/time";
import { derived, isPose, keyFramesOfAll, labelAt } from "../../model/columns";
import { between, type Room, leftOf, windowOf } from "../../model/time";
import { useInks } from "../../ui/look";
import { useRoving } from "../../ui/roving";
import { Column, Dense, type Look } from "./Columns";
import { Overview, OVERVIEW } from "./Overview";
import { PoseCards } from "./PoseCards";
import { Scale } from "./Scale";
import { movedTo, useColumnDrag } from "./useColumnDrag";

const RULER = 44;
/** More columns than this are drawn as one shape. */
const MOST = 420;

/** Pose cards, the ruler with its columns, rows below it, and the playhead, on the frames that are looked at. */
export function TimeLine({
  inset,
  cards,
  between: rows,
  onFrame,
}: {
  inset: number;
  /** Whether pose cards stand over the ruler. */
  cards: boolean;
  between?: { high: number; rows: (frame: Room) => React.ReactNode };
  onFrame: (frame: Room) => void;
}) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const member = useDesk((s) => active(s))!;
  const columns = useDesk((s) => s.columns);
  const editable = useDesk((s) => canChange(s));
  const known = useDesk((s) => s.faults);
  const box = useRef<HTMLDivElement>(null);
  const needle = useRef<HTMLDivElement>(null);
  const keys = useRoving<SVGSVGElement>("line");
  const [width, setWidth] = useState(900);
  const left = leftOf(inset);
  const place = usePlace({ left, width });
  const { gap, first, last, x } = place;
  const lift = rows?.high ?? 0;

  useEffect(() => {
    const watch = new ResizeObserver(() => setWidth(box.current?.clientWidth ?? 900));
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    timeDrawn({ left, width });
    onFrame({ left, width });
  }, [left, width, onFrame]);

  // While playing only the needle moves, without React; a page is turned where it would leave.
  useEffect(() => {
    const put = () => {
      if (desk().playing) followPlaying();
      const at = placeNow({ left, width }).x(playhead.frame);
      if (!needle.current) return;
      needle.current.style.transform = `translateX(${at}px)`;
      needle.current.style.visibility = at < left - 14 || at > width ? "hidden" : "visible";
    };
    put();
    return onShow(put);
  }, [left, width, first, last]);

  useTimeWheel(box, { left, width });

  const company = useDesk((s) => s.company);
  const cast = useDesk((s) => s.cast);
  const keyed = useMemo(() => {
    const others = cast.filter(({ id }) => id !== member.id && id in company);
    return keyFramesOfAll([member, ...others]);
  }, [member, company, cast]);
  const waiting = useMemo(() => Object.keys(member.clip.pending).map(Number), [member]);
  const faults = useMemo(
    () => Object.values(known).flatMap((group) => (group ?? []).filter((fault) => fault.casting === member.id)),
    [known, member.id],
  );
  const timeAt = (clientX: number) => place.timeAt(clientX - box.current!.getBoundingClientRect().left);
  const frameAt = (clientX: number) => Math.round(timeAt(clientX));
  const { held, acts, band, endOf } = useColumnDrag(frameAt, timeAt, keys.ref);

  const [from, to] = windowOf({ first, last });
  const looks = useMemo(() => {
    const on = new Set(columns);
    return between(keyed, from, to).map((frame): Look => {
      const label = labelAt(member.clip, frame);
      const pose = isPose(member, frame);
      const follows = derived(member.clip, frame);
      const rank = label?.rank ?? "key";
      return { frame, pose, rank, name: label?.name ?? "", follows, on: on.has(frame), at: movedTo(held, frame) };
    });
  }, [member, keyed, columns, held, from, to]);
  const dense = looks.length > MOST;
  const chosenHere = editable && columns.length > 1 && columns.every((f) => !derived(member.clip, f));

  function nearest(clientX: number): number | null {
    const at = timeAt(clientX);
    const [a, b] = [at - 5 / gap, at + 5 / gap];
    const some = between(keyed, a, b);
    return some.length ? some.reduce((one, two) => (Math.abs(one - at) <= Math.abs(two - at) ? one : two)) : null;
  }

  // Frames before the first that is shown lie under the labels: they are cut off there.
  const shift = { transform: `translate(${left - first * gap} 0)` };
  return (
    <div
      ref={box}
      id="time"
      data-testid="time"
      data-first={first.toFixed(2)}
      data-last={last.toFixed(2)}
      onPointerDownCapture={(e) => {
        if (e.button === 0) return;
        e.stopPropagation();
        drag(e, gap);
      }}
      onContextMenu={(e) => e.preventDefault()}
      style={{ position: "relative", height: "100%", overflow: "hidden" }}
    >
      <Overview left={left} width={width} />
      {cards && (
        <div style={{ position: "absolute", inset: 0, top: OVERVIEW }}>
          <PoseCards frames={keyed} place={place} lift={RULER + lift} />
        </div>
      )}
      <div
        style={{
          position: "absolute",
          left: 0,
          right: 0,
          bottom: lift,
          height: RULER,
          touchAction: "none",
          cursor: "ew-resize",
        }}
        data-testid="ruler"
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          letColumnsGo();
          go(frameAt(e.clientX));
        }}
        onPointerMove={(e) => e.buttons & 1 && !held && go(frameAt(e.clientX))}
      >
        <svg width={width} height={RULER} style={{ display: "block" }} role="group" aria-label="Columns" {...keys}>
          <clipPath id="time-clip">
            <rect x={left - 14} width={Math.max(width - left + 14, 0)} height={RULER} />
          </clipPath>
          <g clipPath="url(#time-clip)">
            <rect
              x={x(shot.play_start - 0.5)}
              y={20}
              width={(shot.play_end - shot.play_start + 1) * gap}
              height={24}
              fill={ink.sheet}
            />
            <rect
              x={0}
              width={width}
              height={20}
              fill="transparent"
              style={{ cursor: "crosshair" }}
              data-testid="column-row"
              onPointerDown={(e) => {
                const at = dense ? nearest(e.clientX) : null;
                if (at === null) band.onPointerDown(e);
                else acts.down(e, at);
              }}
              onPointerMove={(e) => (held?.what === "columns" ? acts.move(e) : band.onPointerMove(e))}
              onPointerUp={(e) => (held?.what === "columns" ? acts.up(e) : band.onPointerUp(e))}
            >
              <title>Drag to choose the columns inside (over columns: with Alt); Shift adds, Ctrl takes away</title>
            </rect>
            <line x1={0} x2={width} y1={20.5} y2={20.5} stroke={ink.line} />
            <g {...shift}>
              <Scale
                from={from}
                to={to}
                gap={gap}
                start={shot.start}
                end={shot.end}
                playStart={shot.play_start}
                playEnd={shot.play_end}
              />
            </g>
            {faults
              .filter((alert) => alert.last >= first && alert.first <= last)
              .map((alert) => (
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
            {waiting
              .filter((f) => f >= first && f <= last)
              .map((f) => (
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
            <g {...shift}>
              {dense ? (
                <Dense looks={looks} gap={gap} />
              ) : (
                looks.map((look) => <Column key={look.frame} look={look} gap={gap} acts={acts} />)
              )}
            </g>
            {chosenHere &&
              (["first", "last"] as const).map((which) => {
                const at = movedTo(held, which === "first" ? columns[0] : columns[columns.length - 1]);
                const side = which === "first" ? -1 : 1;
                return (
                  <g
                    key={which}
                    transform={`translate(${x(at) + side * 11} 0)`}
                    style={{ cursor: "ew-resize" }}
                    data-end={which}
                    {...endOf(columns, which)}
                  >
                    <title>Drag to scale the time of what is chosen</title>
                    <rect x={-5} width={10} height={20} fill="transparent" />
                    <path
                      d={`M${-2 * side} 3h${2 * side}v16h${-2 * side}`}
                      fill="none"
                      stroke={ink.blue}
                      strokeWidth={2}
                    />
                  </g>
                );
              })}
            {held?.what === "band" && held.moved && (
              <rect
                x={x(Math.min(held.from, held.to))}
                width={Math.abs(held.to - held.from) * gap}
                height={20}
                fill={ink.blue}
                fillOpacity={0.16}
                pointerEvents="none"
              />
            )}
          </g>
        </svg>
      </div>
      {rows && (
        <div style={{ position: "absolute", left: 0, right: 0, bottom: 0, height: rows.high, overflow: "hidden" }}>
          {rows.rows({ left, width })}
        </div>
      )}
      <div
        ref={needle}
        style={{
          position: "absolute",
          left: -1,
          bottom: rows ? 0 : 15,
          top: 2,
          width: 2,
          background: ink.red,
          pointerEvents: "none",
        }}
      />
      {keyed.length === 0 && (
        <div
          style={{
            position: "absolute",
            left: 0,
            right: 0,
            top: 12,
            textAlign: "center",
            color: ink.faint,
            pointerEvents: "none",
          }}
        >
          No keys yet. Pose the figure and press {keySaid("key whole")}: its picture then stands here.{" "}
          <>{keySaid("play")} plays.</>
        </div>
      )}
    </div>
  );
}

/** Another button than the first shifts time along with the hand. */
function drag(event: React.PointerEvent, gap: number) {
  const target = event.currentTarget as HTMLElement;
  let x = event.clientX;
  target.setPointerCapture(event.pointerId);
  const move = (e: PointerEvent) => {
    e.stopPropagation(); // what measures the page at every move has nothing to find here
    shiftTime((x - e.clientX) / gap);
    x = e.clientX;
  };
  const up = () => {
    target.removeEventListener("pointermove", move);
    target.removeEventListener("pointerup", up);
    target.removeEventListener("pointercancel", up);
  };
  target.addEventListener("pointermove", move);
  target.addEventListener("pointerup", up);
  target.addEventListener("pointercancel", up);
}
