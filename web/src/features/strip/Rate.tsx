import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { useState } from "react";
import { setRate } from "../../desk/steps";
import { canChange, desk, useDesk } from "../../desk/store";
import { NumberField } from "../../ui/NumberField";

/** The frames a second of the shot. What moves is timed by them: so it is asked what of that stays. */
export function Rate({ fps }: { fps: number }) {
  const editable = useDesk((s) => canChange(s));
  const [wished, setWished] = useState<number | null>(null);
  const set = (rate: number, keep: "frames" | "seconds") => {
    setWished(null);
    void setRate(rate, keep);
  };
  const ask = (rate: number) => {
    if (rate === fps) return;
    const moves = desk().cast.some((member) => Object.keys(member.clip.curves).length > 0);
    if (moves) setWished(rate);
    else set(rate, "frames"); // there is nothing to keep
  };
  return (
    <Box sx={{ width: 40 }}>
      <NumberField
        label="Frames a second"
        value={fps}
        digits={Number.isInteger(fps) ? 0 : 2}
        step={0}
        disabled={!editable}
        onType={(value, by) => ask(by ? fps + value : value)}
      />
      {wished !== null && (
        <Dialog open onClose={() => setWished(null)} aria-labelledby="rate-title">
          <Box sx={{ p: 2.5, display: "grid", gap: 1.5, maxWidth: 480 }}>
            <Box component="h2" id="rate-title" sx={{ m: 0, fontSize: 17 }}>
              From {fps} to {wished} frames a second
            </Box>
            <Box>
              In all takes. With the <b>frames</b> kept every key stays on its frame, and everything goes{" "}
              {wished > fps ? "faster" : "slower"}. With the <b>seconds</b> kept everything goes as it does now: keys
              come to lie on other frames, the nearest to their times, and the range gets{" "}
              {wished > fps ? "longer" : "shorter"}.
            </Box>
            <Box sx={{ display: "flex", gap: 1, justifyContent: "flex-end", flexWrap: "wrap" }}>
              <Button onClick={() => setWished(null)} autoFocus>
                Leave it at {fps}
              </Button>
              <Button variant="outlined" onClick={() => set(wished, "seconds")}>
                Keep the seconds
              </Button>
              <Button variant="contained" onClick={() => set(wished, "frames")}>
                Keep the frames
              </Button>
            </Box>
          </Box>
        </Dialog>
      )}
    </Box>
  );
}
