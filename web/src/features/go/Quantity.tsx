import Box from "@mui/material/Box";
import { FACTS } from "../../api/facts.gen";
import { change } from "../../desk/goings";
import { type Way } from "../../model/goings";
import { type Member, useDesk } from "../../desk/store";
import { curveOf, keyCount, WIDTH } from "../../model/curves";
import { DEGREES } from "../../model/units";
import { NumberField } from "../../ui/NumberField";
import { Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { quantityOf } from "./quantities";

/** How a unit is shown: by what it is multiplied, with how many digits, and its word. */
const SHOWN: Record<string, [number, number, string]> = {
  rad: [DEGREES, 0, "°"],
  m: [100, 0, "cm"],
  "%": [100, 0, "%"],
  "% of the leg": [100, 1, "% of leg"],
  "m/s": [1, 2, "m/s"],
  "steps/s": [1, 2, "steps/s"],
  frames: [1, 1, "frames"],
  "": [1, 2, ""],
};

/** A quantity by which somebody goes, at the playhead: typed, keyed there, and its keys taken out. */
export function Quantity(p: { name: string; member: Member; way: Way; editable: boolean }) {
  const { name, way } = p;
  const frame = useDesk((s) => s.frame);
  const { label, unit } = quantityOf(name);
  const [factor, digits, word] = SHOWN[unit] ?? [1, 2, unit];
  const table = curveOf(p.member.clip, `${FACTS.ofQuantity}${name}`);
  const keys = table ? Array.from({ length: keyCount(table) }, (_, n) => table[n * WIDTH]) : [];
  const value = (way.now[name] ?? 0) * factor;
  const key = (shown: number) => void change({ kind: "key quantity", name, frame, value: shown / factor });
  return (
    <Box
      sx={{ display: "grid", gridTemplateColumns: "1fr 56px 50px 34px 40px", gap: 0.5, alignItems: "center" }}
      data-quantity={name}
    >
      <span style={{ fontSize: 12.5 }}>{label}</span>
      <NumberField
        label={`${label}${word ? `, ${word}` : ""}`}
        value={value}
        digits={digits}
        step={0}
        disabled={!p.editable}
        onType={(v, by) => key(by ? value + v : v)}
      />
      <Word>{word}</Word>
      <Word>{keys.length ? `${keys.length} key${keys.length > 1 ? "s" : ""}` : ""}</Word>
      {keys.includes(frame) ? (
        <SmallButton
          disabled={!p.editable}
          aria-label={`Take out the key of ${label} at ${frame}`}
          onClick={() => void change({ kind: "key quantity", name, frame, value: null })}
          sx={{ px: 0.5 }}
        >
          Out
        </SmallButton>
      ) : (
        <SmallButton
          disabled={!p.editable}
          aria-label={`Key ${label} at ${frame}`}
          onClick={() => key(value)}
          sx={{ px: 0.5 }}
        >
          Key
        </SmallButton>
      )}
    </Box>
  );
}
