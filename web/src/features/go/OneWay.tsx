import Box from "@mui/material/Box";
import { useState } from "react";
import { change, chooseOnWay } from "../../desk/goings";
import { changeOf, pointsOf, type Way } from "../../model/goings";
import { useDesk } from "../../desk/store";
import { DEGREES } from "../../model/units";
import { Choice } from "../../ui/Choice";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { Small } from "./Small";

const whole = (value: number, by: boolean, was: number) => Math.round(by ? was + value : value);
const GAITS = [
  { value: "" as const, label: "as is usual at its speed" },
  { value: "walk" as const, label: "walk" },
  { value: "pace" as const, label: "pace" },
  { value: "trot" as const, label: "trot" },
  { value: "canter" as const, label: "canter" },
  { value: "gallop" as const, label: "gallop" },
  { value: "wave" as const, label: "wave, leg after leg" },
];
const FEET = [
  { value: "R" as const, label: "right foot" },
  { value: "L" as const, label: "left foot" },
];

/** A way by its numbers. */
export function OneWay({ way, editable }: { way: Way; editable: boolean }) {
  const set = (now: Parameters<typeof changeOf>[1]) => void change(changeOf(way, now));
  return (
    <>
      <Section
        title={way.turn ? `Turn by ${Math.round(way.turn * DEGREES)}°` : `Way of ${way.length.toFixed(2)} m`}
        hint={`${way.start} to ${way.end}, ${way.footfalls.filter((one) => one.number > 0).length} footfalls`}
      >
        <Line>
          <Word>begins at</Word>
          <Small
            label="First frame of the way"
            value={way.start}
            digits={0}
            step={0}
            disabled={!editable}
            onType={(v, by) => set({ start: whole(v, by, way.start) })}
          />
          {!way.creature && (
            <>
              <Word>with the</Word>
              <Choice
                label="Foot that goes first"
                value={way.begins_with as "L" | "R"}
                options={FEET}
                disabled={!editable}
                onChange={(begins_with) => set({ begins_with })}
              />
            </>
          )}
          <Word>after</Word>
          <Small
            label="Frames until the first foot is lifted"
            value={way.lead}
            digits={0}
            step={0}
            low={0}
            high={240}
            disabled={!editable}
            onType={(v, by) => set({ lead: whole(v, by, way.lead) })}
          />
          <Word>frames</Word>
        </Line>
        {way.creature && (
          <Line>
            <Word>legs go</Word>
            <Choice
              label="Gait"
              value={way.gait as (typeof GAITS)[number]["value"]}
              options={GAITS}
              disabled={!editable}
              onChange={(gait) => set({ gait })}
            />
          </Line>
        )}
        {way.turn ? (
          <Line>
            <Word>turns by</Word>
            <Small
              label="Angle of the turn, degrees"
              value={way.turn * DEGREES}
              digits={0}
              step={0}
              disabled={!editable}
              onType={(v, by) => set({ turn: (by ? way.turn * DEGREES + v : v) / DEGREES })}
            />
            <Word>° to its left</Word>
          </Line>
        ) : (
          <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", alignItems: "center" }}>
            <Tick label="Ends in a stand" on={way.ends} onChange={(ends) => editable && set({ ends })} />
            <Tick label="Goes round" on={way.closed} onChange={(closed) => editable && set({ closed })} />
            {!way.ends && (
              <>
                <Small
                  label="Frames that it lasts"
                  value={way.lasts}
                  digits={0}
                  step={0}
                  low={1}
                  disabled={!editable}
                  onType={(v, by) => set({ lasts: Math.max(whole(v, by, way.lasts), 1) })}
                />
                <Word>frames</Word>
              </>
            )}
          </Box>
        )}
      </Section>
      {!way.turn && <Points way={way} editable={editable} />}
      {!way.turn && !way.closed && <Whole way={way} editable={editable} />}
      <Section title="With all of it">
        <Line>
          <SmallButton
            disabled={!editable}
            title="The fewest keys within 2 mm and a degree, and plants: ordinary motion from then on"
            onClick={() => void change({ kind: "way keys", at: way.start })}
          >
            Into keys
          </SmallButton>
          <SmallButton
            disabled={!editable}
            title="The next way is gone without a stand between"
            onClick={() => void change({ kind: "join ways", at: way.start })}
          >
            Join the next
          </SmallButton>
          <SmallButton
            disabled={!editable}
            title="Where things have moved, feet find again what they lie on"
            onClick={() => void change({ kind: "ground anew" })}
          >
            Ground anew
          </SmallButton>
          <SmallButton
            disabled={!editable}
            title="What is keyed below it is seen again"
            onClick={() => void change({ kind: "drop way", at: way.start })}
          >
            Take away
          </SmallButton>
        </Line>
      </Section>
    </>
  );
}

