import Box from "@mui/material/Box";
import { useState } from "react";
import { titled } from "../../desk/bound";
import { belongingRows, changeBelonging } from "../../desk/belonging";
import { go } from "../../desk/playing";
import { CAMERA, cameraNow, cameraOf, putCamera } from "../../desk/camera";
import { select, selected } from "../../desk/selecting";
import { commit, say } from "../../desk/steps";
import { lookFrom } from "../../desk/viewing";
import { active, desk, type Member, useDesk } from "../../desk/store";
import { type Belonging, belongingsOf, type Control } from "../../model/types";
import { Owner, type OwnerOf, ownerSaid, WORLD } from "../../desk/widgets/Owner";
import { NumberField } from "../../ui/NumberField";
import { Choice } from "../../ui/Choice";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { useInks } from "../../ui/look";
import { BothHands } from "./BothHands";

const TIES = [
  { value: "both" as const, label: "place and turn" },
  { value: "place" as const, label: "place only" },
  { value: "turn" as const, label: "turn only" },
];

/** The Props bench: what the selection belongs to here, and as spans of frames. */
export function PropsBench() {
  const member = useDesk((s) => active(s));
  useDesk((s) => s.selection);
  if (!member) return null;
  const chosen = selected().filter((c) => c.posed);
  return (
    <Box sx={{ height: "100%", overflowY: "auto" }} data-testid="props-bench">
      <Now member={member} chosen={chosen} />
      <Tie member={member} chosen={chosen} />
      <BothHands member={member} />
      <All member={member} />
      <ShotCamera />
    </Box>
  );
}

/** The camera of the shot: looked through, put where the stage is looked at from, its lens and gate. */
function ShotCamera() {
  const ink = useInks();
  const camera = useDesk((s) => cameraOf(s));
  const view = useDesk((s) => s.view);
  useDesk((s) => s.posed);
  if (!camera)
    return (
      <Section title="Shot camera">
        <Box sx={{ color: ink.faint }}>None is cast: take the Shot camera from the shelf (Cast, above).</Box>
      </Section>
    );
  const { lens, wide, high } = cameraNow(camera);
  const set = (name: string, value: number) =>
    commit(
      {
        kind: "pose",
        frame: desk().frame,
        values: { [`${CAMERA}/${name}`]: value },
        keying: desk().keying,
        kinds: desk().kinds,
        shape: desk().shape,
        what: "",
      },
      { takeId: desk().takeId, casting: camera.id, frame: desk().frame },
    );
  const number = (label: string, name: string, value: number, digits: number) => (
    <Box sx={{ width: 60 }}>
      <NumberField
        label={label}
        value={value}
        digits={digits}
        step={0}
        onType={(v, by) => void set(name, by ? value + v : v)}
      />
    </Box>
  );
  return (
    <Section title="Shot camera" hint={camera.name}>
      <Line>
        <SmallButton on={view === "camera"} onClick={() => lookFrom("camera")} title={titled("", "camera")}>
          Look through it
        </SmallButton>
        <SmallButton onClick={() => void putCamera()}>Put it where I look from</SmallButton>
        <SmallButton onClick={() => select([CAMERA], "set", camera.id)}>Select it</SmallButton>
      </Line>
      <Line>
        <Word>Lens</Word>
        {number("Lens in millimetres", "lens", lens, 1)}
        <Word>mm, gate</Word>
        {number("Width of the gate in millimetres", "gate_wide", wide, 2)}
        <Word>×</Word>
        {number("Height of the gate in millimetres", "gate_high", high, 2)}
        <Word>mm</Word>
      </Line>
    </Section>
  );
}

const at = (spans: Belonging[], frame: number) => spans.find((s) => s.start <= frame && frame <= s.end);

function Now({ member, chosen }: { member: Member; chosen: Control[] }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const cast = useDesk((s) => s.cast);
  return (
    <Section title={`At frame ${frame}`}>
      {chosen.length === 0 && (
        <Box sx={{ color: ink.faint }}>
          Select what shall be carried: the master of a prop, a hand, the head. Then choose below who carries it.
        </Box>
      )}
      {chosen.slice(0, 6).map((control) => {
        const span = at(belongingsOf(member.clip, control.name), frame);
        const owner = span && ownerSaid(member, cast, { figure: span.figure, control: span.to });
        const parent = member.controls.get(control.parent)?.label ?? "the world";
        return (
          <Box key={control.name}>
            <b>{control.label}</b>{" "}
            {span ? `belongs to ${owner}, ${span.start} to ${span.end}` : `goes by itself (carried by ${parent})`}
          </Box>
        );
      })}
    </Section>
  );
}

