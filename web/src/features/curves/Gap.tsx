import Box from "@mui/material/Box";
import { useState } from "react";
import { eased, EVEN, INSTANT } from "../../model/curves";
import { chartOf, gapsChosen, stepGap, useGap } from "../../desk/gaps";
import { go } from "../../desk/playing";
import { leaveTry, tryEdit } from "../../desk/posing";
import { useLookUp } from "../../desk/looking";
import { partsActedOn } from "../../desk/selecting";
import { commit, say } from "../../desk/steps";
import { chooseKeys } from "../../desk/choosing";
import { openStrip } from "../../desk/viewing";
import { type Member, useDesk } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import { WAY_OF, type Way } from "../../model/ways";
import { Parts } from "../../desk/widgets/Parts";
import { useInks } from "../../ui/look";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { Chart } from "./Chart";

const WAYS = (["even", "slow start", "slow stop", "both", "wind-up", "overshoot", "bounce", "instant"] as const).map(
  (way) => ({ way, label: way.charAt(0).toUpperCase() + way.slice(1), number: WAY_OF.indexOf(way) }),
);

/** How the gap between two poses goes: a preset, or a chart whose ticks are dragged. */
export function Gap({ member }: { member: Member }) {
  const ink = useInks();
  const gap = useGap(member);
  const columns = useDesk((s) => s.columns);
  const parts = useDesk((s) => s.parts);
  const selection = useDesk((s) => s.selection);
  const [strength, setStrength] = useState(50);
  const [tried, setTried] = useState<{ way: Way; strength: number } | null>(null);
  const controls = parts === "selection" ? selection : [];
  const chart = useLookUp({
    what: "chart",
    of: [member.id, gap?.first, gap?.last, controls],
    ask: (takeId) => chartOf(takeId, member.id, gap!.first, gap!.last, controls),
    enabled: gap !== null,
    keep: (before) => before.first === gap?.first && before.last === gap.last,
  });
  if (!gap)
    return (
      <Section title="Gap">
        <Said>Two poses make a gap: key a second one, and how it is gone through is chosen here.</Said>
      </Section>
    );
  const many = columns.length > 1;
  const edit = (way: Way): AnyEdit | null => {
    const chosen = partsActedOn();
    if (chosen === undefined) return null;
    return { kind: "way", way, strength: strength / 100, gaps: gapsChosen(member), controls: chosen, keys: null };
  };
  const preview = (way: Way) => {
    const wish = edit(way);
    setTried({ way, strength });
    if (wish) tryEdit(wish);
  };
  const leave = () => {
    setTried(null);
    leaveTry();
  };
  const now = wayNow(member, gap.first, controls);
  return (
    <>
      <Section
        title={many ? `${columns.length - 1} gaps` : `Gap ${gap.first} to ${gap.last}`}
        hint={many ? "between the chosen columns" : `${gap.last - gap.first} frames`}
      >
        <Line>
          <SmallButton onClick={() => stepGap(-1)} aria-label="The gap before">
            ◂
          </SmallButton>
          <SmallButton onClick={() => stepGap(1)} aria-label="The gap after">
            ▸
          </SmallButton>
          <SmallButton onClick={() => go(gap.first)}>Go to {gap.first}</SmallButton>
          <SmallButton
            onClick={() => {
              const keys: Record<string, number[]> = {};
              for (const [address, rows] of Object.entries(member.clip.curves))
                if (rows.some((row) => row[0] === gap.first)) keys[address] = [gap.first];
              openStrip("graph");
              chooseKeys(keys);
            }}
          >
            Open its curves
          </SmallButton>
        </Line>
        <Parts />
      </Section>
      <Section title="Way" hint={now ? `now ${now}` : ""}>
        <Box
          role="group"
          aria-label="Ways of the gap"
          sx={{ display: "grid", gridTemplateColumns: "repeat(4, 1fr)", gap: 0.5 }}
          onPointerLeave={leave}
        >
          {WAYS.map(({ way, label, number }) => (
            <Box
              key={way}
              component="button"
              aria-pressed={now === way}
              onPointerEnter={() => preview(way)}
              onFocus={() => preview(way)}
              onBlur={leave}
              onClick={() => {
                const wish = edit(way);
                setTried(null);
                if (wish) void commit(wish);
              }}
              title={`${label}: pointing shows it on the stage, its path and the chart`}
              sx={{
                border: 1,
                borderColor: now === way ? ink.blue : ink.edge,
                borderRadius: 1,
                bgcolor: now === way ? ink.sheet : ink.paper,
                color: ink.ink,
                font: "inherit",
                fontSize: 11,
                p: 0.25,
                cursor: "pointer",
                boxShadow: now === way ? `inset 0 0 0 1px ${ink.blue}` : "none",
                "&:hover": { borderColor: ink.blue },
                "&:focus-visible": { outline: `2px solid ${ink.blue}`, outlineOffset: 1 },
              }}
            >
              <svg viewBox="-3 -14 46 52" width="100%" height="26" aria-hidden>
                <path d={wayPath(number, strength / 100)} fill="none" stroke={ink.blue} strokeWidth="2" />
              </svg>
              {label}
            </Box>
          ))}
        </Box>
        <Line>
          <Word>Strength</Word>
          <input
            type="range"
            aria-label="Strength"
            min={0}
            max={100}
            value={strength}
            onChange={(e) => setStrength(Number(e.target.value))}
            style={{ flex: 1, accentColor: ink.blue }}
          />
          <Whole label="Strength in percent" value={strength} low={0} high={100} onChange={setStrength} />
          <Word>%</Word>
        </Line>
        <Line>
          <SmallButton onClick={() => void make("smooth")}>Smooth</SmallButton>
          <SmallButton onClick={() => void make("stepped")}>Stepped</SmallButton>
        </Line>
      </Section>
      <Section title="Timing chart" hint={controls.length ? "of what is selected" : "by the whole body's way"}>
        {chart.data ? (
          <Chart
            key={`${member.id} ${gap.first} ${gap.last}`}
            chart={chart.data}
            controls={controls.length ? controls : null}
            gaps={many ? gapsChosen(member) : null}
            tried={tried && { number: WAYS.find((w) => w.way === tried.way)!.number, strength: tried.strength / 100 }}
          />
        ) : (
          <Said>{chart.error ? sentence((chart.error as Error).message) : "Measuring…"}</Said>
        )}
      </Section>
    </>
  );

  function make(way: Way) {
    const wish = edit(way);
    return wish ? commit(wish) : say("Select the parts whose gap shall change.");
  }
}

