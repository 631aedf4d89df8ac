import Box from "@mui/material/Box";
import { useState } from "react";
import { stretchChosen } from "../../desk/life";
import { go } from "../../desk/playing";
import { allThatHangs, changeSpring, hanging, laySprings, type Springing, springsAt } from "../../desk/springs";
import { ask, http } from "../../api/client";
import { useLookUp } from "../../desk/looking";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { layersOf } from "../../model/layers";
import { type Spring, springsOf } from "../../model/types";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";

const DEGREE = Math.PI / 180;

/** Springs: what hangs on a body swings after it, by how long a swing takes and how soon it rests. */
export function Springs({ member }: { member: Member }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  useDesk((s) => s.selection); // on which new ones are laid
  useDesk((s) => s.columns);
  const [chosen, choose] = useState("");
  const here = springsAt(member, frame);
  const shown = here.find(({ control }) => control === chosen) ?? here[0];
  const others = springsOf(member.clip).filter(({ span }) => !here.some((one) => one.span === span));
  const name = (control: string) => member.controls.get(control)?.label ?? control;
  const laid = new Set(here.map(({ control }) => control));
  const selected = hanging(member).filter((control) => !laid.has(control));
  const all = allThatHangs(member).filter((control) => !laid.has(control));
  const over = stretchChosen();
  const lay = (controls: string[]) => void laySprings(member, controls).then((ok) => ok && choose(controls[0]));
  return (
    <Section
      title="Spring"
      hint={shown ? `${shown.span.start} to ${shown.span.end}` : "what hangs swings after the body"}
    >
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
          springing={shown}
          name={name(shown.control)}
          editable={editable}
        />
      )}
      <Line>
        {selected.length > 0 && (
          <SmallButton
            disabled={!editable}
            onClick={() => lay(selected)}
            title={`It swings from ${over.start} to ${over.end}; its keys stay what it swings about`}
          >
            Spring on {name(selected[0])}
            {selected.length > 1 ? ` and ${selected.length - 1} more` : ""}
          </SmallButton>
        )}
        {all.length > 0 && selected.length === 0 && (
          <SmallButton
            disabled={!editable}
            onClick={() => lay(all)}
            title={`${all.map(name).join(", ")}: from ${over.start} to ${over.end}`}
          >
            Springs on all that hangs
          </SmallButton>
        )}
      </Line>
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
      {!shown && !all.length && (
        <Box sx={{ color: ink.faint, fontSize: 12 }}>
          Nothing of {member.name} hangs: chains, and joints without a role in the body, can swing.
        </Box>
      )}
    </Section>
  );
}

interface OneProps {
  member: Member;
  springing: Springing;
  name: string;
  editable: boolean;
}

function One({ member, springing, name, editable }: OneProps) {
  const { control, span } = springing;
  const change = (now: Partial<Spring>) => void changeSpring(member, springing, now);
  const number = (label: string, key: keyof Spring, unit = 1, digits = 0) => (
    <Box sx={{ width: 46 }}>
      <NumberField
        label={`${label}, ${name}`}
        value={Number(span[key]) / unit}
        digits={digits}
        step={0}
        disabled={!editable}
        onType={(v, by) => {
          const to = (by ? Number(span[key]) / unit + v : v) * unit;
          const whole = key === "start" || key === "end" || key === "ease_in" || key === "ease_out";
          change({ [key]: whole ? Math.round(to) : to });
        }}
      />
    </Box>
  );
  return (
    <>
      <Word>{name}</Word>
      {span.layer > 0 && <Taken member={member} springing={springing} />}
      <Line>
        <Word>swings in</Word>
        {number("Frames of a swing", "period")}
        <Word>at its tip</Word>
        {number("Frames of a swing at the tip", "period_tip")}
        <Word>frames</Word>
      </Line>
      <Line>
        <Word>rests after</Word>
        {number("Frames until it rests", "rests")}
        <Word>at its tip</Word>
        {number("Frames until the tip rests", "rests_tip")}
        <Word>frames</Word>
      </Line>
      <Line>
        <Word>hangs by</Word>
        {number("Droop in degrees", "droop", DEGREE)}
        <Word>weight</Word>
        {number("Weight in percent of gravity", "weight", 0.01)}
        <Word>air</Word>
        {number("Slowed by the air", "air", 1, 1)}
      </Line>
      <Line>
        <Word>wind x</Word>
        {number("Wind along x, metres a second", "wind_x", 1, 1)}
        <Word>z</Word>
        {number("Wind along z, metres a second", "wind_z", 1, 1)}
        <Word>m/s, at most</Word>
        {number("It turns by degrees at most", "limit", DEGREE)}
        <Word>°</Word>
      </Line>
      <Line>
        <Word>from</Word>
        {number("Swings from", "start")}
        <Word>to</Word>
        {number("Swings to", "end")}
        <Word>counts</Word>
        {number("Strength in percent", "strength", 0.01)}
        <Word>%</Word>
      </Line>
      <Line>
        <Tick label="Body stops it" on={span.body} onChange={(body) => change({ body })} />
        <Tick label="Ground stops it" on={span.ground} onChange={(ground) => change({ ground })} />
      </Line>
      <Line>
        {!span.layer && <Tick label="Counts" on={!span.muted} onChange={(on) => change({ muted: !on })} />}
        <Box sx={{ flex: 1 }} />
        {span.layer > 0 && (
          <SmallButton
            disabled={!editable}
            onClick={() => void commit({ kind: "delete layer", number: span.layer })}
            title="Its keys go, and it swings"
          >
            Let it swing
          </SmallButton>
        )}
        <SmallButton
          disabled={!editable}
          onClick={() => void commit({ kind: "spring keys", control, at: span.start })}
          title="As few keys as hold it within a degree, in a layer of their own"
        >
          {span.layer ? "Take anew" : "Into keys"}
        </SmallButton>
        <SmallButton disabled={!editable} onClick={() => void commit({ kind: "drop spring", control, at: span.start })}>
          Take away
        </SmallButton>
      </Line>
    </>
  );
}

/** Whether the motion goes otherwise since a spring was taken as keys. */
function Taken({ member, springing: { control, span } }: { member: Member; springing: Springing }) {
  const ink = useInks();
  const found = useLookUp({
    what: "springs",
    of: [member.id],
    ask: (take_id) =>
      ask(http.GET("/api/takes/{take_id}/springs", { params: { path: { take_id }, query: { casting: member.id } } })),
  });
  const since = found.data?.find((one) => one.control === control && one.start === span.start);
  const layer = layersOf(member.clip).find(({ number }) => number === span.layer)?.layer.name ?? "a layer";
  const by = since ? `${Math.round(1000 * since.metres)} mm and ${Math.round(since.radians / DEGREE)}°` : "";
  return (
    <Box role="status" data-testid="spring-taken" sx={{ color: since?.older ? ink.red : ink.ink, fontSize: 12 }}>
      {since?.older ? `In keys (${layer}), older than the motion: that goes by ${by} otherwise since.` : ""}
      {since && !since.older ? `In keys (${layer}), of the motion as it is.` : ""}
      {!since ? `In keys (${layer}).` : ""}
    </Box>
  );
}
