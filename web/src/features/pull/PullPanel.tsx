import Box from "@mui/material/Box";
import { useState } from "react";
import { keySaid } from "../../desk/bound";
import { act, dragging } from "../../desk/dragging";
import {
  gaveInWords,
  gripFeet,
  gripsOf,
  handles,
  keepPlaced,
  lean,
  letAllGo,
  nextGrade,
  onFeet,
  partOf,
  placedParts,
  plantedParts,
  pullName,
  setGrip,
} from "../../desk/pulling";
import { placeFew } from "../../desk/choosing";
import { active, type Leanings, type Member, useDesk } from "../../desk/store";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { Slider } from "../../ui/opened";

const LEANINGS: [keyof Leanings, string, string][] = [
  ["spine", "Spine bends", "How much of a reach the spine takes on"],
  ["shoulders", "Shoulders follow", "How soon the shoulders come along"],
  ["knees", "Knees stay bent", "How much knees and elbows keep from being straight"],
  ["balance", "Keeps balance", "How much the mass stays over where it was"],
  ["before", "Stays as it was", "How near the pose before all parts stay"],
];

/** What holds while the body is pulled, and what it tends to. */
export function PullPanel() {
  const member = useDesk((s) => active(s));
  const few = useDesk((s) => s.few !== null);
  if (!member) return null;
  if (!member.rig.parts.length)
    return <Box sx={{ p: 1.5 }}>A thing has no body to be pulled by a part; move it as it is.</Box>;
  return (
    <Box sx={{ height: "100%", overflow: "auto" }} data-testid="pull-panel">
      <Section title="Pull" hint={few ? "a pose from few parts" : "a part; the body follows"}>
        <Line>
          <SmallButton on={!few} onClick={() => placeFew(member.id, null)}>
            Body follows
          </SmallButton>
          <SmallButton
            on={few}
            onClick={() => placeFew(member.id, {})}
            title="Place hips, feet, hands and head; the rest is made of them"
          >
            Pose from few
          </SmallButton>
        </Line>
      </Section>
      {few ? <Placed member={member} /> : <Gripped member={member} />}
      <ByNumbers member={member} />
      <Section title="The body tends to">
        {LEANINGS.map(([which, label, title]) => (
          <Leaning key={which} which={which} label={label} title={title} />
        ))}
      </Section>
      <Gave />
    </Box>
  );
}

function Gripped({ member }: { member: Member }) {
  const grips = useDesk((s) => gripsOf(member, s));
  const frame = useDesk((s) => s.frame);
  const selection = useDesk((s) => s.selection);
  const planted = plantedParts(member, frame);
  const chosen = [...new Set(selection.map((name) => partOf(member, name)))].filter((part) => !!part);
  const rows = member.rig.parts.filter((part) => part.name in grips && !planted.has(part.name));
  return (
    <Section title="Grips" hint={`press ${keySaid("grip")} on what is selected`}>
      {[...planted].map(([name, span]) => (
        <Row key={name} label={member.rig.parts.find((p) => p.name === name)!.label}>
          <Word>
            planted {span.start} to {span.end}, fast
          </Word>
        </Row>
      ))}
      {rows.map((part) => {
        const grip = grips[part.name];
        return (
          <Row key={part.name} label={part.label}>
            <SmallButton
              onClick={() => nextGrade(member, part)}
              aria-label={`${part.label}: ${grip.grade}, change`}
              title="loose, firm, fast, none"
            >
              {grip.grade}
            </SmallButton>
            <SmallButton
              on={grip.place}
              onClick={() => setGrip(member, part, { ...grip, place: !grip.place })}
              aria-label={`${part.label} keeps its place`}
            >
              place
            </SmallButton>
            <SmallButton
              on={grip.turn}
              onClick={() => setGrip(member, part, { ...grip, turn: !grip.turn })}
              aria-label={`${part.label} keeps its turn`}
            >
              turn
            </SmallButton>
            <SmallButton onClick={() => setGrip(member, part, null)} aria-label={`Let ${part.label} go`}>
              ×
            </SmallButton>
          </Row>
        );
      })}
      {!rows.length && !planted.size && <Word>Nothing is gripped: the whole figure moves with the hand.</Word>}
      <Line>
        <SmallButton
          disabled={!chosen.length}
          onClick={() => chosen.forEach((part) => !planted.has(part.name) && nextGrade(member, part))}
          title="L: loose, firm, fast, none"
        >
          Grip the selected
        </SmallButton>
        <SmallButton onClick={() => gripFeet(member)} title={`Hold every ${onFeet(member) ? "foot" : "tip"} fast`}>
          {onFeet(member) ? "Feet fast" : "Tips fast"}
        </SmallButton>
        <SmallButton disabled={!rows.length} onClick={() => letAllGo(member)}>
          Let all go
        </SmallButton>
      </Line>
    </Section>
  );
}

