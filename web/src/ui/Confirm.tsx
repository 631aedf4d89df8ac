import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { ReactNode } from "react";
import { Dialog } from "./opened";

interface Props {
  title: string;
  yes: string;
  no: string;
  /** What yes does cannot be undone. */
  grave?: boolean;
  busy?: boolean;
  onAnswer: (yes: boolean) => void;
  children: ReactNode;
}

/** A question with two answers, each saying what it does. Escape is no. */
export function Confirm({ title, yes, no, grave, busy, onAnswer, children }: Props) {
  return (
    <Dialog open onClose={() => onAnswer(false)} aria-labelledby="confirm-title">
      <Box sx={{ p: 2.5, display: "grid", gap: 1.5, maxWidth: 460 }}>
        <Box component="h2" id="confirm-title" sx={{ m: 0, fontSize: 17 }}>
          {title}
        </Box>
        <Box>{children}</Box>
        <Box sx={{ display: "flex", gap: 1, justifyContent: "flex-end", flexWrap: "wrap" }}>
          <Button onClick={() => onAnswer(false)} autoFocus>
            {no}
          </Button>
          <Button
            variant="contained"
            color={grave ? "error" : "primary"}
            disabled={busy}
            onClick={() => onAnswer(true)}
          >
            {yes}
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
