import Box from "@mui/material/Box";
import LinearProgress from "@mui/material/LinearProgress";
import { useState } from "react";
import { unfinished } from "../../api/jobs";
import { leaveFall, letFall, LIMP, MUSCLES, seeFall, takeFall, type Wish } from "../../desk/falls";
import { canChange, type Member, useDesk } from "../../desk/store";
import { useInks } from "../../ui/look";
import { NumberField } from "../../ui/NumberField";
import { Slider } from "../../ui/opened";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";

const LABELS: Record<(typeof MUSCLES)[number], string> = { trunk: "Trunk", head: "Head", arms: "Arms", legs: "Legs" };

/** The figure goes limp from the playhead on: worked out, seen beside the motion, taken as keys. */
export function Fall({ member }: { member: Member }) {
  const frame = useDesk((s) => s.frame);
  const shot = useDesk((s) => s.shot)!;
  const editable = useDesk((s) => canChange(s));
  const falling = useDesk((s) => s.falling);
  const [wish, setWish] = useState<Wish>(LIMP);
  const busy = !!falling && unfinished(falling.job);
  return (
    <>
      {falling && <Found editable={editable} />}
      <Section title="Goes limp" hint={`from ${frame} on`}>
        <Line>
          <Word>falls for</Word>
          <Box sx={{ width: 48 }}>
            <NumberField
              label="Frames of the fall"
              value={wish.frames}
              digits={0}
              step={0}
              low={2}
              high={240}
              disabled={!editable || busy}
              onType={(v, by) =>
                setWish({ ...wish, frames: Math.min(Math.max(Math.round(by ? wish.frames + v : v), 2), 240) })
              }
            />
          </Box>
          <Word>frames, {(wish.frames / shot.fps).toFixed(1)} s</Word>
        </Line>
        <Word>Muscle that is left</Word>
        {MUSCLES.map((part) => (
          <Muscle
            key={part}
            label={LABELS[part]}
            share={wish[part]}
            disabled={!editable || busy}
            onChange={(share) => setWish({ ...wish, [part]: share })}
          />
        ))}
        <Line>
          <SmallButton disabled={!editable || busy} onClick={() => void letFall(member, wish)}>
            Let it fall
          </SmallButton>
        </Line>
        <Said>
          Within the ranges of its joints, onto the ground and props; what it carries falls as well. Nothing is changed
          before it is taken.
        </Said>
      </Section>
    </>
  );
}

function Found({ editable }: { editable: boolean }) {
  const falling = useDesk((s) => s.falling)!;
  const who = useDesk((s) => s.cast.find((one) => one.id === falling.casting)?.name ?? "");
  const playing = useDesk((s) => s.playing);
  const { job, at } = falling;
  if (unfinished(job))
    return (
      <Section title="Being worked out" hint={job.said || "waits for its turn"}>
        <LinearProgress variant="determinate" value={100 * job.share} aria-label="How much of the fall" />
        <Line>
          <SmallButton onClick={() => leaveFall()}>Cancel</SmallButton>
        </Line>
      </Section>
    );
  const notes = (job.outcome as { notes?: string[] }).notes ?? [];
  return (
    <Section title={`${who} falls`} hint={`from ${at}`}>
      <Said>
        {notes.map((note) => `${note[0].toUpperCase()}${note.slice(1)}.`).join(" ")} It is the see-through figure beside
        the motion.
      </Said>
      <Line>
        <SmallButton onClick={seeFall} disabled={playing}>
          See it play
        </SmallButton>
        <SmallButton disabled={!editable} onClick={() => void takeFall()} title="As few keys as hold it, in one step">
          Take it
        </SmallButton>
        <SmallButton onClick={() => leaveFall()}>Leave it</SmallButton>
      </Line>
    </Section>
  );
}

function Muscle(p: { label: string; share: number; disabled: boolean; onChange: (share: number) => void }) {
  const ink = useInks();
  const percent = Math.round(100 * p.share);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "48px 1fr 46px 18px", gap: 0.75, alignItems: "center" }}>
      <span>{p.label}</span>
      <Slider
        size="small"
        aria-label={`Muscle left: ${p.label}`}
        disabled={p.disabled}
        min={0}
        max={100}
        value={percent}
        onChange={(_, v) => p.onChange((v as number) / 100)}
        sx={{
          color: ink.blue,
          "& .MuiSlider-rail": { bgcolor: ink.line, opacity: 1 },
          "& .MuiSlider-track": { border: 0 },
        }}
      />
      <NumberField
        label={`Muscle left in percent: ${p.label}`}
        value={percent}
        digits={0}
        step={0}
        low={0}
        high={100}
        disabled={p.disabled}
        onType={(v, by) => p.onChange(Math.min(Math.max(by ? percent + v : v, 0), 100) / 100)}
      />
      <Word>%</Word>
    </Box>
  );
}
