import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http } from "../../api/client";
import { blinkAt, changeBlink, layBlink } from "../../desk/gazes";
import { stretchChosen } from "../../desk/life";
import { useLookUp } from "../../desk/looking";
import { go } from "../../desk/playing";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { blinksOf } from "../../model/types";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Line, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";

const DEGREE = Math.PI / 180;
const BY_ITSELF = "lids";

/** Blinks: at the playhead, or wherever the eyes turn at once. */
export function Blinks({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  useDesk((s) => s.columns);
  const [frames, setFrames] = useState(4);
  const [turn, setTurn] = useState(25);
  const [by, setBy] = useState(BY_ITSELF);
  const here = blinkAt(member, frame);
  const all = blinksOf(member.clip);
  const over = stretchChosen();
  const expressions = useLookUp({
    what: "expressions",
    of: [member.id, "blinks"],
    ask: (take_id) =>
      ask(
        http.GET("/api/takes/{take_id}/expressions", {
          params: { path: { take_id }, query: { casting: member.id, frame: 1 } },
        }),
      ),
  });
  const field = (label: string, value: number, digits: number, done: (v: number) => void) => (
    <Box sx={{ width: 44 }}>
      <NumberField
        label={label}
        value={value}
        digits={digits}
        step={0}
        disabled={!editable}
        onType={(v, added) => done(added ? value + v : v)}
      />
    </Box>
  );
  return (
    <Section title="Blink" hint={all.length ? `${all.length} in this shot` : "lids fall faster than they rise"}>
      {here ? (
        <Line>
          <Word>from</Word>
          {field("Blinks from", here.start, 0, (v) => void changeBlink(member, here, { start: Math.round(v) }))}
          <Word>for</Word>
          {field(
            "Frames of the blink",
            here.end - here.start,
            0,
            (v) => void changeBlink(member, here, { frames: Math.round(v) }),
          )}
          <Word>frames</Word>
          <Box sx={{ flex: 1 }} />
          <SmallButton disabled={!editable} onClick={() => void commit({ kind: "blink keys", at: here.start })}>
            Into keys
          </SmallButton>
          <SmallButton disabled={!editable} onClick={() => void commit({ kind: "drop blinks", starts: [here.start] })}>
            Take away
          </SmallButton>
        </Line>
      ) : (
        <Line>
          <SmallButton
            disabled={!editable}
            onClick={() => void layBlink(frames, by === BY_ITSELF ? null : Number(by))}
            title="Both eyes, a hair apart, whatever the lids are keyed to"
          >
            Blink at {frame}
          </SmallButton>
          <Word>for</Word>
          {field("Frames of a new blink", frames, 0, (v) => setFrames(Math.min(Math.max(Math.round(v), 2), 24)))}
          <Word>frames, by</Word>
          <Choice
            label="Eyes are shut by"
            value={by}
            options={[
              { value: BY_ITSELF, label: "its lids" },
              ...(expressions.data ?? []).map((one) => ({ value: String(one.id), label: one.name })),
            ]}
            onChange={setBy}
          />
        </Line>
      )}
      <Line>
        <SmallButton
          disabled={!editable}
          onClick={() =>
            void commit({ kind: "blink at turns", first: over.start, last: over.end, least: turn * DEGREE, frames })
          }
          title={`Looked for from ${over.start} to ${over.end}`}
        >
          Blink at quick turns
        </SmallButton>
        <Word>of</Word>
        {field("Turns of so many degrees", turn, 0, (v) => setTurn(Math.min(Math.max(v, 5), 180)))}
        <Word>° or more</Word>
      </Line>
      {all.length > 0 && (
        <Line>
          {all.slice(0, 6).map((span) => (
            <SmallButton key={span.start} on={span === here} onClick={() => go(span.start + 1)}>
              {span.start}
            </SmallButton>
          ))}
          {all.length > 6 && <Word>and {all.length - 6} more</Word>}
          <Box sx={{ flex: 1 }} />
          {all.length > 1 && (
            <SmallButton
              disabled={!editable}
              onClick={() => void commit({ kind: "drop blinks", starts: all.map((span) => span.start) })}
            >
              All away
            </SmallButton>
          )}
        </Line>
      )}
    </Section>
  );
}
