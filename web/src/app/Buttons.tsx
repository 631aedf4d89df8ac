import Box from "@mui/material/Box";
import Button from "@mui/material/Button";

/** Leaving a form, and doing what it says. */
export const Buttons = ({ onClose, busy, label }: { onClose: () => void; busy: boolean; label: string }) => (
  <Box sx={{ display: "flex", justifyContent: "flex-end", gap: 1 }}>
    <Button onClick={onClose}>Cancel</Button>
    <Button type="submit" variant="contained" disabled={busy}>
      {label}
    </Button>
  </Box>
);