const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** The way as a small picture: time to the right, the pose that is come to above. */
function wayPath(number: number, strength: number): string {
  let path = "M0 32";
  for (let n = 1; n <= 24; n++) {
    const t = n / 24;
    const y = 32 - 32 * (number === EVEN ? t : number === INSTANT ? 1 : eased(number, strength, t));
    path += number === INSTANT && n === 1 ? `V0L${(40 * t).toFixed(1)} 0` : `L${(40 * t).toFixed(1)} ${y.toFixed(1)}`;
  }
  return path;
}

/** The way that the gap has in most of what is chosen; empty where ways differ widely. */
function wayNow(member: Member, first: number, controls: string[]): string {
  const counts = new Map<number, number>();
  let total = 0;
  for (const [address, rows] of Object.entries(member.clip.curves)) {
    if (address.startsWith("#") || (controls.length && !controls.includes(address.slice(0, address.lastIndexOf("/")))))
      continue;
    const n = rows.findIndex((row) => row[0] === first);
    if (n < 0 || n === rows.length - 1) continue;
    counts.set(rows[n][2], (counts.get(rows[n][2]) ?? 0) + 1);
    total++;
  }
  const [most] = [...counts].sort((a, b) => b[1] - a[1]);
  return most && most[1] > 0.6 * total ? WAY_OF[most[0]] : "";
}
