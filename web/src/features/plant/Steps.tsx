import { useState } from "react";
import { commit } from "../../desk/steps";
import { type Member, useDesk } from "../../desk/store";
import { Choice } from "../../ui/Choice";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";

/** A turn on the spot in planted steps. */
export function Steps({ member }: { member: Member }) {
  return (
    <>
      <Turn member={member} />
    </>
  );
}

function Turn({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const [angle, setAngle] = useState(40);
  const [steps, setSteps] = useState(3);
  const [step, setStep] = useState(8);
  const [first, setFirst] = useState<"near" | "L" | "R">("near");
  const legs = member.rig.limbs.filter((l) => l.kind === "leg").length;
  if (legs !== 2) return null;
  return (
    <Section title="Turn on the spot" hint={`${frame} to ${frame + steps * step}`}>
      <Line>
        <Word>by</Word>
        <Whole label="Turn in degrees" value={angle} low={-720} high={720} onChange={setAngle} />
        <Word>° in</Word>
        <Whole label="Steps" value={steps} low={2} high={40} width={32} onChange={setSteps} />
        <Word>steps of</Word>
        <Whole label="Frames a step" value={step} low={4} high={200} width={32} onChange={setStep} />
        <Word>frames</Word>
      </Line>
      <Line>
        <Choice
          label="First foot"
          show
          value={first}
          options={[
            { value: "near", label: "the near one" },
            { value: "L", label: "left" },
            { value: "R", label: "right" },
          ]}
          onChange={setFirst}
        />
        <SmallButton
          onClick={() =>
            void commit({ kind: "turn", start: frame, angle: (angle * Math.PI) / 180, steps, step, first })
          }
          title="Master, body and feet are keyed and planted; all of it can be changed afterwards"
        >
          Turn
        </SmallButton>
      </Line>
    </Section>
  );
}
