import Box from "@mui/material/Box";
import { useRef } from "react";
import { keySaid } from "../../desk/bound";
import { go } from "../../desk/playing";
import { useDesk } from "../../desk/store";
import { setLooks } from "../../desk/viewing";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";
import { Transport } from "./Transport";

/** Below the full stage: playing, the frame, and a line to scrub on. */
export function ThinBar() {
  const ink = useInks();
  const shot = useDesk((s) => s.shot);
  const frame = useDesk((s) => s.frame);
  const line = useRef<HTMLDivElement>(null);
  if (!shot) return null;
  const { play_start: first, play_end: last } = shot;
  const share = (frame - first) / Math.max(last - first, 1);
  const scrub = (clientX: number) => {
    const { left, width } = line.current!.getBoundingClientRect();
    go(first + Math.round(Math.min(Math.max((clientX - left) / width, 0), 1) * (last - first)));
  };
  return (
    <Box
      data-testid="thin-bar"
      sx={{ display: "flex", alignItems: "center", gap: 2, px: 1, height: 38, flex: "none", bgcolor: ink.paper }}
    >
      <Transport />
      <Box
        ref={line}
        role="slider"
        tabIndex={0}
        aria-label="Frame on the line"
        aria-valuemin={first}
        aria-valuemax={last}
        aria-valuenow={frame}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          scrub(e.clientX);
        }}
        onPointerMove={(e) => e.buttons === 1 && scrub(e.clientX)}
        sx={{ flex: 1, height: 24, position: "relative", cursor: "pointer", touchAction: "none" }}
      >
        <Box sx={{ position: "absolute", left: 0, right: 0, top: 11, height: 2, bgcolor: ink.edge }} />
        <Box
          sx={{
            position: "absolute",
            left: `${100 * Math.min(Math.max(share, 0), 1)}%`,
            top: 4,
            height: 16,
            width: 2,
            bgcolor: ink.red,
          }}
        />
      </Box>
      <SmallButton onClick={() => setLooks({ full: false })} title="Escape">
        Leave the full stage {keySaid("full") && `(${keySaid("full")})`}
      </SmallButton>
    </Box>
  );
}
