import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import CircularProgress from "@mui/material/CircularProgress";
import { Link } from "react-router-dom";

/** A whole page that waits, or says why it cannot go on. */
export function Waiting({ text, stopped, onRetry }: { text: string; stopped?: boolean; onRetry?: () => void }) {
  return (
    <Box role="status" sx={{ height: "100%", display: "grid", placeContent: "center", justifyItems: "center", gap: 2 }}>
      {!stopped && <CircularProgress size={28} aria-label={text} />}
      <span>{text}</span>
      {onRetry && (
        <Button variant="outlined" onClick={onRetry}>
          Try again
        </Button>
      )}
      {stopped && !onRetry && (
        <Button component={Link} to="/">
          To the shots
        </Button>
      )}
    </Box>
  );
}
