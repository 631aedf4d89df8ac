import Box from "@mui/material/Box";
import { useState } from "react";
import { commit } from "../../desk/steps";
import { type Member, useDesk } from "../../desk/store";
import { Choice } from "../../ui/Choice";
import { Line, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";

/** The limbs of what is selected, posed by IK or FK over a range, looking as before. */
export function OverRange({ member }: { member: Member }) {
  const selection = useDesk((s) => s.selection);
  const shot = useDesk((s) => s.shot)!;
  const columns = useDesk((s) => s.columns);
  const [open, setOpen] = useState(false);
  const [every, setEvery] = useState<"needed" | "key" | "frame">("needed");
  const [tolerance, setTolerance] = useState(1);
  const limbs = member.rig.limbs.filter((l) => selection.some((n) => member.controls.get(n)?.limb === l.name));
  const [typed, setTyped] = useState<[number, number] | null>(null);
  const [first, last] =
    typed ?? (columns.length > 1 ? [columns[0], columns[columns.length - 1]] : [shot.play_start, shot.play_end]);
  const match = (to: "ik" | "fk") =>
    void commit({
      kind: "limbs",
      limbs: limbs.map((l) => l.name),
      first,
      last,
      to,
      every,
      tolerance: tolerance / 1000,
    });
  if (!limbs.length) return null;
  if (!open)
    return (
      <Box sx={{ mb: 0.75 }}>
        <SmallButton onClick={() => setOpen(true)} title="The limb is changed over some frames, and looks as before">
          Over a range…
        </SmallButton>
      </Box>
    );
  return (
    <Box sx={{ display: "grid", gap: 0.5, mb: 0.75 }} role="group" aria-label="IK and FK over a range">
      <Line>
        <Word>from</Word>
        <Whole label="Change from" value={first} onChange={(from) => setTyped([from, last])} />
        <Word>to</Word>
        <Whole label="Change to" value={last} onChange={(to) => setTyped([first, to])} />
        <SmallButton onClick={() => match("ik")}>To IK</SmallButton>
        <SmallButton onClick={() => match("fk")}>To FK</SmallButton>
      </Line>
      <Line>
        <Choice
          label="Keys"
          show
          value={every}
          options={[
            { value: "needed", label: "where needed" },
            { value: "key", label: "at the limb's keys" },
            { value: "frame", label: "on every frame" },
          ]}
          onChange={setEvery}
        />
        {every === "needed" && (
          <>
            <Word>within</Word>
            <Whole
              label="Tolerance in millimetres"
              value={tolerance}
              low={1}
              high={1000}
              width={32}
              onChange={setTolerance}
            />
            <Word>mm</Word>
          </>
        )}
      </Line>
    </Box>
  );
}