function Tie({ member, chosen }: { member: Member; chosen: Control[] }) {
  const frame = useDesk((s) => s.frame);
  const shot = useDesk((s) => s.shot)!;
  const columns = useDesk((s) => s.columns);
  const [owner, setOwner] = useState<OwnerOf>(WORLD);
  const [ties, setTies] = useState<Belonging["ties"]>("both");
  const [until, setUntil] = useState<number | null>(null);
  const start = columns.length > 1 ? columns[0] : frame;
  const end = columns.length > 1 ? columns[columns.length - 1] : Math.max(until ?? shot.end, start);
  const names = chosen.map((c) => c.name);
  const belong = (to: OwnerOf, what: Belonging["ties"]) =>
    names.length
      ? void commit({
          kind: "belong",
          controls: names,
          figure: to.figure,
          to: to.control,
          start,
          end,
          ties: what,
          weight: 1,
          ease_in: 0,
          ease_out: 0,
        })
      : say("Select what shall be carried first: the master of a prop, a hand, the head.");
  return (
    <Section title="Carried by" hint="it stays where it is as the owner changes">
      <Line>
        <Owner member={member} value={owner} onChange={setOwner} own world="the world" />
        <Choice label="Ties" value={ties} options={TIES} onChange={setTies} />
      </Line>
      <Line>
        <Word>from {start} to</Word>
        {columns.length > 1 ? (
          <Word>{end} (the chosen columns)</Word>
        ) : (
          <Whole label="Belongs until" value={end} width={48} onChange={setUntil} />
        )}
        <SmallButton onClick={() => belong(owner, ties)}>{owner.control ? "Attach" : "Leave in the world"}</SmallButton>
      </Line>
      <Line>
        <SmallButton
          onClick={() => belong(WORLD, "turn")}
          title="Its direction stays in the world while what carries it turns"
        >
          Keep looking there
        </SmallButton>
        <SmallButton
          disabled={!chosen.some((c) => at(belongingsOf(member.clip, c.name), frame))}
          onClick={() => letGo(member, chosen, frame)}
          title="What it belongs to ends here, and it stays where it is"
        >
          Let go here
        </SmallButton>
      </Line>
    </Section>
  );
}

/** Ends at the playhead what the chosen controls belong to. */
function letGo(member: Member, chosen: Control[], frame: number) {
  for (const control of chosen) {
    const span = at(belongingsOf(member.clip, control.name), frame);
    if (span) void changeBelonging(member, control.name, span, { end: Math.max(frame, span.start) });
  }
}

/** All that belongs to something, span by span. */
function All({ member }: { member: Member }) {
  const ink = useInks();
  const cast = useDesk((s) => s.cast);
  const [open, setOpen] = useState("");
  const found = belongingRows([member]).flatMap(({ control }) =>
    belongingsOf(member.clip, control).map((span) => ({ name: control, span })),
  );
  return (
    <Section title={`What belongs, of ${member.name}`}>
      {found.length === 0 && <Box sx={{ color: ink.faint }}>Nothing yet.</Box>}
      {found.map(({ name, span }) => {
        const key = `${name} ${span.start}`;
        const label = member.controls.get(name)?.label ?? name;
        return (
          <Box key={key} sx={{ display: "grid", gap: 0.5 }}>
            <SmallButton
              on={open === key}
              sx={{ justifyContent: "flex-start", overflow: "hidden" }}
              onClick={() => {
                setOpen(open === key ? "" : key);
                go(span.start);
              }}
            >
              {span.start}–{span.end} {label} → {ownerSaid(member, cast, { figure: span.figure, control: span.to })}
            </SmallButton>
            {open === key && <Span member={member} name={name} span={span} label={label} />}
          </Box>
        );
      })}
    </Section>
  );
}

function Span(p: { member: Member; name: string; span: Belonging; label: string }) {
  const { member, name, span, label } = p;
  const set = (now: Partial<Belonging>) => void changeBelonging(member, name, span, now);
  return (
    <Box sx={{ pl: 1, display: "grid", gap: 0.5 }}>
      <Line>
        <Word>from</Word>
        <Whole label={`${label} belongs from`} value={span.start} onChange={(start) => set({ start })} />
        <Word>to</Word>
        <Whole label={`${label} belongs to`} value={span.end} onChange={(end) => set({ end })} />
        <Choice label="Ties" value={span.ties} options={TIES} onChange={(ties) => set({ ties })} />
      </Line>
      <Line>
        <Word>weight</Word>
        <Whole
          label={`Weight of ${label} in percent`}
          value={Math.round(span.weight * 100)}
          low={0}
          high={100}
          onChange={(percent) => set({ weight: percent / 100 })}
        />
        <Word>%, in over</Word>
        <Whole label="Eased in over" value={span.ease_in} low={0} width={32} onChange={(ease_in) => set({ ease_in })} />
        <Word>out over</Word>
        <Whole
          label="Eased out over"
          value={span.ease_out}
          low={0}
          width={32}
          onChange={(ease_out) => set({ ease_out })}
        />
      </Line>
      <Line>
        <SmallButton
          onClick={() => void commit({ kind: "unbelong", controls: [name], starts: [span.start] })}
          title="Takes this away: it goes by its keys again, and may jump"
        >
          Take away
        </SmallButton>
        <SmallButton onClick={() => go(desk().frame === span.end ? span.start : span.end)}>Other end</SmallButton>
      </Line>
    </Box>
  );
}
