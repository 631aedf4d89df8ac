import Box from "@mui/material/Box";
import { change, chooseOnWay, footfallsOf, wayNow, waysOf } from "../../desk/goings";
import { changeOf, footfallSet } from "../../model/goings";
import { go } from "../../desk/playing";
import { canChange, type Member, useDesk } from "../../desk/store";
import { usePlace } from "../../desk/time";
import type { Room } from "../../model/time";
import { sideInk, useInks } from "../../ui/look";
import { type Row, SpanRows } from "../../ui/SpanRows";
import { PACE_HIGH } from "./quantities";

/** Ways, the footfalls of each foot, and the pace, on the strip's frames. */
export function GoRows({ member, room }: { member: Member; room: Room }) {
  const ink = useInks();
  const place = usePlace(room);
  const editable = useDesk((s) => canChange(s));
  const told = useDesk((s) => s.ways);
  const chosen = useDesk((s) => s.wayChosen);
  const shot = useDesk((s) => s.shot)!;
  const ways = told ? waysOf(member) : [];
  const now = wayNow();
  const rows: Row[] = [
    {
      key: "",
      label: "Way",
      tone: ink.blue,
      spans: ways.map((way) => ({
        start: way.start,
        end: way.end,
        stored: true,
        soft: false,
        text: way.turn ? "turn" : `${way.length.toFixed(1)} m`,
        chosen: way.start === now?.start,
        label: `Way ${way.start} to ${way.end}, ${way.turn ? "turn" : `${way.length.toFixed(1)} m`}`,
      })),
    },
    ...member.rig.limbs
      .filter((limb) => limb.kind === "leg")
      .map((limb): Row => {
        const side = member.controls.get(limb.ik)?.side ?? "";
        return {
          key: limb.ik,
          label: `${side} foot`,
          tone: sideInk(ink, side),
          spans: footfallsOf(member, limb.ik).map(({ way, footfall }) => ({
            start: footfall.first,
            end: footfall.last,
            stored: footfall.number > 0,
            soft: !footfall.set_by_hand.length,
            text: footfall.number > 0 ? `${footfall.number}` : "",
            chosen: chosen?.footfall?.number === footfall.number && chosen.footfall.leg === footfall.leg,
            label: `Footfall ${footfall.number} of the way from ${way.start}, ${footfall.first} to ${footfall.last}`,
          })),
        };
      }),
  ];
  const found = (row: Row, start: number) =>
    footfallsOf(member, row.key).find(({ footfall }) => footfall.first === start);
  return (
    <>
      <SpanRows
        name="Ways"
        rows={rows}
        range={[shot.start, shot.end]}
        place={place}
        editable={editable}
        onChange={(row, span, start, end) => {
          if (!row.key) {
            const way = ways.find((one) => one.start === span.start);
            if (way && start !== way.start) void change(changeOf(way, { start }));
            return;
          }
          const mine = found(row, span.start);
          const { first, last } = mine?.footfall ?? { first: start, last: end };
          const times = { first: start === first ? null : start, last: end === last ? null : end };
          if (mine) void change(footfallSet(mine.way, mine.footfall, times));
        }}
        onChoose={(row, span, frame) => {
          if (!span) return;
          if (!row.key) return chooseOnWay({ start: span.start });
          const mine = found(row, span.start);
          if (!mine) return;
          chooseOnWay({
            start: mine.way.start,
            footfall: { number: mine.footfall.number, leg: mine.footfall.leg },
          });
          go(frame);
        }}
      />
      <Pace member={member} room={room} />
    </>
  );
}

/** Speed and share on the ground as two lines, each from nothing to what it is at most. */
function Pace({ member, room }: { member: Member; room: Room }) {
  const ink = useInks();
  const place = usePlace(room);
  const told = useDesk((s) => s.ways);
  const ways = told ? waysOf(member) : [];
  const most = Math.max(...ways.flatMap((way) => way.speed), 0.5);
  const y = (share: number) => (PACE_HIGH - 3 - share * (PACE_HIGH - 8)).toFixed(1);
  const line = (start: number, values: number[], top: number) =>
    values
      .map((value, n) => ({ x: place.x(start + n), value }))
      .filter(({ x }) => x >= place.left - 2)
      .map(({ x, value }, n) => `${n ? "L" : "M"}${x.toFixed(1)} ${y(value / top)}`)
      .join("");
  return (
    <Box sx={{ position: "relative", height: PACE_HIGH }} data-testid="pace-row">
      <svg width={place.width} height={PACE_HIGH} style={{ display: "block" }} aria-hidden>
        <g>
          {ways.map((way) => (
            <g key={way.start} fill="none">
              <path d={line(way.start, way.speed, most)} stroke={ink.blue} strokeWidth={1.8} />
              <path d={line(way.start, way.share, 1)} stroke={ink.axisX} strokeWidth={1.5} strokeDasharray="5 3" />
            </g>
          ))}
        </g>
        <text x={2} y={12} fontSize={10} fill={ink.blue} fontWeight={700}>
          m/s
        </text>
        <text x={2} y={25} fontSize={10} fill={ink.axisX} fontWeight={700}>
          on ground
        </text>
      </svg>
    </Box>
  );
}