function Placed({ member }: { member: Member }) {
  const few = useDesk((s) => s.few);
  const parts = few?.casting === member.id ? few.parts : {};
  const put = (to: typeof parts) => placeFew(member.id, to);
  const placed = handles(member).filter((part) => part.name in parts);
  const without = (name: string) => put(Object.fromEntries(Object.entries(parts).filter(([part]) => part !== name)));
  const selection = useDesk((s) => s.selection);
  const more = Object.keys(placedParts(member, selection)).length > Object.keys(parts).length;
  return (
    <Section title="Placed parts" hint="drag them on the stage, in any order">
      {placed.map((part) => (
        <Row key={part.name} label={part.label}>
          <Tick label="turn" on={parts[part.name].turn} onChange={(turn) => put({ ...parts, [part.name]: { turn } })} />
          <SmallButton
            onClick={() => without(part.name)}
            aria-label={`Let ${part.label} go`}
            title="It is an ordinary control again; the pose stays"
          >
            ×
          </SmallButton>
        </Row>
      ))}
      {!placed.length && <Word>Drag hips, a foot, a hand or the head where it shall be.</Word>}
      <Line>
        <SmallButton disabled={!more} onClick={() => put(placedParts(member, selection))}>
          Place the selected
        </SmallButton>
        <SmallButton disabled={!placed.length} onClick={() => put({})} title="The pose stays, as ordinary controls">
          Let all go
        </SmallButton>
      </Line>
    </Section>
  );
}

/** A pull that is typed: so many metres across, up and ahead in the world. */
function ByNumbers({ member }: { member: Member }) {
  const selection = useDesk((s) => s.selection);
  const [by, setBy] = useState([0, 0, 0]);
  const controls = selection.filter((name) => partOf(member, name));
  return (
    <Section title="Pull by" hint="metres in the world">
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
        {(["x", "y", "z"] as const).map((axis, n) => (
          <Box key={axis} sx={{ display: "flex", alignItems: "center", gap: 0.5, flex: 1, minWidth: 0 }}>
            <Word>{axis}</Word>
            <NumberField
              label={`Pull by, ${axis}`}
              value={by[n]}
              digits={3}
              step={0}
              onType={(v, more) => setBy(by.map((old, m) => (m === n ? (more ? old + v : v) : old)))}
            />
          </Box>
        ))}
        <SmallButton
          disabled={!controls.length || by.every((v) => v === 0)}
          onClick={() =>
            void act(controls, { do: "pull", offset: by }, pullName()).then((ok) => {
              if (ok) keepPlaced();
            })
          }
          title="Pull the selected parts by this much"
        >
          Pull
        </SmallButton>
      </Box>
    </Section>
  );
}

const Row = ({ label, children }: { label: string; children: React.ReactNode }) => (
  <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, minHeight: 28 }}>
    <Box component="span" sx={{ flex: 1, minWidth: 0, fontSize: 12.5 }}>
      {label}
    </Box>
    {children}
  </Box>
);

function Leaning({ which, label, title }: { which: keyof Leanings; label: string; title: string }) {
  const ink = useInks();
  const value = useDesk((s) => s.leanings[which]);
  return (
    <Box
      title={title}
      sx={{ display: "grid", gridTemplateColumns: "108px 1fr 34px", gap: 1, alignItems: "center", minHeight: 26 }}
    >
      <Box component="span" sx={{ fontSize: 12.5 }}>
        {label}
      </Box>
      <Slider
        size="small"
        aria-label={label}
        min={0}
        max={100}
        value={Math.round(value * 100)}
        onChange={(_, v) => lean(which, (v as number) / 100)}
        sx={{ color: ink.blue, "& .MuiSlider-rail": { bgcolor: ink.line, opacity: 1 } }}
      />
      <Box component="span" sx={{ fontSize: 12, color: ink.faint, textAlign: "right" }}>
        {Math.round(value * 100)} %
      </Box>
    </Box>
  );
}

/** What gave in the last pull. */
function Gave() {
  const ink = useInks();
  const said = useDesk((s) => s.said);
  const words = useDesk((s) => gaveInWords(s));
  if (!said?.gave) return null;
  return (
    <Section title={dragging() ? "In this pull" : "In the last pull"}>
      <Box role="status" sx={{ fontSize: 12.5, color: said.gave.length || said.whole ? ink.red : ink.faint }}>
        {words || "Everything stayed and came where it should."}
      </Box>
      {(said.beyond?.length ?? 0) > 0 && (
        <Word>Out of its usual range already, and kept: {said.beyond?.join(", ")}.</Word>
      )}
    </Section>
  );
}
