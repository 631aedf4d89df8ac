import Box from "@mui/material/Box";
import { useState } from "react";
import {
  changeShake,
  weighShake,
  layShake,
  shaken,
  shakeEdit,
  shakesAt,
  type Shaking,
  stretchShaken,
} from "../../desk/life";
import { unlessGone } from "../../desk/after";
import { go } from "../../desk/playing";
import { tryEdit } from "../../desk/posing";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { SHAKING } from "../../model/amounts";
import { type Shake, shakesOf } from "../../model/types";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { Size } from "../../desk/widgets/Size";

/** Shakes: a part that is shaken by a blow or a step, less and less in time and along the body. */
export function Shakes({ member }: { member: Member }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  useDesk((s) => s.selection); // in which a new one begins
  useDesk((s) => s.columns);
  const [chosen, choose] = useState("");
  const here = shakesAt(member, frame);
  const shown = here.find(({ control }) => control === chosen) ?? here[0];
  const others = shakesOf(member.clip).filter(({ span }) => !here.some((other) => other.span === span));
  const from = shaken(member);
  const over = stretchShaken();
  const name = (control: string) => member.controls.get(control)?.label ?? control;
  const free = !here.some(({ control }) => control === from);
  return (
    <Section title="Shake" hint={shown ? `${shown.span.start} to ${shown.span.end}` : "dies away, less along the body"}>
      {here.length > 1 && (
        <Line>
          {here.map(({ control }) => (
            <SmallButton key={control} on={control === shown.control} onClick={() => choose(control)}>
              {name(control)}
            </SmallButton>
          ))}
        </Line>
      )}
      {shown && (
        <One
          key={`${shown.control} ${shown.span.start}`}
          member={member}
          shaking={shown}
          name={name(shown.control)}
          editable={editable}
        />
      )}
      {free && (
        <Line>
          <SmallButton
            disabled={!editable}
            onClick={() =>
              void layShake(member).then(unlessGone(() => (choose(from), go(Math.max(over.start, frame)))))
            }
            title="It begins in what is selected, or in the hips, at the playhead or over the chosen columns"
          >
            Shake {name(from)} from {over.start} to {over.end}
          </SmallButton>
        </Line>
      )}
      {others.length > 0 && (
        <Line>
          {others.slice(0, 3).map(({ control, span }) => (
            <SmallButton key={`${control} ${span.start}`} onClick={() => go(span.start)}>
              {name(control)} {span.start} to {span.end}
            </SmallButton>
          ))}
          {others.length > 3 && <Word>and {others.length - 3} more</Word>}
        </Line>
      )}
      {!shown && (
        <Box sx={{ color: ink.faint, fontSize: 12 }}>
          It begins in the selected control, or in the hips: shaken hips leave the head quiet.
        </Box>
      )}
    </Section>
  );
}

interface OneProps {
  member: Member;
  shaking: Shaking;
  name: string;
  editable: boolean;
}

function One({ member, shaking, name, editable }: OneProps) {
  const { control, span } = shaking;
  const change = (now: Partial<Shake>) => changeShake(member, shaking, now);
  const number = (label: string, key: "start" | "end" | "period" | "half", digits = 0) => (
    <Box sx={{ width: 44 }}>
      <NumberField
        label={label}
        value={span[key]}
        digits={digits}
        step={0}
        disabled={!editable}
        onType={(v, by) => {
          const to = by ? span[key] + v : v;
          void change({ [key]: digits ? to : Math.round(to) });
        }}
      />
    </Box>
  );
  // No spine gives way to what goes up and down, so that only hands and things shake that way.
  const trunk = ["trunk", "body"].includes(member.controls.get(control)?.kind ?? "");
  return (
    <>
      <Word>{name}</Word>
      {([...SHAKING, "factor"] as const)
        .filter((way) => way !== "up" || !trunk)
        .map((way) => (
          <Size
            key={way}
            size={way}
            of={`shake of ${name}`}
            value={span[way]}
            disabled={!editable}
            onTry={(now) => tryEdit(shakeEdit(shaking, { [way]: now }))}
            onDone={(v) => weighShake(member, shaking, way, v)}
          />
        ))}
      <Line>
        <Word>from</Word>
        {number("Shakes from", "start")}
        <Word>to</Word>
        {number("Shakes to", "end")}
        <SmallButton disabled={!editable} onClick={() => void change({ seed: span.seed + 1 })} title="Another shake">
          Another
        </SmallButton>
      </Line>
      <Line>
        <Word>a swing in</Word>
        {number("Frames of a swing", "period", 1)}
        <Word>half after</Word>
        {number("Frames until it is half", "half")}
        <Word>frames</Word>
      </Line>
      <Line>
        <Tick label="Counts" on={!span.muted} onChange={(on) => void change({ muted: !on })} />
        <Box sx={{ flex: 1 }} />
        <SmallButton
          disabled={!editable}
          onClick={() => void commit({ kind: "shake keys", control, at: span.start })}
          title="As few keys as hold it, in a layer of their own"
        >
          Into keys
        </SmallButton>
        <SmallButton disabled={!editable} onClick={() => void commit({ kind: "drop shake", control, at: span.start })}>
          Take away
        </SmallButton>
      </Line>
    </>
  );
}