function Points({ way, editable }: { way: Way; editable: boolean }) {
  const chosen = useDesk((s) => (s.wayChosen?.start === way.start ? s.wayChosen : null));
  const last = way.points.length - 1;
  const move = (n: number, now: { x?: number; z?: number }) =>
    void change(changeOf(way, { points: pointsOf(way, n, now) }));
  const drop = (n: number) => {
    chooseOnWay({ start: way.start });
    void change(changeOf(way, { points: pointsOf(way).filter((_, k) => k !== n) }));
  };
  const along = chosen?.along ?? 0.5 * way.length;
  return (
    <Section title="Points" hint="x and z in the world, metres">
      <Box sx={{ display: "grid", gap: 0.25, maxHeight: 176, overflowY: "auto" }} role="list" aria-label="Points">
        {way.points.map((p, n) => (
          <Box
            key={n}
            role="listitem"
            sx={{ display: "grid", gridTemplateColumns: "30px 58px 58px 1fr auto", gap: 0.5, alignItems: "center" }}
          >
            <SmallButton
              on={chosen?.point === n}
              onClick={() => chooseOnWay({ start: way.start, point: n })}
              sx={{ px: 0.5 }}
            >
              {n + 1}
            </SmallButton>
            {(["x", "z"] as const).map((axis) => (
              <Small
                key={axis}
                label={`Point ${n + 1}, ${axis}, metres`}
                value={p[axis]}
                digits={2}
                step={0}
                disabled={!editable || (n === 0 && way.here)}
                onType={(v, by) => move(n, { [axis]: by ? p[axis] + v : v })}
              />
            ))}
            <Word>{n === 0 && way.here ? "where it stands" : p.set_into || p.set_out ? "handles set" : ""}</Word>
            <SmallButton
              disabled={!editable || last < 2 || (n === 0 && way.here)}
              aria-label={`Take out point ${n + 1}`}
              onClick={() => drop(n)}
            >
              Out
            </SmallButton>
          </Box>
        ))}
      </Box>
      <Line>
        <SmallButton
          disabled={!editable}
          title="Click the line on the stage to say where"
          onClick={() => void change({ kind: "point on way", at: way.start, along })}
        >
          {`Point at ${along.toFixed(2)} m`}
        </SmallButton>
        {chosen?.point !== undefined && (
          <SmallButton
            disabled={!editable}
            onClick={() =>
              void change(changeOf(way, { points: pointsOf(way, chosen.point, { into: null, out: null }) }))
            }
          >
            Handles by themselves
          </SmallButton>
        )}
      </Line>
    </Section>
  );
}

/** The whole of it bent, lengthened, widened by numbers. */
function Whole({ way, editable }: { way: Way; editable: boolean }) {
  const [angle, setAngle] = useState(90);
  const [factor, setFactor] = useState(1.5);
  const [wide, setWide] = useState(1.5);
  const field = (label: string, value: number, digits: number, on: (v: number) => void) => (
    <Small
      label={label}
      value={value}
      digits={digits}
      step={0}
      disabled={!editable}
      onType={(v, by) => on(by ? value + v : v)}
    />
  );
  return (
    <Section title="The whole of it" hint="or by its three handles">
      <Line>
        {field("Angle by which it is bent, degrees", angle, 0, setAngle)}
        <SmallButton
          disabled={!editable}
          onClick={() => void change({ kind: "bend way", at: way.start, angle: angle / DEGREES })}
        >
          ° Bend
        </SmallButton>
        {field("Times as long", factor, 2, setFactor)}
        <SmallButton disabled={!editable} onClick={() => void change({ kind: "stretch way", at: way.start, factor })}>
          × Longer
        </SmallButton>
        {field("Times as wide", wide, 2, setWide)}
        <SmallButton
          disabled={!editable}
          onClick={() => void change({ kind: "widen way", at: way.start, factor: wide })}
        >
          × Wider
        </SmallButton>
      </Line>
    </Section>
  );
}
