import Box from "@mui/material/Box";
import { Suspense, useState } from "react";
import { setRate } from "../../desk/steps";
import { canChange, desk, useDesk } from "../../desk/store";
import { NumberField } from "../../ui/NumberField";
import { later } from "../../ui/later";

const RateAsked = later(() => import("./RateAsked").then((m) => m.RateAsked));

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
        <Suspense>
          <RateAsked fps={fps} wished={wished} onKeep={(keep) => set(wished, keep)} onLeave={() => setWished(null)} />
        </Suspense>
      )}
    </Box>
  );
}
