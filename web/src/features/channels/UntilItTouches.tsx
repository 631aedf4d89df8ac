import { useState } from "react";
import Box from "@mui/material/Box";
import { commitTogether } from "../../desk/company";
import { commit } from "../../desk/steps";
import { canChange, desk, type Member, modeOf, useDesk } from "../../desk/store";
import type { AnyEdit, Control } from "../../model/types";
import { Choice } from "../../ui/Choice";
import { Line, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";

type Touching = Extract<AnyEdit, { kind: "touch" }>;
const WAYS = {
  down: { label: "down", axis: [0, -1, 0] },
  up: { label: "up", axis: [0, 1, 0] },
  left: { label: "along x", axis: [1, 0, 0] },
  right: { label: "against x", axis: [-1, 0, 0] },
  forth: { label: "along z", axis: [0, 0, 1] },
  back: { label: "against z", axis: [0, 0, -1] },
} as const;

/** What is selected moved along an axis until it meets something; the body lowered until a knee is bent so far. */
export function UntilItTouches({ member, controls }: { member: Member; controls: Control[] }) {
  const editable = useDesk((s) => canChange(s));
  const [open, setOpen] = useState(false);
  const [way, setWay] = useState<keyof typeof WAYS>("down");
  const [met, setMet] = useState<NonNullable<Touching["met"]>>("anything");
  const [by, setBy] = useState<NonNullable<Touching["by"]>>("whole");
  const [angle, setAngle] = useState(30);
  const goes = controls.filter((control) => control.can_move);
  const legs = member.rig.limbs.filter((limb) => limb.kind === "leg" && modeOf(member, limb.name) === "ik");
  const own = legs.find((limb) => controls.some((control) => control.limb === limb.name));
  const knee = legs.length > 0 && (own || controls.some((control) => control.kind === "body"));
  const foot = goes.length > 0 && goes.every((control) => legs.some((limb) => limb.ik === control.name));
  if (!goes.length && !knee) return null;
  if (!open)
    return (
      <Box sx={{ mb: 0.75 }}>
        <SmallButton onClick={() => setOpen(true)} title="Moved along an axis until it meets ground, thing or own body">
          Until it touches…
        </SmallButton>
      </Box>
    );
  const { frame, keying, shape } = desk();
  const [x, y, z] = WAYS[way].axis;
  const go = () =>
    void commitTogether(
      goes.map((control) => {
        const part = foot ? by : "whole";
        return {
          member,
          edit: { kind: "touch", frame, control: control.name, x, y, z, met, by: part, keying, shape },
        };
      }),
      true,
    );
  const bend = () =>
    void commit({ kind: "bend knee", frame, angle: (angle * Math.PI) / 180, limb: own?.name ?? "", keying, shape });
  return (
    <Box sx={{ display: "grid", gap: 0.5, mb: 0.75 }} role="group" aria-label="Until it touches">
      {goes.length > 0 && (
        <Line>
          <SmallButton disabled={!editable} onClick={go} title="Within a tenth of a millimetre, on this frame">
            Until it touches
          </SmallButton>
          <Choice
            label="Way"
            show
            value={way}
            options={(Object.keys(WAYS) as (keyof typeof WAYS)[]).map((value) => ({
              value,
              label: WAYS[value].label,
            }))}
            onChange={setWay}
          />
          <Choice
            label="Meets"
            show
            value={met}
            options={[
              { value: "anything", label: "anything" },
              { value: "ground", label: "the ground" },
              { value: "things", label: "things and others" },
              { value: "body", label: "its own body" },
            ]}
            onChange={setMet}
          />
          {foot && (
            <Choice
              label="By"
              show
              value={by}
              options={[
                { value: "whole", label: "whole foot" },
                { value: "heel", label: "heel" },
                { value: "ball", label: "ball" },
                { value: "tip", label: "toe tip" },
              ]}
              onChange={setBy}
            />
          )}
        </Line>
      )}
      {knee && (
        <Line>
          <SmallButton disabled={!editable} onClick={bend} title="The body goes down or up; a straight leg is at 0">
            Body until the knee is at
          </SmallButton>
          <Whole label="Knee in degrees" value={angle} low={0} high={170} onChange={setAngle} />
          <Word>degrees{own ? "" : ", of the knee bent most"}</Word>
        </Line>
      )}
    </Box>
  );
}
