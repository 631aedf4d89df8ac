import Box from "@mui/material/Box";
import { useEffect, useRef } from "react";
import { titled } from "../../desk/bound";
import { changeShot } from "../../desk/casting";
import { go, goToKey, playOrStop, stop } from "../../desk/playing";
import { canChange, desk, onShow, playhead, useDesk } from "../../desk/store";
import { NumberField } from "../../ui/NumberField";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";
import { Rate } from "./Rate";

const Glyph = ({ d }: { d: string }) => (
  <svg width="14" height="12" viewBox="0 0 14 12" aria-hidden>
    <path d={d} fill="currentColor" />
  </svg>
);

/** Playing and stepping, the frame, and the rate that is really reached. */
export function Transport() {
  const ink = useInks();
  const playing = useDesk((s) => s.playing);
  const frame = useDesk((s) => s.frame);
  const shot = useDesk((s) => s.shot);
  const number = useRef<HTMLSpanElement>(null);
  const rate = useRef<HTMLElement>(null);

  useEffect(
    () =>
      onShow(() => {
        if (!desk().playing) return;
        if (number.current) number.current.textContent = String(playhead.frame);
        if (rate.current) {
          rate.current.textContent = playhead.rate ? `${playhead.rate.toFixed(1)} frames/s` : "measuring";
          rate.current.dataset.dropped = String(playhead.dropped);
          if (playhead.dropped) rate.current.textContent += `, ${playhead.dropped} dropped`;
        }
      }),
    [],
  );
  if (!shot) return null;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, flex: "none" }}>
      <SmallButton aria-label="First frame" title={titled("First frame", "first")} onClick={() => go(shot.play_start)}>
        <Glyph d="M1 1h2v10H1zM13 1v10L4 6z" />
      </SmallButton>
      <SmallButton aria-label="Previous key" title={titled("Previous key", "key before")} onClick={() => goToKey(-1)}>
        <Glyph d="M9 1v10L1 6zM10 6a2 2 0 1 0 4 0 2 2 0 1 0-4 0" />
      </SmallButton>
      <SmallButton
        aria-label={playing ? "Stop" : "Play"}
        title={titled("Play and stop", "play")}
        on={playing}
        onClick={playOrStop}
        sx={{ width: 44, justifyContent: "center" }}
      >
        {playing ? <Glyph d="M2 1h10v10H2z" /> : <Glyph d="M2 0v12l11-6z" />}
      </SmallButton>
      <SmallButton aria-label="Next key" title={titled("Next key", "key after")} onClick={() => goToKey(1)}>
        <Glyph d="M5 1v10l8-5zM0 6a2 2 0 1 0 4 0 2 2 0 1 0-4 0" />
      </SmallButton>
      <SmallButton aria-label="Last frame" title={titled("Last frame", "last")} onClick={() => go(shot.play_end)}>
        <Glyph d="M11 1h2v10h-2zM1 1v10l9-5z" />
      </SmallButton>
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, ml: 0.5 }}>
        <Box component="span" sx={{ color: ink.faint, fontSize: 12 }}>
          Frame
        </Box>
        <Box sx={{ width: 46 }} data-testid="frame">
          <NumberField
            label="Frame"
            value={frame}
            digits={0}
            step={0}
            low={shot.start}
            high={shot.end}
            text={number}
            onBegin={() => playing && stop()}
            onType={(f, by) => go(by ? desk().frame + f : f)}
          />
        </Box>
        <Box
          component="span"
          ref={rate}
          data-testid="rate"
          sx={{ color: ink.faint, fontSize: 12, minWidth: playing ? 92 : 48, whiteSpace: "nowrap" }}
        >
          {playing ? "" : `${(frame / shot.fps).toFixed(2)} s`}
        </Box>
      </Box>
    </Box>
  );
}

/** Frames a second, range and play range. */
export function Ranges() {
  const ink = useInks();
  const shot = useDesk((s) => s.shot);
  const editable = useDesk((s) => canChange(s));
  if (!shot) return null;
  const field = (label: string, key: "start" | "end" | "play_start" | "play_end", wide = 40) => (
    <Box sx={{ width: wide }}>
      <NumberField
        label={label}
        value={shot[key]}
        digits={Number.isInteger(shot[key]) ? 0 : 2}
        step={0}
        disabled={!editable}
        onType={(v, by) => void changeShot({ [key]: by ? shot[key] + v : v })}
      />
    </Box>
  );
  const word = (text: string) => (
    <Box component="span" sx={{ color: ink.faint, fontSize: 12, whiteSpace: "nowrap" }}>
      {text}
    </Box>
  );
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, flex: "none" }}>
      {word("Play")}
      {field("Play from", "play_start")}
      {word("to")}
      {field("Play to", "play_end")}
      <Box sx={{ width: 6 }} />
      {word("Range")}
      {field("Range from", "start")}
      {word("to")}
      {field("Range to", "end")}
      <Box sx={{ width: 6 }} />
      <Rate fps={shot.fps} />
      {word("frames/s")}
    </Box>
  );
}
