import Box from "@mui/material/Box";
import { useState } from "react";
import { useInks } from "./look";
import { NumberField } from "./NumberField";
import { SmallButton } from "./SmallButton";
import { Slider } from "./opened";

/** A share in percent: tried while it is dragged, made when let go, or typed. */
export function Share(p: {
  label: string;
  low: number;
  high: number;
  start: number;
  marks: { at: number; label: string }[];
  disabled?: boolean;
  onTry: (percent: number) => void;
  onDone: (percent: number) => void;
  onLeave: () => void;
}) {
  const ink = useInks();
  const [value, setValue] = useState(p.start);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "1fr 52px 14px 46px", gap: 0.5, alignItems: "center" }}>
      <Box sx={{ pl: 1.75, pr: 2 }}>
        <Slider
          size="small"
          aria-label={p.label}
          disabled={p.disabled}
          min={p.low}
          max={p.high}
          value={value}
          marks={p.marks.map((m) => ({ value: m.at, label: m.label }))}
          onChange={(_, v) => {
            setValue(v as number);
            p.onTry(v as number);
          }}
          onChangeCommitted={(_, v) => p.onDone(v as number)}
          onKeyDown={(e) => {
            if (e.key !== "Escape") return;
            setValue(p.start);
            p.onLeave();
          }}
          sx={{
            color: ink.blue,
            mb: 1.5,
            "& .MuiSlider-markLabel": { fontSize: 10.5, top: 22, color: ink.faint },
            "& .MuiSlider-rail": { bgcolor: ink.line, opacity: 1 },
            "& .MuiSlider-track": { border: 0 },
          }}
        />
      </Box>
      <NumberField
        label={`${p.label} in percent`}
        value={value}
        digits={0}
        step={0}
        disabled={p.disabled}
        onType={(v, by) => {
          const to = Math.min(Math.max(by ? value + v : v, p.low), p.high);
          setValue(to);
          p.onDone(to);
        }}
      />
      <Box component="span" sx={{ color: ink.faint, fontSize: 12 }}>
        %
      </Box>
      <SmallButton disabled={p.disabled} onClick={() => p.onDone(value)} title="Lay it again at this share">
        Lay
      </SmallButton>
    </Box>
  );
}
