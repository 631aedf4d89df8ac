import Box from "@mui/material/Box";
import { changeLiving, layLiving, livingAt, livingEdit, stretchChosen, weighLiving } from "../../desk/life";
import { unlessGone } from "../../desk/after";
import { go } from "../../desk/playing";
import { tryEdit } from "../../desk/posing";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { BREATHING } from "../../model/amounts";
import { type Living, livingsOf } from "../../model/types";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { Size } from "../../desk/widgets/Size";

/** A hold that lives: breathing, sway and small shifts over a stretch, by how much of each. */
export function LivingHold({ member }: { member: Member }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  useDesk((s) => s.columns); // which say over what a new one is laid
  const spans = livingsOf(member.clip);
  const here = livingAt(member, frame);
  if (member.prop) return null;
  const over = stretchChosen();
  return (
    <Section title="Living hold" hint={here ? `${here.start} to ${here.end}` : "breath, sway and shifts by rule"}>
      {here ? (
        <One key={here.start} member={member} span={here} editable={editable} />
      ) : (
        <>
          <Line>
            <SmallButton
              disabled={!editable}
              onClick={() => void layLiving().then(unlessGone(() => go(Math.max(over.start, frame))))}
              title="It is laid over the keys, which stay as they are; planted feet stay where they are"
            >
              Keep alive from {over.start} to {over.end}
            </SmallButton>
          </Line>
          {spans.length > 0 && (
            <Line>
              {spans.slice(0, 4).map((span) => (
                <SmallButton key={span.start} onClick={() => go(span.start)}>
                  {span.start} to {span.end}
                </SmallButton>
              ))}
              {spans.length > 4 && <Word>and {spans.length - 4} more</Word>}
            </Line>
          )}
          <Box sx={{ color: ink.faint, fontSize: 12 }}>Choose two columns for its first and last frame.</Box>
        </>
      )}
    </Section>
  );
}

function One({ member, span, editable }: { member: Member; span: Living; editable: boolean }) {
  const change = (now: Partial<Living>) => changeLiving(member, span, now);
  const number = (label: string, key: "start" | "end" | "period" | "fade" | "seed", wide = 44) => (
    <Box sx={{ width: wide }}>
      <NumberField
        label={label}
        value={span[key]}
        digits={0}
        step={0}
        disabled={!editable}
        onType={(v, by) => void change({ [key]: Math.round(by ? span[key] + v : v) })}
      />
    </Box>
  );
  return (
    <>
      {BREATHING.map((name) => (
        <Size
          key={name}
          size={name}
          of="living hold"
          value={span[name]}
          disabled={!editable}
          onTry={(now) => tryEdit(livingEdit(span, { [name]: now }))}
          onDone={(v) => weighLiving(member, span, name, v)}
        />
      ))}
      <Line>
        <Word>from</Word>
        {number("Lives from", "start")}
        <Word>to</Word>
        {number("Lives to", "end")}
        <Word>fade</Word>
        {number("Fade of the living hold", "fade", 36)}
      </Line>
      <Line>
        <Word>a breath in</Word>
        {number("Period of the living hold", "period")}
        <Word>frames</Word>
        <SmallButton disabled={!editable} onClick={() => void change({ seed: span.seed + 1 })} title="Another swing">
          Another
        </SmallButton>
      </Line>
      <Line>
        <Tick label="Counts" on={!span.muted} onChange={(on) => void change({ muted: !on })} />
        <Box sx={{ flex: 1 }} />
        <SmallButton
          disabled={!editable}
          onClick={() => void commit({ kind: "living keys", at: span.start })}
          title="As few keys as hold it, in a layer of their own"
        >
          Into keys
        </SmallButton>
        <SmallButton disabled={!editable} onClick={() => void commit({ kind: "drop living", at: span.start })}>
          Take away
        </SmallButton>
      </Line>
    </>
  );
}
