import Box from "@mui/material/Box";
import { useRef, useState } from "react";
import { useInks } from "./look";

interface Props {
  label: string;
  value: number;
  digits: number;
  /** What one pixel of a scrub is worth. */
  step: number;
  disabled?: boolean;
  pending?: boolean;
  /** What was typed, in the unit shown: absolute, or by this much. */
  onType: (value: number, by: boolean) => void;
  onScrubStart?: () => boolean;
  onScrub?: (change: number) => void;
  onScrubEnd?: () => void;
  onScrubCancel?: () => void;
  onBlocked?: () => void;
}

const minus = (text: string) => text.replace("-", "−");

/** A number to scrub sideways (Shift: fine) or to type; `+=0.02` and `-=0.02` change it by so much. */
export function NumberField(props: Props) {
  const ink = useInks();
  const [typing, setTyping] = useState<string | null>(null);
  const scrub = useRef<{ x: number; change: number; begun: boolean } | null>(null);
  const opened = useRef("");
  const back = useRef(false);

  const shownValue = minus((Math.abs(props.value) < 0.5 * 10 ** -props.digits ? 0 : props.value).toFixed(props.digits));

  function type() {
    opened.current = shownValue;
    setTyping(shownValue);
  }

  /** Takes what was typed, or nothing; after a key the field has the focus again. */
  function finish(text: string | null, byKey: boolean) {
    back.current = byKey;
    setTyping(null);
    if (text === null) return;
    const match = /^\s*([+-]=)?\s*([+\-−]?\d*[.,]?\d+)\s*(m|°|deg|cm)?\s*$/.exec(text);
    if (!match) return;
    let number = Number(match[2].replace("−", "-").replace(",", "."));
    if (match[3] === "cm") number /= 100;
    if (match[1] === "-=") number = -number;
    props.onType(number, !!match[1]);
  }

  if (typing !== null)
    return (
      <input
        autoFocus
        aria-label={props.label}
        value={typing}
        onChange={(e) => setTyping(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={() => finish(typing === opened.current ? null : typing, false)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") {
            e.preventDefault(); // what opens by the number is not answered by the same key
            finish(typing, true);
          }
          if (e.key === "Escape") finish(null, true);
        }}
        style={{
          width: "100%",
          boxSizing: "border-box",
          height: 22,
          font: "inherit",
          textAlign: "right",
          color: ink.ink,
          background: ink.sheet,
          border: `1px solid ${ink.blue}`,
          borderRadius: 3,
          padding: "0 6px",
          outline: "none",
        }}
      />
    );

  return (
    <Box
      component="button"
      ref={(element: HTMLButtonElement | null) => {
        if (back.current) element?.focus();
        if (element) back.current = false;
      }}
      aria-label={`${props.label}: ${shownValue}`}
      onPointerDown={(e) => {
        if (props.disabled) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        scrub.current = { x: e.clientX, change: 0, begun: false };
      }}
      onPointerMove={(e) => {
        const s = scrub.current;
        if (!s || !props.onScrub) return;
        if (!s.begun) {
          if (Math.abs(e.clientX - s.x) < 3) return;
          if (!(props.onScrubStart?.() ?? true)) {
            scrub.current = null;
            return;
          }
          s.begun = true;
        }
        s.change += (e.clientX - s.x) * props.step * (e.shiftKey ? 0.1 : 1);
        s.x = e.clientX;
        props.onScrub(s.change);
      }}
      onPointerUp={() => {
        const s = scrub.current;
        scrub.current = null;
        if (s?.begun) props.onScrubEnd?.();
        else if (props.disabled) props.onBlocked?.();
        else type();
      }}
      onKeyDown={(e) => {
        if (e.key === "Escape" && scrub.current) {
          scrub.current = null;
          props.onScrubCancel?.();
        }
        if (e.key === "Enter" && !props.disabled) {
          e.preventDefault();
          e.stopPropagation();
          type();
        }
      }}
      sx={{
        width: "100%",
        height: 22,
        font: "inherit",
        textAlign: "right",
        px: 0.75,
        borderRadius: "3px",
        cursor: props.disabled ? "help" : "ew-resize",
        border: 1,
        borderColor: props.pending ? ink.red : props.disabled ? "transparent" : ink.edge,
        borderStyle: props.pending ? "dashed" : "solid",
        bgcolor: props.disabled ? "transparent" : ink.sheet,
        color: props.disabled ? ink.faint : ink.ink,
        touchAction: "none",
        "&:hover": { borderColor: props.disabled ? ink.line : ink.blue },
        "&:focus-visible": { outline: `2px solid ${ink.blue}` },
      }}
    >
      {shownValue}
    </Box>
  );
}
