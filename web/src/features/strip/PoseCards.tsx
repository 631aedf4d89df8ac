import Box from "@mui/material/Box";
import { useEffect, useMemo, useRef, useState } from "react";
import { go } from "../../desk/actions";
import { pictureAt, pictures, wishPicture } from "../../desk/pictures";
import { useDesk } from "../../desk/store";
import { useInks } from "../../ui/look";

const CARD = { width: 58, height: 64 };

/** A picture of each key pose, where its column is; where keys lie close, every so many has a card. */
export function PoseCards({ frames, x, width }: { frames: number[]; x: (frame: number) => number; width: number }) {
  const chosen = useMemo(() => {
    const kept: number[] = [];
    for (const f of frames) {
      const at = x(f);
      if (at < 0 || at > width) continue;
      if (!kept.length || at - x(kept[kept.length - 1]) >= CARD.width + 2) kept.push(f);
    }
    return kept;
  }, [frames, x, width]);
  return (
    <Box sx={{ position: "absolute", left: 0, right: 0, top: 0, bottom: 44 }}>
      {chosen.map((f) => (
        <Card key={f} frame={f} left={Math.min(Math.max(x(f) - CARD.width / 2, 1), width - CARD.width - 1)} />
      ))}
    </Box>
  );
}

function Card({ frame, left }: { frame: number; left: number }) {
  const ink = useInks();
  const box = useRef<HTMLCanvasElement>(null);
  const view = useDesk((s) => s.view);
  // The picture is drawn anew only when this very frame moves differently.
  const stamp = useDesk((s) => s.cast.map((m) => m.motion.stampOf(frame)).join());
  const here = useDesk((s) => s.frame === frame);
  const [ready, setReady] = useState(0);

  useEffect(() => {
    const again = () => setReady((n) => n + 1);
    pictures.listeners.add(again);
    return () => void pictures.listeners.delete(again);
  }, []);

  useEffect(
    () =>
      wishPicture(`card ${frame}`, () => {
        const picture = pictureAt(frame, CARD.width, CARD.height - 20, ink.sheet, view);
        if (picture) box.current?.getContext("2d")?.drawImage(picture, 0, 0);
      }),
    [frame, stamp, view, ready, ink],
  );

  return (
    <Box
      component="button"
      onClick={() => go(frame)}
      title={`Key pose at ${frame}`}
      sx={{ position: "absolute", left, top: 1, width: CARD.width, height: CARD.height, p: 0, border: here ? 2 : 1, borderColor: here ? ink.blue : ink.line, borderRadius: 1, bgcolor: ink.sheet, cursor: "pointer", overflow: "hidden", fontFamily: "inherit", color: ink.ink }}
    >
      <canvas ref={box} width={CARD.width * 2} height={(CARD.height - 20) * 2} style={{ display: "block", width: "100%", height: CARD.height - 20 }} />
      <Box component="span" sx={{ display: "inline-block", fontSize: 11, lineHeight: "12px", px: 0.5, border: 1.5, borderColor: ink.blue, borderRadius: 6 }}>{frame}</Box>
    </Box>
  );
}
