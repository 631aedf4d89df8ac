import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http, type Schemas } from "../../api/client";
import { changeShot } from "../../desk/casting";
import { laidOver } from "../../desk/choosing";
import { landingBefore } from "../../desk/endings";
import { wholeTurns } from "../../model/cycles";
import { go } from "../../desk/playing";
import { select } from "../../desk/selecting";
import { commit, say } from "../../desk/steps";
import { desk, type Member, useDesk } from "../../desk/store";
import { Line, Section, Word } from "../../ui/Section";
import { NumberField } from "../../ui/NumberField";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { keyFrames } from "../../model/columns";
import { type Channel, type Cycle, cycleAt, cyclesOf } from "../../model/types";
import { shownAs } from "../../model/units";
import { useInks } from "../../ui/look";

/** Which frames show others, in words. */
const said = (first: number, last: number) =>
  first === last ? `frame ${first} shows one of these` : `frames ${first} to ${last} show these again`;

/** Loops: the echo, repeats with or without travel, and the seam. The one at the playhead is meant. */
export function Cycles({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const cycles = cyclesOf(member.clip);
  const cycle = cycleAt(member.clip, frame);
  const others = cycles.filter((other) => other !== cycle);
  return (
    <>
      {cycle ? <One member={member} cycle={cycle} /> : <New member={member} />}
      {others.length > 0 && (
        <Section title="Other cycles">
          <Line>
            {others.slice(0, 6).map((other) => (
              <SmallButton key={other.start} onClick={() => go(other.start)}>
                {other.start} to {other.until}
              </SmallButton>
            ))}
            {others.length > 6 && <Word>and {others.length - 6} more</Word>}
          </Line>
        </Section>
      )}
    </>
  );
}

function One({ member, cycle }: { member: Member; cycle: Cycle }) {
  const ink = useInks();
  const first = cycle.echo ? (cycle.start + cycle.end) / 2 : cycle.end;
  return (
    <>
      <Section title="Cycle">
        <Box>
          {cycle.echo
            ? `${first}–${cycle.end} echoes ${cycle.start}–${first} mirrored.`
            : `${cycle.end} shows ${cycle.start} again.`}{" "}
          <Box component="span" sx={{ color: ink.faint }}>
            Keys are made from {cycle.start} to {first - 1}; {said(first, cycle.until)}.
          </Box>
        </Box>
        <Line>
          <SmallButton
            onClick={() => void commit({ kind: "free", at: cycle.start })}
            title="Derived keys become ordinary ones; nothing moves"
          >
            Free into keys
          </SmallButton>
        </Line>
      </Section>
      <Repeats
        key={`${cycle.start}-${cycle.end}-${cycle.until}-${String(cycle.travel)}`}
        member={member}
        cycle={cycle}
      />
      <Seam member={member} start={cycle.start} end={cycle.end} />
      <Slow first={cycle.start} last={first} />
    </>
  );
}

/** What is most likely meant: the chosen columns, the template laid last, or what is played, which ends before it. */
function proposed(member: Member): { start: number; end: number } {
  const { columns, laid, shot, frame } = desk();
  if (columns.length > 1) return { start: columns[0], end: columns[columns.length - 1] };
  if (laid && !cycleAt(member.clip, laid.start)) return laid;
  const start = cycleAt(member.clip, shot!.play_start) ? frame : shot!.play_start;
  return { start, end: Math.max(shot!.play_end + 1, start + 2) };
}

function New({ member }: { member: Member }) {
  const shot = useDesk((s) => s.shot)!;
  useDesk((s) => s.columns);
  useDesk((s) => s.laid);
  const { start, end } = proposed(member);
  async function make(echo: boolean) {
    // The doubled frame never shows: what is played ends before it.
    if ((await commit({ kind: "cycle", start, end, echo })) && shot.play_end === end)
      await changeShot({ play_end: end - 1 });
  }
  return (
    <>
      <Section title="Cycle" hint="the last frame shows the first again">
        <Line>
          <Whole label="Cycle from" value={start} onChange={(from) => laidOver(from, end)} />
          <Word>to</Word>
          <Whole label="Cycle to" value={end} onChange={(to) => laidOver(start, to)} />
          <Word>{end - start > 0 ? `${end - start} frames` : ""}</Word>
        </Line>
        <Line>
          <SmallButton onClick={() => void make(true)} title="The second half is the first mirrored, always">
            Echo the half
          </SmallButton>
          <SmallButton onClick={() => void make(false)}>Loop</SmallButton>
        </Line>
      </Section>
      <Seam member={member} start={start} end={end} />
    </>
  );
}

function Repeats({ member, cycle }: { member: Member; cycle: Cycle }) {
  const end = useDesk((s) => s.shot!.end);
  // As far as nothing else is keyed.
  const next = keyFrames(member).find((frame) => frame > cycle.until);
  const free = Math.max(next === undefined ? end : Math.min(next - 1, end), cycle.end);
  const [typed, setUntil] = useState<number | null>(null);
  const until = typed ?? (cycle.until > cycle.end ? cycle.until : free);
  const goes = Math.hypot(...cycle.travel);
  const [metres, setMetres] = useState(goes);
  const turns = (until - cycle.start) / (cycle.end - cycle.start);
  const repeat = (travel: number | "stride" | null) => void commit({ kind: "repeat", at: cycle.start, until, travel });
  return (
    <Section
      title="Repeat"
      hint={
        cycle.until > cycle.end
          ? `to ${cycle.until}${goes > 1e-6 ? `, ${goes.toFixed(3)} m a cycle` : ", in place"}`
          : "not yet"
      }
    >
      <Line>
        <Word>up to frame</Word>
        <Whole label="Repeat to" value={until} width={48} onChange={setUntil} />
        <Word>
          {Number.isInteger(turns) ? `${turns} ${turns === 1 ? "turn" : "turns"}` : `${turns.toFixed(2)} turns`}
        </Word>
      </Line>
      <Line>
        <SmallButton onClick={() => setUntil(wholeTurns(cycle, until))} title="The last whole turn up to there">
          Whole turns
        </SmallButton>
        <SmallButton
          onClick={() =>
            void landingBefore(member, cycle.start, until).then(
              (to) => to !== null && setUntil(Math.max(to, cycle.end)),
            )
          }
          title="The last frame up to there at which a foot comes to stand; repeat it that far first"
        >
          A foot stands
        </SmallButton>
        <SmallButton onClick={() => setUntil(free)} title="As far as nothing else is keyed">
          All
        </SmallButton>
      </Line>
      <Line>
        <SmallButton onClick={() => repeat(0)}>In place</SmallButton>
        <SmallButton onClick={() => repeat("stride")} title="The master goes as far as planted feet go back">
          Travel a stride
        </SmallButton>
      </Line>
      <Line>
        <SmallButton onClick={() => repeat(metres)} title={`The way ${member.name} faces`}>
          Travel
        </SmallButton>
        <Box sx={{ width: 58 }}>
          <NumberField
            label="Metres a cycle"
            value={metres}
            digits={3}
            step={0}
            onType={(v, by) => setMetres(by ? metres + v : v)}
          />
        </Box>
        <Word>m a cycle, {(metres * turns).toFixed(2)} m in all</Word>
      </Line>
    </Section>
  );
}

/** By how much a channel does not close, in the unit in which it is shown. */
function openBy(join: Schemas["JoinOut"], channel: Channel | undefined): string {
  const { factor, digits, unit } = channel ? shownAs(channel) : { factor: 1, digits: 3, unit: "" };
  const by = Math.abs((join.jumps ? join.gap : join.corner) * factor);
  const least = 10 ** -digits;
  const number = by < least ? `under ${least}` : by.toFixed(digits);
  if (join.travels) return `travels ${number} ${unit}`;
  return join.jumps ? `by ${number} ${unit}` : `slope by ${number} ${unit} a frame`;
}

function Seam({ member, start, end }: { member: Member; start: number; end: number }) {
  const ink = useInks();
  const revision = useDesk((s) => s.revision);
  const [found, setFound] = useState<{ revision: number; joins: Schemas["JoinOut"][] } | null>(null);
  async function check() {
    try {
      const checks = await ask(
        http.GET("/api/takes/{take_id}/checks", {
          params: { path: { take_id: desk().takeId }, query: { casting: member.id, first: start, last: end } },
        }),
      );
      setFound({ revision: desk().revision, joins: checks.joins });
    } catch (error) {
      say((error as Error).message, true);
    }
  }
  const joins = found?.revision === revision ? found.joins : null;
  const open = (joins ?? []).filter((join) => !join.travels); // what travels need not close
  const channelOf = (address: string) => {
    const n = member.channels.get(address);
    return n === undefined ? undefined : member.rig.channels[n];
  };
  const label = (address: string) => {
    const channel = channelOf(address);
    return channel
      ? `${member.controls.get(address.slice(0, address.lastIndexOf("/")))?.label}, ${channel.label}`
      : address;
  };
  return (
    <Section title="Seam" hint={`of ${start} and ${end}`}>
      <Line>
        <SmallButton onClick={() => void check()}>Check</SmallButton>
        <SmallButton
          disabled={!open.length}
          onClick={() => void commit({ kind: "mend", start, end, controls: null })}
          title={`Frame ${end} takes the value of ${start}, and both one slope; what travels is left alone`}
        >
          Mend all
        </SmallButton>
        {joins && <Word>{open.length ? `${open.length} do not close` : "All close: values and slopes agree"}</Word>}
      </Line>
      {joins?.slice(0, 40).map((join) => (
        <Box
          component="button"
          key={join.address}
          onClick={() => select([join.address.slice(0, join.address.lastIndexOf("/"))])}
          sx={{
            display: "flex",
            border: 0,
            p: 0,
            background: "none",
            font: "inherit",
            fontSize: 12,
            color: ink.ink,
            cursor: "pointer",
            textAlign: "left",
            "&:hover": { color: ink.blue },
          }}
        >
          <Box component="span" sx={{ flex: 1 }}>
            {label(join.address)}
          </Box>
          <Box component="span" sx={{ color: join.travels ? ink.faint : ink.red }}>
            {openBy(join, channelOf(join.address))}
          </Box>
        </Box>
      ))}
    </Section>
  );
}

function Slow({ first, last }: { first: number; last: number }) {
  return (
    <Section title="Speed" hint="every phase alike, both halves">
      <Line>
        <SmallButton onClick={() => void commit({ kind: "slow", count: 1, first, last })}>
          A frame more a phase
        </SmallButton>
        <SmallButton onClick={() => void commit({ kind: "slow", count: -1, first, last })}>One fewer</SmallButton>
      </Line>
    </Section>
  );
}
