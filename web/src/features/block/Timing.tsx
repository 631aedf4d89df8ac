import { useState } from "react";
import { commitFor, meant } from "../../desk/company";
import { say } from "../../desk/steps";
import { desk, type Member, useDesk } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import { Line, Section, Word } from "../../ui/Section";
import { NumberField } from "../../ui/NumberField";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { Whole } from "../../ui/Whole";
import Box from "@mui/material/Box";
import { Delay } from "./Delay";

/** Frames more and fewer, holds, scaled gaps, and parts that trail. */
export function Timing({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const columns = useDesk((s) => s.columns);
  const [count, setCount] = useState(1);
  const [held, setHeld] = useState(4);
  const [drift, setDrift] = useState(5);
  const [push, setPush] = useState(true);
  const [factor, setFactor] = useState(50);
  const [along, setAlong] = useState(true);
  const withParts = (make: (controls: string[] | null) => AnyEdit) =>
    void commitFor(meant(), ({ controls }) => make(controls));
  const scale = (percent: number) => {
    const { columns: chosen } = desk();
    if (chosen.length < 2)
      return say(
        "Select two columns or more on the strip (Shift adds): the gap between them is scaled about the first.",
      );
    withParts((controls) => ({
      kind: "scale",
      frames: chosen,
      about: chosen[0],
      factor: percent / 100,
      controls,
      along,
    }));
  };
  return (
    <>
      <Section title={`After frame ${frame}`} hint="all later keys move along">
        <Line>
          <SmallButton onClick={() => withParts((controls) => ({ kind: "insert", after: frame, count, controls }))}>
            Insert
          </SmallButton>
          <SmallButton
            onClick={() => withParts((controls) => ({ kind: "insert", after: frame, count: -count, controls }))}
          >
            Remove
          </SmallButton>
          <Whole label="Frames to insert" value={count} low={1} high={500} onChange={setCount} />
          <Word>{count === 1 ? "frame" : "frames"}</Word>
        </Line>
      </Section>
      <Section title={`Hold the pose of ${frame}`}>
        <Line>
          <SmallButton
            onClick={() => withParts((controls) => ({ kind: "hold", frame, count: held, drift: 0, push, controls }))}
          >
            Hold
          </SmallButton>
          <SmallButton
            onClick={() =>
              withParts((controls) => ({ kind: "hold", frame, count: held, drift: drift / 100, push, controls }))
            }
            title="It drifts a little towards the next pose"
          >
            Moving hold
          </SmallButton>
          <SmallButton
            onClick={() => withParts((controls) => ({ kind: "hold", frame, count: 1, drift: 0, push: true, controls }))}
            title="The pose is seen for one frame more"
          >
            +1
          </SmallButton>
        </Line>
        <Line>
          <Word>for</Word>
          <Whole label="Frames held" value={held} low={1} high={500} onChange={setHeld} />
          <Word>frames, drift</Word>
          <Whole label="Drift in percent" value={drift} low={0} high={50} onChange={setDrift} />
          <Word>%</Word>
        </Line>
        <Tick label="Later keys move along" on={push} onChange={setPush} />
      </Section>
      <Section
        title="Scale the gap"
        hint={columns.length > 1 ? `from ${columns[0]} to ${columns[columns.length - 1]}` : "between selected columns"}
      >
        <Line>
          <SmallButton onClick={() => scale(50)}>Halve</SmallButton>
          <SmallButton onClick={() => scale(200)}>Double</SmallButton>
          <SmallButton onClick={() => scale(factor)}>Scale to</SmallButton>
          <Box sx={{ width: 48 }}>
            <NumberField
              label="Scale in percent"
              value={factor}
              digits={0}
              step={0}
              onType={(v, by) => setFactor(by ? factor + v : v)}
            />
          </Box>
          <Word>%</Word>
        </Line>
        <Tick label="Later keys move along" on={along} onChange={setAlong} />
      </Section>
      <Delay member={member} />
    </>
  );
}
