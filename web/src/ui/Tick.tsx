import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";

/** A small box to tick, with its label. */
export function Tick(p: { label: string; on: boolean; onChange: (on: boolean) => void; apart?: boolean }) {
  return (
    <FormControlLabel
      label={p.label}
      slotProps={{ typography: { sx: { fontSize: 13, lineHeight: 1.25 } } }}
      sx={{ minHeight: 28, ...(p.apart ? { borderTop: 1, borderColor: "divider", mt: 0.5 } : {}) }}
      control={<Checkbox size="small" checked={p.on} onChange={(e) => p.onChange(e.target.checked)} />}
    />
  );
}
