import Box from "@mui/material/Box";
import { useState } from "react";
import { commitFor, type Meant, meantBy } from "../../desk/company";
import { say } from "../../desk/steps";
import type { AnyEdit } from "../../model/types";
import { desk, type Member, useDesk } from "../../desk/store";
import { NumberField } from "../../ui/NumberField";
import { Choice } from "../../ui/Choice";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";

interface Link {
  label: string;
  controls: string[];
  frames: number;
  amplitude: number;
}

/** The arms' chain as it is usually dragged, where the rig has one. */
function arms(member: Member): Link[] {
  const of = (test: (name: string) => boolean) => member.rig.controls.filter((c) => test(c.name)).map((c) => c.name);
  const links = [
    { label: "Forearms", controls: of((n) => /^arm\d*\.[LR]\.lower$/.test(n)), frames: 1, amplitude: 100 },
    { label: "Hands", controls: of((n) => /^arm\d*\.[LR]\.hand$/.test(n)), frames: 2, amplitude: 90 },
    {
      label: "Fingers",
      controls: member.rig.controls.filter((c) => c.kind === "finger").map((c) => c.name),
      frames: 3,
      amplitude: 80,
    },
  ];
  return links.filter((l) => l.controls.length);
}

/** Of what a delay is: all of the motion, or one event, beyond which nothing moves. */
type Of = "all" | "pose" | "columns";

/** Part delay: links of a chain that trail by whole frames, with less amplitude further down. */
export function Delay({ member }: { member: Member }) {
  const [links, setLinks] = useState<Link[]>(() => arms(member));
  const [of, setOf] = useState<Of>("all");
  const frame = useDesk((s) => s.frame);
  const change = (n: number, now: Partial<Link>) => setLinks(links.map((l, m) => (m === n ? { ...l, ...now } : l)));
  function add() {
    const { selection } = desk();
    if (!selection.length) return say("Select the controls of a part first; they become a link of the chain.");
    const more = selection.length > 1 ? ` and ${selection.length - 1} more` : "";
    const label = (member.controls.get(selection[0])?.label ?? selection[0]) + more;
    setLinks([
      ...links,
      { label, controls: selection, frames: (links[links.length - 1]?.frames ?? 0) + 1, amplitude: 100 },
    ]);
  }
  /** Of each who is meant, what it has of the links. */
  const delayOf =
    (together: boolean) =>
    ({ member: own }: Meant): AnyEdit | null => {
      const chain = links.map((l) => ({
        controls: l.controls.filter((name) => own.controls.has(name)),
        frames: l.frames,
        amplitude: l.amplitude / 100,
      }));
      const mine = chain.filter(({ controls }) => controls.length);
      if (!mine.length) return null;
      if (of === "all") return { kind: "delay", chain: mine, first: null, last: null };
      const { frame, columns } = desk();
      const stretch = { first: columns[0] ?? null, last: columns[columns.length - 1] ?? null };
      return of === "pose"
        ? { kind: "delay event", chain: mine, about: frame, first: null, last: null, together }
        : { kind: "delay event", chain: mine, about: null, ...stretch, together };
    };
  function make(together: boolean) {
    if (of === "columns" && desk().columns.length < 2)
      return say("Choose the first and the last column of the event on the strip (Shift adds).");
    void commitFor(meantBy(true), delayOf(together));
  }
  return (
    <Section title="Part delay" hint="frames later, share of the turn">
      {links.map((link, n) => (
        <Box
          key={n}
          sx={{ display: "grid", gridTemplateColumns: "1fr 36px 44px 14px 20px", gap: 0.5, alignItems: "center" }}
        >
          <Box
            component="span"
            sx={{
              overflow: "hidden",
              textOverflow: "ellipsis",
              whiteSpace: "nowrap",
              "&::first-letter": { textTransform: "uppercase" },
            }}
            title={link.controls.join(", ")}
          >
            {link.label}
          </Box>
          <Whole
            label={`Delay of ${link.label}`}
            value={link.frames}
            width={36}
            low={-24}
            high={24}
            onChange={(frames) => change(n, { frames })}
          />
          <NumberField
            label={`Amplitude of ${link.label}`}
            value={link.amplitude}
            digits={0}
            step={0}
            onType={(v, by) => change(n, { amplitude: by ? link.amplitude + v : v })}
          />
          <Word>%</Word>
          <SmallButton
            aria-label={`Leave out ${link.label}`}
            onClick={() => setLinks(links.filter((_, m) => m !== n))}
            sx={{ px: 0, height: 22 }}
          >
            ✕
          </SmallButton>
        </Box>
      ))}
      <Line>
        <SmallButton onClick={add}>Add selection</SmallButton>
        <SmallButton onClick={() => setLinks(arms(member))}>Arms</SmallButton>
        <Box sx={{ flex: 1 }} />
        <SmallButton disabled={!links.length} onClick={() => make(false)}>
          Delay
        </SmallButton>
      </Line>
      <Line>
        <Choice<Of>
          label="Of"
          show
          value={of}
          options={[
            { value: "all", label: "The whole motion" },
            { value: "pose", label: `The pose at ${frame} alone` },
            { value: "columns", label: "The chosen columns" },
          ]}
          onChange={setOf}
        />
        {of !== "all" && (
          <SmallButton
            disabled={!links.length}
            onClick={() => make(true)}
            title="The keys of these parts come onto the frame of the pose: nothing leads or trails"
          >
            Together
          </SmallButton>
        )}
      </Line>
    </Section>
  );
}
