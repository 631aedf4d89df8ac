import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http } from "../../api/client";
import { changeGaze, gazesAt, layGaze, type Looking } from "../../desk/gazes";
import { stretchChosen } from "../../desk/life";
import { useLookUp, useRested } from "../../desk/looking";
import { go } from "../../desk/playing";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { Owner, type OwnerOf, ownerSaid, WORLD } from "../../desk/widgets/Owner";
import { type Gaze as Span, gazesOf } from "../../model/types";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { Blinks } from "./Blinks";

const DEGREE = Math.PI / 180;
const PLACE = "a place";
const AXES = (["z", "-z", "x", "-x", "y", "-y"] as const).map((value) => ({ value, label: `axis ${value}` }));

/** Of somebody the face is looked at, of a thing all of it. */
const faceOf = (picked: Member) => (picked.controls.has("head") ? "head" : picked.rig.controls[0].name);

/** What somebody looks at, and how; and blinks. */
export function Gaze({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const selection = useDesk((s) => s.selection);
  const editable = useDesk((s) => canChange(s));
  useDesk((s) => s.columns); // over which a new one is laid
  const [owner, setOwner] = useState<OwnerOf>(WORLD);
  const here = gazesAt(member, frame);
  const others = gazesOf(member.clip).filter(({ span }) => !here.some((one) => one.span === span));
  const looks = member.controls.has("head") || member.controls.has("eye.L");
  const aimed = selection.length === 1 ? member.controls.get(selection[0]) : undefined;
  const over = stretchChosen();
  return (
    <>
      {here.map((looking) => (
        <One key={`${looking.control} ${looking.span.start}`} member={member} looking={looking} editable={editable} />
      ))}
      <Section title="Look at" hint={`from ${over.start} to ${over.end}`}>
        <Line>
          <Owner member={member} value={owner} onChange={setOwner} own world={PLACE} first={faceOf} />
        </Line>
        <Line>
          {looks && (
            <SmallButton
              disabled={!editable}
              onClick={() => void layGaze(member, "", owner).then((ok) => ok && go(Math.max(over.start, frame)))}
              title="Eyes first, then the head, then the chest; your keys go on top"
            >
              {member.name} looks there
            </SmallButton>
          )}
          {aimed?.can_turn && (
            <SmallButton
              disabled={!editable}
              onClick={() =>
                void layGaze(member, aimed.name, owner).then((ok) => ok && go(Math.max(over.start, frame)))
              }
              title="The selected control alone is turned to it, by one of its axes"
            >
              Aim {aimed.label}
            </SmallButton>
          )}
        </Line>
        {others.length > 0 && (
          <Line>
            {others.slice(0, 4).map(({ control, span }) => (
              <SmallButton key={`${control} ${span.start}`} onClick={() => go(span.start)}>
                {control ? `${member.controls.get(control)?.label ?? control} ` : ""}
                {span.start} to {span.end}
              </SmallButton>
            ))}
            {others.length > 4 && <Word>and {others.length - 4} more</Word>}
          </Line>
        )}
      </Section>
      <Blinks member={member} />
    </>
  );
}

function One({ member, looking, editable }: { member: Member; looking: Looking; editable: boolean }) {
  const { control, span } = looking;
  const ink = useInks();
  const cast = useDesk((s) => s.cast);
  const change = (now: Partial<Span>) => void changeGaze(member, looking, now);
  const number = (label: string, key: keyof Span, unit = 1, digits = 0, width = 44) => (
    <Box sx={{ width }}>
      <NumberField
        label={label}
        value={Number(span[key]) / unit}
        digits={digits}
        step={0}
        disabled={!editable}
        onType={(v, by) => {
          const to = (by ? Number(span[key]) / unit + v : v) * unit;
          change({ [key]: unit === 1 && !digits ? Math.round(to) : to });
        }}
      />
    </Box>
  );
  const what = ownerSaid(member, cast, { figure: span.figure, control: span.to }, PLACE);
  return (
    <Section
      title={control ? `${member.controls.get(control)?.label ?? control} at ${what}` : `Looks at ${what}`}
      hint={`${span.start} to ${span.end}`}
    >
      <Off member={member} looking={looking} />
      <Line>
        <Owner
          member={member}
          value={{ figure: span.figure, control: span.to }}
          onChange={(to) => change({ figure: to.figure, to: to.control })}
          own
          world={PLACE}
          first={faceOf}
        />
        {control && <Choice label="Points by" value={span.axis} options={AXES} onChange={(axis) => change({ axis })} />}
      </Line>
      <Line>
        <Word>{span.to ? "off it" : "at"}</Word>
        {(["x", "y", "z"] as const).map((axis) => (
          <Box key={axis} sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
            <b>{axis}</b>
            {number(`Looked at, ${axis} in metres`, axis, 1, 2, 52)}
          </Box>
        ))}
        <Word>m</Word>
      </Line>
      {!control && (
        <>
          <Line>
            <Word>eyes</Word>
            {number("Eyes turn, degrees", "eyes", DEGREE)}
            <Word>head</Word>
            {number("Head turns, degrees", "head", DEGREE)}
            <Word>chest</Word>
            {number("Chest turns, degrees", "chest", DEGREE)}
            <Word>°</Word>
          </Line>
          <Line>
            <Word>each</Word>
            {number("Frames that eyes lead", "lead")}
            <Word>frames before the next</Word>
          </Line>
        </>
      )}
      <Line>
        <Word>from</Word>
        {number("Looks from", "start")}
        <Word>to</Word>
        {number("Looks to", "end")}
        <Word>share</Word>
        {number("Share of the gaze, percent", "share", 0.01)}
        <Word>%</Word>
      </Line>
      <Line>
        <Word>comes in</Word>
        {number("Frames in which it comes", "ease_in")}
        <Word>goes in</Word>
        {number("Frames in which it goes", "ease_out")}
        <Word>frames</Word>
      </Line>
      <Line>
        <Tick label="Counts" on={!span.muted} onChange={(on) => change({ muted: !on })} />
        <Box sx={{ flex: 1 }} />
        <SmallButton
          disabled={!editable}
          onClick={() => void commit({ kind: "gaze keys", control, at: span.start })}
          title="As few keys as hold it, in a layer of their own"
        >
          Into keys
        </SmallButton>
        <SmallButton disabled={!editable} onClick={() => void commit({ kind: "drop gaze", control, at: span.start })}>
          Take away
        </SmallButton>
      </Line>
      {!editable && <Box sx={{ color: ink.faint }}>You may look, not change.</Box>}
    </Section>
  );
}

/** How far off it is, of each that points. */
function Off({ member, looking }: { member: Member; looking: Looking }) {
  const ink = useInks();
  const frame = useRested(
    useDesk((s) => s.frame),
    80,
  );
  const found = useLookUp({
    what: "gazes",
    of: [member.id, frame],
    ask: (take_id) =>
      ask(
        http.GET("/api/takes/{take_id}/gazes", { params: { path: { take_id }, query: { casting: member.id, frame } } }),
      ),
  });
  const mine = (found.data ?? []).filter(
    ({ about, start }) => about === looking.control && start === looking.span.start,
  );
  const worst = Math.max(...mine.map(({ angle }) => angle / DEGREE), 0);
  return (
    <Box
      role="status"
      data-testid="gaze-off"
      sx={{ fontWeight: 700, color: worst > 2 ? ink.red : ink.ink, fontVariantNumeric: "tabular-nums" }}
    >
      {mine.length
        ? mine
            .map(
              ({ control, angle }) =>
                `${member.controls.get(control)?.label ?? control} ${(angle / DEGREE).toFixed(1)}°`,
            )
            .join(", ") + " off"
        : "Measuring…"}
    </Box>
  );
}
