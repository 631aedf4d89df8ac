import Box from "@mui/material/Box";
import { useState } from "react";
import { titled } from "../../desk/bound";
import { offerFraming } from "../../desk/camera";
import { copy, paste } from "../../desk/copying";
import { leaveTry, tryEdit } from "../../desk/posing";
import { commitFor, meant } from "../../desk/company";
import { partsActedOn } from "../../desk/selecting";
import { commit } from "../../desk/steps";
import { derived, labelAt, sourceOf } from "../../model/columns";
import { laidOver } from "../../desk/choosing";
import { keyAs, mirrorBy } from "../../desk/viewing";
import { desk, type Member, useDesk } from "../../desk/store";
import type { AnyEdit, Label, Shape } from "../../model/types";
import { Choice } from "../../ui/Choice";
import { Line, Section, Word } from "../../ui/Section";
import { Share } from "../../ui/Share";
import { SmallButton } from "../../ui/SmallButton";
import { TextLine } from "../../ui/TextLine";
import { Tick } from "../../ui/Tick";
import { Whole } from "../../ui/Whole";
import { useInks } from "../../ui/look";

const RANKS: { value: Label["rank"]; label: string }[] = [
  { value: "key", label: "Key" },
  { value: "breakdown", label: "Breakdown" },
  { value: "in-between", label: "In-between" },
];

