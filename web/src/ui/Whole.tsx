import Box from "@mui/material/Box";
import { NumberField } from "./NumberField";

/** A whole number of a form. */
export function Whole(p: {
  label: string;
  value: number;
  width?: number;
  low?: number;
  high?: number;
  onChange: (value: number) => void;
}) {
  return (
    <Box sx={{ width: p.width ?? 40 }}>
      <NumberField
        label={p.label}
        value={p.value}
        digits={0}
        step={0}
        low={p.low ?? -1e5}
        high={p.high ?? 1e5}
        onType={(v, by) => p.onChange(Math.round(by ? p.value + v : v))}
      />
    </Box>
  );
}
