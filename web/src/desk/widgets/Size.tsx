import Box from "@mui/material/Box";
import { useRef, useState } from "react";
import { leaveTry } from "../posing";
import { NumberField } from "../../ui/NumberField";
import { Slider } from "../../ui/opened";
import { read, SIZES, type Sized, stored } from "../../model/amounts";
import { useInks } from "../../ui/look";

const UNITS = { mm: "millimetres", "°": "degrees", "%": "percent" };

/** One amount: tried while it is dragged, made when let go, or typed. */
export function Size(p: {
  /** Which it is: by that go its word, its unit and how far the slider goes; more can be typed. */
  size: Sized;
  /** Another word for it. */
  label?: string;
  /** What it is an amount of. */
  of: string;
  /** As it is stored. */
  value: number;
  disabled: boolean;
  /** Shows one, as it would be stored. */
  onTry: (value: number) => void;
  /** Makes one, as it is read. */
  onDone: (value: number) => Promise<unknown>;
}) {
  const { label: usual, unit, most, least = 0 } = SIZES[p.size] as (typeof SIZES)[Sized] & { least?: number };
  const label = p.label ?? usual;
  const now = read(p.size, p.value);
  const ink = useInks();
  const [wish, setWish] = useState<number | null>(null);
  const value = wish ?? now;
  // Answers to earlier moves of the hand do not take the slider back while later ones are on their way.
  const moves = useRef(0);
  const move = (to: number | null) => {
    setWish(to);
    return ++moves.current;
  };
  function done(to: number) {
    const mine = move(to);
    // It is then what is stored: what was wished, or cut to what can be, or what it was where it was refused.
    const over = () => void (mine === moves.current && setWish(null));
    void p.onDone(to).then(over, over);
  }
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "52px 1fr 46px 22px", gap: 0.75, alignItems: "center" }}>
      <span>{label}</span>
      <Slider
        size="small"
        aria-label={`${label} of the ${p.of}`}
        disabled={p.disabled}
        min={Math.min(least, now)}
        max={Math.max(most, now)}
        step={most / 60}
        value={value}
        onChange={(_, v) => {
          move(v as number);
          p.onTry(stored(p.size, v as number));
        }}
        onChangeCommitted={(_, v) => done(v as number)}
        onKeyDown={(e) => {
          if (e.key !== "Escape") return;
          move(null);
          leaveTry();
        }}
        sx={{
          color: ink.blue,
          "& .MuiSlider-rail": { bgcolor: ink.line, opacity: 1 },
          "& .MuiSlider-track": { border: 0 },
        }}
      />
      <NumberField
        label={`${label} in ${UNITS[unit]}`}
        value={value}
        digits={unit === "mm" ? 1 : 2}
        step={0}
        disabled={p.disabled}
        onType={(v, by) => done(by ? value + v : v)}
      />
      <Box component="span" sx={{ color: ink.faint, fontSize: 12 }}>
        {unit}
      </Box>
    </Box>
  );
}
