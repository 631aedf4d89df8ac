import Box from "@mui/material/Box";
import { useState } from "react";
import { ask, http } from "../../api/client";
import { go } from "../../desk/playing";
import { useLookUp } from "../../desk/looking";
import { commit } from "../../desk/steps";
import { canChange, type Member, useDesk } from "../../desk/store";
import { cycleAt, cyclesOf } from "../../model/types";
import { Choice } from "../../ui/Choice";
import { Whole } from "../../ui/Whole";
import { useInks } from "../../ui/look";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";

/** How alike left and right go over a cycle, and which parts lead and which trail. */
export function Sides({ member }: { member: Member }) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const editable = useDesk((s) => canChange(s));
  const frame = useDesk((s) => s.frame);
  const cycle = cycleAt(member.clip, frame) ?? cyclesOf(member.clip)[0];
  const first = cycle?.start ?? shot.play_start;
  const last = cycle?.end ?? shot.play_end + (1 - ((shot.play_end - shot.play_start) % 2));
  const found = useLookUp({
    what: "alike",
    of: [member.id, first, last],
    ask: (take_id) => {
      const query = { casting: member.id, first, last };
      return ask(http.GET("/api/takes/{take_id}/alike", { params: { path: { take_id }, query } }));
    },
  });
  if (!found.data) return <Section title="Left and right">Measuring…</Section>;
  const { parts, lags, said } = found.data;
  const alike = parts.every((part) => part.degrees < 0.05 && part.metres < 0.0005);
  const cell = { textAlign: "right", fontVariantNumeric: "tabular-nums" } as const;
  return (
    <>
      <Section title="Left and right" hint={`${first} to ${last}, half a cycle apart`}>
        {said && <Said>{said.charAt(0).toUpperCase() + said.slice(1)}.</Said>}
        {alike && !said && <Word>The two sides go alike.</Word>}
        {!alike && parts.length > 0 && (
          <Box component="table" sx={{ fontSize: 12.5, borderCollapse: "collapse", "& td, & th": { py: 0.25 } }}>
            <thead>
              <tr>
                <th style={{ textAlign: "left", fontWeight: 400, color: ink.faint }}>part</th>
                <th style={{ ...cell, fontWeight: 400, color: ink.faint }}>turns</th>
                <th style={{ ...cell, fontWeight: 400, color: ink.faint }}>places</th>
                <th style={{ ...cell, fontWeight: 400, color: ink.faint }}>most at</th>
              </tr>
            </thead>
            <tbody>
              {parts.map((part) => (
                <tr key={part.part}>
                  <td>{part.label}</td>
                  <td style={cell}>{part.degrees.toFixed(1)}°</td>
                  <td style={cell}>{(100 * part.metres).toFixed(1)} cm</td>
                  <td style={cell}>
                    <SmallButton sx={{ height: 22 }} onClick={() => go(part.worst)}>
                      {part.worst}
                    </SmallButton>
                  </td>
                </tr>
              ))}
            </tbody>
          </Box>
        )}
        {!alike && !said && (
          <Line>
            <SmallButton
              disabled={!editable || cycle?.echo}
              title="The second half becomes the first mirrored; how it went otherwise lies in a layer with a weight"
              onClick={() => void commit({ kind: "part sides", start: first, end: last, controls: [], name: "" })}
            >
              Difference as a layer over a mirrored base
            </SmallButton>
          </Line>
        )}
      </Section>
      <Unlike editable={editable} />
      <Section title="Lead and delay" hint="by the speeds at which parts turn, against the hips">
        {lags.length === 0 && <Said>Too short, or nothing moves enough to be measured.</Said>}
        {lags.map((lag) => (
          <Box key={`${lag.part} ${lag.label}`} sx={{ display: "flex", fontSize: 12.5, alignItems: "center", gap: 1 }}>
            <Box sx={{ flex: 1 }}>{lag.label}</Box>
            <Box aria-hidden sx={{ width: 84, height: 10, position: "relative", bgcolor: ink.floor, borderRadius: 1 }}>
              <Box sx={{ position: "absolute", left: "50%", top: 0, bottom: 0, width: "1px", bgcolor: ink.faint }} />
              <Box
                sx={{
                  position: "absolute",
                  top: 1,
                  bottom: 1,
                  width: 6,
                  left: `calc(${50 + lag.frames * 5.4}% - 3px)`,
                  bgcolor: ink.blue,
                  borderRadius: 1,
                }}
              />
            </Box>
            <Box sx={{ width: 96, fontVariantNumeric: "tabular-nums" }}>
              {lag.frames === 0 ? "together" : lag.frames > 0 ? `trails by ${lag.frames}` : `leads by ${-lag.frames}`}
            </Box>
          </Box>
        ))}
      </Section>
    </>
  );
}

const PARTS = ["shoulders", "hands", "feet"] as const;

/** A difference that is asked for: what one side has more than the other, laid as a layer with a weight of its own. */
function Unlike({ editable }: { editable: boolean }) {
  const [side, setSide] = useState<"L" | "R">("L");
  const [apart, setApart] = useState({ shoulders: 0, hands: 0, feet: 0 });
  const [late, setLate] = useState(0);
  const nothing = !late && PARTS.every((part) => !apart[part]);
  const radians = (part: (typeof PARTS)[number]) => (apart[part] * Math.PI) / 180;
  const lay = () =>
    commit({
      kind: "make unlike",
      side,
      shoulders: radians("shoulders"),
      hands: radians("hands"),
      feet: radians("feet"),
      late,
      name: "",
    });
  return (
    <Section title="Make unlike" hint="over a base that stays as it is">
      <Line>
        <Choice
          label="More on"
          show
          value={side}
          options={[
            { value: "L", label: "the left" },
            { value: "R", label: "the right" },
          ]}
          onChange={setSide}
        />
      </Line>
      <Line>
        {PARTS.map((part) => (
          <Box key={part} sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
            <Word>{part}</Word>
            <Whole
              label={`${part[0].toUpperCase()}${part.slice(1)} unlike, degrees`}
              value={apart[part]}
              low={-60}
              high={60}
              width={34}
              onChange={(value) => setApart({ ...apart, [part]: value })}
            />
            <Word>°</Word>
          </Box>
        ))}
      </Line>
      <Line>
        <Word>its hand</Word>
        <Whole label="Hand late by, frames" value={late} low={0} high={24} width={34} onChange={setLate} />
        <Word>frames late</Word>
        <Box sx={{ flex: 1 }} />
        <SmallButton
          disabled={!editable || nothing}
          onClick={() => void lay()}
          title="Raised shoulders, bent hands, feet turned out: half of it more on one side, half less on the other"
        >
          Make unlike
        </SmallButton>
      </Line>
    </Section>
  );
}
