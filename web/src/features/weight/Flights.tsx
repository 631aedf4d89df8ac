import Box from "@mui/material/Box";
import { useFlights } from "../../desk/flights";
import { go } from "../../desk/playing";
import { leaveTry, tryEdit } from "../../desk/posing";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import type { AnyEdit, Flight } from "../../model/types";
import { NumberField } from "../../ui/NumberField";
import { Said, Section } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

/** The flights of the figure: each with its frames, its height and its gravity; of these one is typed. */
export function Flights({ member }: { member: Member }) {
  const { data: flights } = useFlights(member);
  if (!flights?.length) return null;
  return (
    <Section title="Flights" hint="type what is wished; the rest follows">
      {flights.map((flight) => (
        <Row key={flight.release} flight={flight} />
      ))}
      <Said>
        The whole figure is moved along, and keeps its motion about its mass. Where frames are made or taken away, all
        later keys go along.
      </Said>
    </Section>
  );
}

function Row({ flight: { release, landing, rise, gravity } }: { flight: Flight }) {
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const frame = useDesk((s) => s.frame);
  const within = frame >= release && frame <= landing;
  const middle = Math.floor((release + landing) / 2);
  const frames = landing - release;
  const fly = (wished: Partial<Extract<AnyEdit, { kind: "fly" }>>): AnyEdit => ({
    kind: "fly",
    at: middle,
    frames: null,
    height: null,
    gravity: 1,
    ...wished,
  });
  const number = (
    label: string,
    value: number,
    digits: number,
    low: number,
    high: number,
    edit: (v: number) => AnyEdit,
  ) => (
    <NumberField
      label={`${label} of the flight from ${release}`}
      value={value}
      digits={digits}
      step={0}
      low={low}
      high={high}
      disabled={!editable}
      onType={(typed, by) => void commit(edit(Math.min(Math.max(by ? value + typed : typed, low), high)))}
    />
  );
  const asItFalls = fly({});
  return (
    <Box
      data-testid="flight"
      sx={{
        display: "grid",
        gridTemplateColumns: "60px 40px 8px 46px 18px 46px 12px",
        gap: 0.5,
        alignItems: "center",
      }}
    >
      <SmallButton on={within} onClick={() => go(middle)} title="Go to its middle" sx={{ px: 0.5 }}>
        {release}–{landing}
      </SmallButton>
      {number("Frames", frames, 0, 2, 2000, (v) => fly({ frames: Math.round(v) }))}
      <Unit>f</Unit>
      {number("Height", rise * 100, 0, 0.1, 10000, (v) => fly({ height: v / 100 }))}
      <Unit>cm</Unit>
      {number("Gravity", gravity * 100, 0, 1, 1000, (v) => fly({ gravity: v / 100, frames }))}
      <Unit>%</Unit>
      <Box sx={{ gridColumn: "1 / -1", display: "flex", alignItems: "center", gap: 1, color: ink.faint, fontSize: 12 }}>
        <SmallButton
          disabled={!editable}
          title="While the pointer is here, the stage shows how it would be"
          aria-label={`Fall as things do, from ${release}`}
          onPointerEnter={() => tryEdit(asItFalls)}
          onPointerLeave={leaveTry}
          onFocus={() => tryEdit(asItFalls)}
          onBlur={leaveTry}
          onClick={() => void commit(asItFalls)}
        >
          Fall as things do
        </SmallButton>
        in {frames} frames
      </Box>
    </Box>
  );
}

const Unit = ({ children }: { children: string }) => {
  const ink = useInks();
  return (
    <Box component="span" sx={{ fontSize: 12, color: ink.faint }}>
      {children}
    </Box>
  );
};
