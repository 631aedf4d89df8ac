import Box from "@mui/material/Box";
import { change, chooseOnWay, chosenFootfall, useWay } from "../../desk/goings";
import { type Footfall, footfallSet, type Way } from "../../model/goings";
import { go } from "../../desk/playing";
import { canChange, type Member, useDesk } from "../../desk/store";
import { DEGREES } from "../../model/units";
import { useInks } from "../../ui/look";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Small } from "./Small";

const SETS: Record<string, string> = { place: "place", heading: "heading", first: "landing", last: "lift" };

/** The footfalls of a way: listed, and one of them by its numbers. */
export function Footfalls(_: { member: Member }) {
  const ink = useInks();
  const way = useWay();
  const editable = useDesk((s) => canChange(s));
  const chosen = useDesk((s) => chosenFootfall(way, s));
  const frame = useDesk((s) => s.frame);
  if (!way) return <Section title="Footfalls">Lay a way first: its footfalls follow.</Section>;
  const listed = way.footfalls.filter((one) => one.number > 0);
  return (
    <>
      {chosen && chosen.number > 0 && <One way={way} one={chosen} editable={editable} />}
      <Section title="Footfalls" hint={chosen ? "" : "click one, here, on the ground or on the strip"}>
        <Box role="list" aria-label="Footfalls" sx={{ display: "grid", gap: 0.25, maxHeight: 300, overflowY: "auto" }}>
          {listed.map((one) => (
            <Box
              key={`${one.leg}${one.number}`}
              role="listitem"
              sx={{ display: "grid", gridTemplateColumns: "56px 84px 1fr", gap: 0.75, alignItems: "center" }}
            >
              <SmallButton
                on={chosen === one}
                onClick={() => {
                  chooseOnWay({ start: way.start, footfall: { number: one.number, leg: one.leg } });
                  if (frame < one.first || frame > one.last) go(one.first);
                }}
              >
                {`${one.number} ${one.leg}`}
              </SmallButton>
              <Word>{one.stays ? `${one.first} on` : `${one.first} to ${one.last}`}</Word>
              <Box component="span" sx={{ fontSize: 12, color: one.short > 0 ? ink.red : ink.faint }}>
                {one.short > 0
                  ? `${Math.round(one.short * 100)} cm out of reach`
                  : one.set_by_hand.length
                    ? `set: ${one.set_by_hand.map((name) => SETS[name]).join(", ")}`
                    : ""}
              </Box>
            </Box>
          ))}
        </Box>
      </Section>
    </>
  );
}

function One({ way, one, editable }: { way: Way; one: Footfall; editable: boolean }) {
  const set = (now: Parameters<typeof footfallSet>[2]) => void change(footfallSet(way, one, now));
  const number = (label: string, value: number, digits: number, on: (v: number) => void) => (
    <Small
      label={`${label} of footfall ${one.number}`}
      value={value}
      digits={digits}
      step={0}
      disabled={!editable}
      onType={(v, by) => on(by ? value + v : v)}
    />
  );
  return (
    <Section title={`Footfall ${one.number}, ${legSaid(one.leg)}`}>
      <Line>
        <Word>lands</Word>
        {number("Landing", one.first, 0, (v) => set({ first: Math.round(v) }))}
        {!one.stays && <Word>lifts</Word>}
        {!one.stays && number("Lift", one.last, 0, (v) => set({ last: Math.round(v) }))}
        <Word>faces</Word>
        {number("Heading, degrees,", one.heading * DEGREES, 0, (v) => set({ heading: v / DEGREES }))}
        <Word>°</Word>
      </Line>
      <Line>
        <Word>x</Word>
        {number("Place x, metres,", one.x, 2, (x) => set({ x }))}
        <Word>z</Word>
        {number("Place z, metres,", one.z, 2, (z) => set({ z }))}
        <Word>m</Word>
      </Line>
      {one.short > 0 && (
        <>
          <Said>{`It is ${Math.round(one.short * 100)} cm out of reach of the foot before.`}</Said>
          <Line>
            {one.nearest && (
              <SmallButton disabled={!editable} onClick={() => set({ x: one.nearest![0], z: one.nearest![1] })}>
                To the nearest in reach
              </SmallButton>
            )}
            <SmallButton disabled={!editable} title="Both feet leave the ground for it" onClick={() => jump(way, one)}>
              Jump there
            </SmallButton>
          </Line>
        </>
      )}
      <Line>
        <SmallButton
          disabled={!editable || !one.set_by_hand.length}
          title="All that is set of it follows from the way again"
          onClick={() => set({ clear: true })}
        >
          As the way has it
        </SmallButton>
        <SmallButton
          disabled={!editable || one.stays}
          title="Later ones keep their places, and come a step sooner with the other foot"
          onClick={() => void change({ kind: "take out footfall", at: way.start, number: one.number, gap: false })}
        >
          Take out
        </SmallButton>
        <SmallButton
          disabled={!editable || one.stays}
          title="All others stay as they are"
          onClick={() => void change({ kind: "take out footfall", at: way.start, number: one.number, gap: true })}
        >
          Leave a gap
        </SmallButton>
        <SmallButton
          disabled={!editable || one.stays}
          title="One more with the same foot, half way to the next"
          onClick={() => void change({ kind: "put in footfall", at: way.start, number: one.number })}
        >
          Skip after it
        </SmallButton>
      </Line>
    </Section>
  );
}

const legSaid = (leg: string) => ({ L: "left", R: "right" })[leg] ?? leg;

const AIR = 6; // frames that nothing stands before who jumps lands (common practice, no source)

/** The foot before it is let go before this one lands: so it is jumped to. */
function jump(way: Way, one: Footfall) {
  const before = way.footfalls.find((other) => other.number === one.number - 1);
  if (!before) return;
  void change(footfallSet(way, before, { last: Math.max(one.first - AIR, before.first + 1) }));
}
