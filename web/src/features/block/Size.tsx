import Box from "@mui/material/Box";
import { useState } from "react";
import { leaveTry } from "../../desk/posing";
import { NumberField } from "../../ui/NumberField";
import { Slider } from "../../ui/opened";
import { useInks } from "../../ui/look";

const UNITS = { mm: "millimetres", "°": "degrees", "%": "percent" };

/** One amount: tried while it is dragged, made when let go, or typed. */
export function Size(p: {
  label: string;
  /** What it is an amount of. */
  of: string;
  unit: keyof typeof UNITS;
  value: number;
  most: number;
  disabled: boolean;
  onTry: (value: number) => void;
  onDone: (value: number) => Promise<unknown>;
}) {
  const ink = useInks();
  const [value, setValue] = useState(p.value);
  const [stored, setStored] = useState(p.value);
  // Answers to earlier moves of the hand do not take the slider back while later ones are on their way.
  const [going, setGoing] = useState(0);
  if (stored !== p.value) {
    setStored(p.value);
    if (!going) setValue(p.value);
  }
  function done(to: number) {
    setValue(to);
    setGoing((n) => n + 1);
    void p.onDone(to).then(
      (ok) => {
        setGoing((n) => n - 1);
        if (!ok) setValue(p.value); // it was refused, which is said
      },
      () => setGoing((n) => n - 1),
    );
  }
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "52px 1fr 46px 22px", gap: 0.75, alignItems: "center" }}>
      <span>{p.label}</span>
      <Slider
        size="small"
        aria-label={`${p.label} of the ${p.of}`}
        disabled={p.disabled}
        min={0}
        max={Math.max(p.most, p.value)}
        step={p.most / 60}
        value={value}
        onChange={(_, v) => {
          setValue(v as number);
          p.onTry(v as number);
        }}
        onChangeCommitted={(_, v) => done(v as number)}
        onKeyDown={(e) => {
          if (e.key !== "Escape") return;
          setValue(p.value);
          leaveTry();
        }}
        sx={{
          color: ink.blue,
          "& .MuiSlider-rail": { bgcolor: ink.line, opacity: 1 },
          "& .MuiSlider-track": { border: 0 },
        }}
      />
      <NumberField
        label={`${p.label} in ${UNITS[p.unit]}`}
        value={value}
        digits={p.unit === "mm" ? 1 : 2}
        step={0}
        disabled={p.disabled}
        onType={(v, by) => done(by ? value + v : v)}
      />
      <Box component="span" sx={{ color: ink.faint, fontSize: 12 }}>
        {p.unit}
      </Box>
    </Box>
  );
}
