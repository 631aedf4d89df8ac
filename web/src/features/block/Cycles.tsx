import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http, type Schemas } from "../../api/client";
import { changeShot } from "../../desk/casting";
import { select } from "../../desk/selecting";
import { commit, say } from "../../desk/steps";
import { desk, type Member, useDesk } from "../../desk/store";
import { Line, Section, Word } from "../../ui/Section";
import { NumberField } from "../../ui/NumberField";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { type Channel, type Cycle, cycleOf } from "../../model/types";
import { shownAs } from "../../model/units";
import { useInks } from "../../ui/look";

/** Which frames show others, in words. */
const said = (first: number, last: number) =>
  first === last ? `frame ${first} shows one of these` : `frames ${first} to ${last} show these again`;

/** Loops: the echo, repeats with or without travel, and the seam. */
export function Cycles({ member }: { member: Member }) {
  const ink = useInks();
  const cycle = cycleOf(member.clip);
  const shot = useDesk((s) => s.shot)!;
  const [follow] = member.clip.follows;
  // What is most likely meant: the template laid last, or else what is played.
  const { laid } = desk();
  const [start, setStart] = useState(cycle?.start ?? laid?.start ?? shot.play_start);
  const [end, setEnd] = useState(cycle?.end ?? laid?.end ?? shot.play_end);
  async function make(echo: boolean) {
    // The doubled frame never shows: what is played ends before it.
    if ((await commit({ kind: "cycle", start, end, echo })) && shot.play_end === end)
      await changeShot({ play_end: end - 1 });
  }
  return (
    <>
      <Section title="Cycle" hint={cycle ? "" : "the last frame shows the first again"}>
        {cycle ? (
          <>
            <Box>
              {cycle.echo
                ? `${follow.first}–${cycle.end} echoes ${cycle.start}–${follow.first} mirrored.`
                : `${cycle.end} shows ${cycle.start} again.`}{" "}
              <Box component="span" sx={{ color: ink.faint }}>
                Keys are made from {cycle.start} to {follow.first - 1}; {said(follow.first, cycle.until)}.
              </Box>
            </Box>
            <Line>
              <SmallButton
                onClick={() => void commit({ kind: "free" })}
                title="Derived keys become ordinary ones; nothing moves"
              >
                Free into keys
              </SmallButton>
            </Line>
          </>
        ) : (
          <>
            <Line>
              <Whole label="Cycle from" value={start} onChange={setStart} />
              <Word>to</Word>
              <Whole label="Cycle to" value={end} onChange={setEnd} />
              <Word>{end - start > 0 ? `${end - start} frames` : ""}</Word>
            </Line>
            <Line>
              <SmallButton onClick={() => void make(true)} title="The second half is the first mirrored, always">
                Echo the half
              </SmallButton>
              <SmallButton onClick={() => void make(false)}>Loop</SmallButton>
            </Line>
          </>
        )}
      </Section>
      {cycle && <Repeats key={`${cycle.start}-${cycle.end}`} member={member} cycle={cycle} end={shot.end} />}
      <Seam member={member} start={cycle?.start ?? start} end={cycle?.end ?? end} />
      {cycle && <Slow />}
    </>
  );
}

function Repeats({ member, cycle, end }: { member: Member; cycle: Cycle; end: number }) {
  const [until, setUntil] = useState(Math.max(end, cycle.end));
  const [metres, setMetres] = useState(Math.hypot(...cycle.travel));
  const goes = Math.hypot(...cycle.travel);
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
      </Line>
      <Line>
        <SmallButton onClick={() => void commit({ kind: "repeat", until, travel: 0 })}>In place</SmallButton>
        <SmallButton
          onClick={() => void commit({ kind: "repeat", until, travel: "stride" })}
          title="The master goes as far as planted feet go back"
        >
          Travel a stride
        </SmallButton>
      </Line>
      <Line>
        <SmallButton
          onClick={() => void commit({ kind: "repeat", until, travel: metres })}
          title={`The way ${member.name} faces`}
        >
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
        <Word>m a cycle</Word>
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

function Slow() {
  return (
    <Section title="Speed" hint="every phase alike, both halves">
      <Line>
        <SmallButton onClick={() => void commit({ kind: "slow", count: 1, first: null, last: null })}>
          A frame more a phase
        </SmallButton>
        <SmallButton onClick={() => void commit({ kind: "slow", count: -1, first: null, last: null })}>
          One fewer
        </SmallButton>
      </Line>
    </Section>
  );
}