/** The pose at the playhead: its name, breakdowns, strength and mirror; and how poses go on to the next. */
export function Poses({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const keying = useDesk((s) => s.keying);
  const shape = useDesk((s) => s.shape);
  const source = sourceOf(member.clip, frame);
  if (derived(member.clip, frame)) return <Echoed frame={frame} source={source.frame} mirrored={source.mirrored} />;

  type Made = (controls: string[] | null) => AnyEdit;
  const breakdown =
    (percent: number): Made =>
    (controls) => ({ kind: "breakdown", frame, share: percent / 100, controls, keying, shape });
  const strength =
    (percent: number): Made =>
    (controls) => ({ kind: "exaggerate", frame, degree: percent / 100, against: "neighbours", controls, keying });
  // It is seen on the one that the tools act on, and made for all who are meant.
  const tried = (make: Made) => {
    const controls = partsActedOn();
    if (controls !== undefined) tryEdit(make(controls));
  };
  const done = (make: Made) => commitFor(meant(), ({ controls }) => make(controls));
  return (
    <>
      <Name key={`${frame} ${labelAt(member.clip, frame)?.name}`} member={member} frame={frame} />
      <Section title="Breakdown" hint="between the keys before and after">
        <Share
          key={`b${frame}`}
          label="Breakdown"
          low={-50}
          high={150}
          start={50}
          marks={[
            { at: 0, label: "before" },
            { at: 50, label: "half" },
            { at: 100, label: "after" },
          ]}
          onTry={(v) => tried(breakdown(v))}
          onDone={(v) => void done(breakdown(v))}
          onLeave={leaveTry}
        />
      </Section>
      <Section title="Strength" hint="against the way its neighbours take">
        <Share
          key={`s${frame}`}
          label="Strength"
          low={-100}
          high={100}
          start={0}
          marks={[
            { at: -100, label: "none" },
            { at: 0, label: "as it is" },
            { at: 100, label: "double" },
          ]}
          onTry={(v) => tried(strength(v))}
          onDone={(v) => void (v !== 0 && done(strength(v)))}
          onLeave={leaveTry}
        />
      </Section>
      <Mirror frame={frame} />
      <Ways member={member} frame={frame} />
      <Template member={member} frame={frame} />
    </>
  );
}

function Echoed({ frame, source, mirrored }: { frame: number; source: number; mirrored: boolean }) {
  const ink = useInks();
  return (
    <Box sx={{ p: 1.5, color: ink.faint }}>
      Frame {frame} shows frame {source}
      {mirrored ? " mirrored" : " again"}. Pose that one: this follows. To pose both freely, free the{" "}
      {mirrored ? "echo" : "cycle"} under Cycle.
    </Box>
  );
}

function Name({ member, frame }: { member: Member; frame: number }) {
  const label = labelAt(member.clip, frame);
  const store = (change: Partial<Label>) => {
    const now = { name: label?.name ?? "", rank: label?.rank ?? "key", ...change };
    if (now.name !== (label?.name ?? "") || now.rank !== (label?.rank ?? "key"))
      void commit({ kind: "label", frame, name: now.name, rank: now.rank });
  };
  return (
    <Section title={`Pose at ${frame}`}>
      <Line>
        <TextLine
          label="Name of the pose"
          placeholder="Name, such as Contact"
          value={label?.name ?? ""}
          longest={60}
          onDone={(name) => store({ name })}
        />
        <Choice label="Rank" value={label?.rank ?? "key"} options={RANKS} onChange={(rank) => store({ rank })} />
      </Line>
    </Section>
  );
}

function Mirror({ frame }: { frame: number }) {
  const keying = useDesk((s) => s.keying);
  const how = useDesk((s) => s.mirrored);
  const columns = useDesk((s) => s.columns.length);
  const [range, setRange] = useState(() => {
    const { laid, shot } = desk();
    const { start, end } = laid ?? { start: shot?.play_start ?? 1, end: shot?.play_end ?? 1 };
    const half = start + Math.floor((end - start) / 2);
    return { first: start, last: half, to: half };
  });
  const mirror = (way: "swap" | "left to right" | "right to left") => {
    const controls = partsActedOn();
    if (controls !== undefined) void commit({ kind: "mirror", frame, to: null, way, controls, how, keying });
  };
  return (
    <Section title="Mirror">
      <Line>
        <SmallButton onClick={() => mirror("swap")} title={titled("Left and right change places", "turn over")}>
          Turn over
        </SmallButton>
        <SmallButton onClick={() => mirror("left to right")} title="The right takes the pose of the left">
          L to R
        </SmallButton>
        <SmallButton onClick={() => mirror("right to left")} title="The left takes the pose of the right">
          R to L
        </SmallButton>
      </Line>
      <Line>
        <SmallButton onClick={copy} title={titled("", "copy")}>
          {columns > 1 ? "Copy columns" : "Copy pose"}
        </SmallButton>
        <SmallButton onClick={() => void paste()} title={titled("", "paste")}>
          Paste
        </SmallButton>
        <SmallButton onClick={() => void paste(true)} title={titled("", "paste over")}>
          Paste turned over
        </SmallButton>
      </Line>
      <Line>
        <SmallButton
          onClick={() => {
            const controls = partsActedOn();
            if (controls !== undefined) void commit({ kind: "mirror range", ...range, controls, how });
          }}
        >
          Mirror range
        </SmallButton>
        <Whole label="Mirror from" value={range.first} onChange={(first) => setRange({ ...range, first })} />
        <Word>to</Word>
        <Whole label="Mirror to" value={range.last} onChange={(last) => setRange({ ...range, last })} />
        <Word>onto</Word>
        <Whole label="Mirror onto" value={range.to} onChange={(to) => setRange({ ...range, to })} />
      </Line>
      <Line>
        <Choice
          label="Master"
          show
          value={how.master}
          options={[
            { value: "keep", label: "As copied" },
            { value: "leave", label: "Left out" },
            { value: "mirror", label: "Mirrored" },
          ]}
          onChange={(master) => mirrorBy({ master })}
        />
        <Choice
          label="Body’s place"
          show
          value={how.body}
          options={[
            { value: "mirror", label: "Mirrored" },
            { value: "keep", label: "Kept" },
          ]}
          onChange={(body) => mirrorBy({ body })}
        />
      </Line>
    </Section>
  );
}

/** Stepped while blocking, smooth with one switch: the whole take, chosen parts, or chosen gaps. */
function Ways({ member, frame }: { member: Member; frame: number }) {
  const columns = useDesk((s) => s.columns);
  const keying = useDesk((s) => s.shape);
  const [gaps, setGaps] = useState(false);
  const only = gaps ? (columns.length ? columns : [frame]).map((f) => [f, f + 1] as [number, number]) : null;
  const set = (shape: Shape) => {
    const controls = partsActedOn();
    if (controls === undefined) return;
    if (!only && controls === null) keyAs(shape);
    void commit({ kind: "shape", shape, controls, gaps: only });
  };
  const counts = { stepped: 0, straight: 0, smooth: 0 };
  for (const rows of Object.values(member.clip.curves))
    for (const row of rows) counts[(["stepped", "straight", "smooth"] as const)[row[2]]]++;
  const all = counts.stepped + counts.straight + counts.smooth;
  const mostly = all === 0 ? keying : counts.stepped > all / 2 ? "stepped" : "smooth";
  return (
    <Section
      title="From key to key"
      hint={
        all
          ? counts.stepped === all
            ? "all stepped"
            : counts.stepped
              ? `${Math.round((100 * counts.stepped) / all)} % stepped`
              : "none stepped"
          : ""
      }
    >
      <Line>
        {(["stepped", "smooth", "straight"] as Shape[]).map((shape) => (
          <SmallButton
            key={shape}
            on={mostly === shape}
            onClick={() => set(shape)}
            title={
              {
                stepped: "Poses are held until the next",
                smooth: "Poses go over into one another",
                straight: "Evenly, without easing",
              }[shape]
            }
          >
            {shape[0].toUpperCase() + shape.slice(1)}
          </SmallButton>
        ))}
      </Line>
      <Tick
        label={columns.length ? `Only after columns ${columns.join(", ")}` : `Only the gap after ${frame}`}
        on={gaps}
        onChange={setGaps}
      />
    </Section>
  );
}

const STEPS = { walk: 12, run: 8, startle: 10 };
function Template({ member, frame }: { member: Member; frame: number }) {
  const [kind, setKind] = useState<keyof typeof STEPS>("walk");
  const [step, setStep] = useState(12);
  const [posed, setPosed] = useState(true);
  async function lay() {
    const ok = await commit({ kind: "template", template: kind, start: frame, step, posed });
    // A walk and a run are of two steps, which a cycle takes up from here.
    if (ok && kind !== "startle") laidOver(frame, frame + 2 * step);
    if (ok) void offerFraming(member, frame, frame + 2 * step);
  }
  return (
    <Section title="Template" hint="names poses on their frames">
      <Line>
        <Choice
          label="Template"
          value={kind}
          options={[
            { value: "walk", label: "Walk" },
            { value: "run", label: "Run" },
            { value: "startle", label: "Startle" },
          ]}
          onChange={(k) => {
            setKind(k);
            setStep(STEPS[k]);
          }}
        />
        <Whole label="Frames a step" value={step} low={1} high={200} onChange={setStep} />
        <Word>{kind === "startle" ? "frames a pose" : "frames a step"}</Word>
      </Line>
      <Line>
        <Tick label="With rough poses" on={posed} onChange={setPosed} />
        <Box sx={{ flex: 1 }} />
        <SmallButton onClick={() => void lay()}>Lay from {frame}</SmallButton>
      </Line>
    </Section>
  );
}
