import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Dialog } from "../../ui/opened";

/** Whether frames or seconds are kept as the frame rate becomes another one. */
export function RateAsked({
  fps,
  wished,
  onKeep,
  onLeave,
}: {
  fps: number;
  wished: number;
  onKeep: (what: "frames" | "seconds") => void;
  onLeave: () => void;
}) {
  return (
    <Dialog open onClose={() => onLeave()} aria-labelledby="rate-title">
      <Box sx={{ p: 2.5, display: "grid", gap: 1.5, maxWidth: 480 }}>
        <Box component="h2" id="rate-title" sx={{ m: 0, fontSize: 17 }}>
          From {fps} to {wished} frames a second
        </Box>
        <Box>
          In all takes. With the <b>frames</b> kept every key stays on its frame, and everything goes{" "}
          {wished > fps ? "faster" : "slower"}. With the <b>seconds</b> kept everything goes as it does now: keys come
          to lie on other frames, the nearest to their times, and the range gets {wished > fps ? "longer" : "shorter"}.
        </Box>
        <Box sx={{ display: "flex", gap: 1, justifyContent: "flex-end", flexWrap: "wrap" }}>
          <Button onClick={() => onLeave()} autoFocus>
            Leave it at {fps}
          </Button>
          <Button variant="outlined" onClick={() => onKeep("seconds")}>
            Keep the seconds
          </Button>
          <Button variant="contained" onClick={() => onKeep("frames")}>
            Keep the frames
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
