import Box from "@mui/material/Box";
import { useState } from "react";
import { change, useWay } from "../../desk/goings";
import { type Way } from "../../model/goings";
import { canChange, type Member, useDesk } from "../../desk/store";
import { NumberField } from "../../ui/NumberField";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { Quantity } from "./Quantity";

const OF_PACE = ["speed", "cadence", "share", "width", "toe_out", "facing"] as const;

/** How fast a way is gone: keyed at the playhead, or typed as frames. */
export function PaceTab({ member }: { member: Member }) {
  const way = useWay();
  const editable = useDesk((s) => canChange(s));
  if (!way) return <Section title="Pace">Lay a way first: its pace is keyed along it.</Section>;
  return (
    <>
      <Times way={way} editable={editable} />
      <Section title="Pace" hint="keyed at the playhead; curves in the graph">
        {OF_PACE.map((name) => (
          <Quantity key={name} name={name} member={member} way={way} editable={editable} />
        ))}
        <Said>
          Of speed and cadence the one without keys follows from the other, as steps usually do. Less than half on the
          ground is a run.
        </Said>
      </Section>
    </>
  );
}

/** Times in whole frames, from the playhead on. */
function Times({ way, editable }: { way: Way; editable: boolean }) {
  const frame = useDesk((s) => s.frame);
  const shot = useDesk((s) => s.shot)!;
  const step = way.now.cadence > 0 ? Math.round(shot.fps / way.now.cadence) : 12;
  const jumps = way.now.together >= 0.5;
  const on = Math.max(Math.round(way.now.share * step * (jumps ? 1 : 2)), 1);
  const [wish, setWish] = useState<{ on?: number; both?: number; air?: number; together?: boolean }>({});
  const together = wish.together ?? jumps;
  const now = { on: wish.on ?? on, both: wish.both ?? Math.max(on - step, 0), air: wish.air ?? Math.max(step - on, 0) };
  const air = together || now.air > 0;
  const field = (label: string, key: "on" | "both" | "air") => (
    <NumberField
      label={label}
      value={now[key]}
      digits={0}
      step={0}
      low={0}
      disabled={!editable}
      onType={(v, by) => {
        const value = Math.max(Math.round(by ? now[key] + v : v), 0);
        // With both feet on the ground nobody flies, and the other way about.
        const rest = key === "both" && value ? { air: 0, together: false } : key === "air" && value ? { both: 0 } : {};
        setWish({ ...wish, [key]: value, ...rest });
      }}
    />
  );
  const period = air ? now.on + now.air : now.on - now.both;
  return (
    <Section title="Times in frames" hint={`from ${Math.max(frame, way.start)} on`}>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 52px", gap: 0.5, alignItems: "center" }}>
        <Word>A foot is on the ground</Word>
        {field("Frames on the ground", "on")}
        <Word>of that both feet, before and after</Word>
        {field("Frames with both feet", "both")}
        <Word>then in the air</Word>
        {field("Frames in the air", "air")}
      </Box>
      <Tick
        label="Both feet together: a jump or a hop"
        on={together}
        onChange={(is) => setWish({ ...wish, together: is, ...(is ? { both: 0, air: now.air || 15 } : {}) })}
      />
      <Line>
        <SmallButton
          disabled={!editable || now.on < 1}
          onClick={() =>
            void change({
              kind: "way times",
              frame: Math.max(frame, way.start),
              on: now.on,
              both: air ? 0 : now.both,
              air: air ? now.air : 0,
              together,
            }).then((ok) => ok && setWish({}))
          }
        >
          {`Go so: a step in ${period} frames`}
        </SmallButton>
      </Line>
    </Section>
  );
}
