import Box from "@mui/material/Box";
import { changeShot } from "../../desk/casting";
import { flying, middleOf, useFlights } from "../../desk/flights";
import { go } from "../../desk/playing";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { Tried } from "../../desk/widgets/Tried";
import type { AnyEdit, Flight } from "../../model/types";
import { NumberField } from "../../ui/NumberField";
import { Line, Said, Section } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

/** The flights of the figure: frames, height, gravity and way along the ground of each; of these one is typed. */
export function Flights({ member }: { member: Member }) {
  const { data: flights } = useFlights(member);
  const editable = useDesk((s) => canChange(s));
  const ink = useInks();
  if (!flights) return null;
  return (
    <Section title="Flights" hint={flights.length ? "type what is wished; the rest follows" : "nowhere in what plays"}>
      {flights.map((flight) => (
        <Row key={flight.release} flight={flight} member={member} />
      ))}
      {flights.length > 1 && (
        <Line>
          <Tried
            label={`All ${flights.length} fall as things do`}
            edit={flying(flights[0], { also: flights.slice(1).map(middleOf) })}
            disabled={!editable}
          />
        </Line>
      )}
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, fontSize: 12, color: ink.faint }}>
        Gravity of this shot
        <Gravity />
        m/s²
      </Box>
      {flights.length > 0 && (
        <Said>
          The whole figure is moved along, and keeps its motion about its mass. Where frames are made or taken away, all
          later keys go along; so does all that follows where it lands elsewhere.
        </Said>
      )}
    </Section>
  );
}

const LITTLE = 0.35; // radians a second: less is not seen to turn
/** How fast things fall in the world of this shot, for everybody. */
function Gravity() {
  const gravity = useDesk((s) => s.shot?.gravity ?? 9.80665);
  const editable = useDesk((s) => canChange(s));
  return (
    <Box sx={{ width: 58 }}>
      <NumberField
        label="Gravity of this shot"
        value={gravity}
        digits={2}
        step={0}
        low={0.01}
        high={100}
        disabled={!editable}
        onType={(v, by) => void changeShot({ gravity: Math.min(Math.max(by ? gravity + v : v, 0.01), 100) })}
      />
    </Box>
  );
}

function Row({ flight, member }: { flight: Flight; member: Member }) {
  const { release, landing, rise, gravity, far, beside, meets } = flight;
  const ink = useInks();
  const editable = useDesk((s) => canChange(s));
  const frame = useDesk((s) => s.frame);
  const within = frame >= release && frame <= landing;
  const middle = middleOf(flight);
  const frames = landing - release;
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
  const lacking = (side: "before" | "after", n: number, words: string, label: string) =>
    !meets[n] && (
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.75, flexWrap: "wrap" }}>
        <span>{words}</span>
        <Tried
          label={label}
          said={`${label}, from ${release}`}
          title="The body's place changes on the six frames beside; feet and poses with a name stay"
          edit={{ kind: "meet flight", at: middle, side, frames: 6 }}
          disabled={!editable}
        />
      </Box>
    );
  const speed = (n: number) => beside[n].toFixed(1);
  const otherWay = (n: number) =>
    speed(n) === speed(n + 1) && `It ${n ? "goes on" : "comes"} with ${speed(n)} m/s, another way than it flies.`;
  return (
    <Box data-testid="flight" sx={{ display: "grid", gap: 0.5, fontSize: 12, color: ink.faint }}>
      <Box
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
        {number("Frames", frames, 0, 2, 2000, (v) => flying(flight, { frames: Math.round(v) }))}
        <Unit>f</Unit>
        {number("Height", rise * 100, 0, 0.1, 10000, (v) => flying(flight, { height: v / 100 }))}
        <Unit>cm</Unit>
        {number("Gravity", gravity * 100, 0, 1, 1000, (v) => flying(flight, { gravity: v / 100, frames }))}
        <Unit>%</Unit>
      </Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.75 }}>
        <Tried
          label="Fall as things do"
          said={`Fall as things do, from ${release}`}
          edit={flying(flight, {})}
          disabled={!editable}
        />
        lands
        <Box sx={{ width: 52 }}>
          {number("Way along the ground", far, 2, 0, 1000, (v) => flying(flight, { far: v }))}
        </Box>
        m on
      </Box>
      {Object.entries(flight.short).map(([control, short]) => (
        <Box key={control} sx={{ display: "flex", alignItems: "center", gap: 0.75, flexWrap: "wrap" }}>
          <span>
            {member.controls.get(control)?.label ?? control}: {Math.round(1000 * short)} mm too short as it lands.
          </span>
          {frames > 2 && (
            <Tried
              label="A frame less"
              said={`A frame less, from ${release}`}
              edit={flying(flight, { frames: frames - 1 })}
              disabled={!editable}
            />
          )}
          <Tried
            label="Lower body"
            said={`Lower body as it lands at ${landing}`}
            title="The body goes so low at the landing that the foot is reached"
            edit={{ kind: "mend run", fault: "short", control, first: landing, last: landing + 2 }}
            disabled={!editable}
          />
        </Box>
      ))}
      {flight.uneven > LITTLE && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 0.75, flexWrap: "wrap" }}>
          <span>Of its turn {Math.round((flight.uneven * 180) / Math.PI)}° a second come from nothing.</span>
          <Tried
            label="Turn as it may"
            said={`Turn as it may, from ${release}`}
            title="It keeps its angular momentum: tucked it turns faster. How far it has turned as it lands stays"
            edit={{ kind: "turn in flight", at: middle }}
            disabled={!editable}
          />
        </Box>
      )}
      {lacking("before", 0, otherWay(0) || `It comes with ${speed(0)} of ${speed(1)} m/s.`, "Take off so")}
      {lacking("after", 1, otherWay(2) || `It lands with ${speed(2)}, goes on with ${speed(3)} m/s.`, "Land so")}
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
