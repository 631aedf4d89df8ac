import Box from "@mui/material/Box";
import { type RefObject, useEffect, useRef, useState } from "react";
import { typed } from "../model/numbers";
import { useInks } from "./look";
import { message } from "./messages";

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
  /** Between which numbers it has to lie, in the unit shown: what is beyond is cut, which is said. */
  low?: number;
  high?: number;
  /** It stands for several that differ. */
  mixed?: boolean;
  /** Where the number is written, for whoever writes it without React. */
  text?: RefObject<HTMLSpanElement | null>;
  /** It has the focus, or has lost it. */
  onPoint?: (on: boolean) => void;
  /** Typing begins. */
  onBegin?: () => void;
}

const minus = (text: string) => text.replace("-", "−");

/** The number that is typed into as soon as it has the focus: Tab goes from one to the next. */
let next: Element | null = null;

/** The number after, or before, an element, among those that can be typed. */
function beside(element: Element, back: boolean): HTMLElement | null {
  const all = [...document.querySelectorAll<HTMLElement>("[data-number]")].filter((e) => e.offsetParent !== null);
  return all[all.indexOf(element as HTMLElement) + (back ? -1 : 1)] ?? null;
}

/**
 * A number to scrub sideways (Shift: fine) or to type: a digit begins, sums are worked out, `+=0.02` and `-=0.02`
 * change it by so much, and Tab goes on to the next one.
 */
export function NumberField(props: Props) {
  const ink = useInks();
  const [typing, setTyping] = useState<string | null>(null);
  const scrub = useRef<{ x: number; change: number; begun: boolean } | null>(null);
  const opened = useRef("");
  const back = useRef(false);

  const shownValue = minus((Math.abs(props.value) < 0.5 * 10 ** -props.digits ? 0 : props.value).toFixed(props.digits));

  const button = useRef<HTMLButtonElement>(null);

  function type(begun = "") {
    props.onBegin?.();
    opened.current = begun ? "" : props.mixed ? "" : shownValue;
    setTyping(begun || opened.current);
  }

  useEffect(() => {
    if (!button.current) return;
    if (back.current) button.current.focus();
    back.current = false;
  });

  /** Takes what was typed, or nothing; after a key the field has the focus again. */
  function finish(text: string | null, byKey: boolean) {
    back.current = byKey;
    setTyping(null);
    if (text === null) return;
    const said = (words: string) => message(words, { variant: "default", preventDuplicate: true });
    const found = typed(text);
    if (!found) {
      if (text.trim()) said(`“${text.trim()}” is no number: ${props.label} stays ${shownValue}.`);
      return;
    }
    const { value, by } = found;
    const wished = by ? props.value + value : value;
    const cut = Math.min(Math.max(wished, props.low ?? -Infinity), props.high ?? Infinity);
    if (cut === wished || props.mixed) return props.onType(value, by);
    const end = cut < wished ? "at most" : "at least";
    const [most, given] = [cut.toFixed(props.digits), String(+wished.toFixed(6))].map(minus);
    said(`${props.label} is ${end} ${most}; ${given} was cut to it.`);
    props.onType(cut, false);
  }

  if (typing !== null)
    return (
      <input
        autoFocus
        aria-label={props.label}
        value={typing}
        onChange={(e) => setTyping(e.target.value)}
        data-number
        onFocus={(e) => {
          props.onPoint?.(true);
          if (opened.current) e.target.select();
        }}
        onBlur={() => {
          props.onPoint?.(false);
          finish(typing === opened.current ? null : typing, false);
        }}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Tab") {
            const to = beside(e.currentTarget, e.shiftKey);
            if (!to) return;
            e.preventDefault();
            next = to;
            to.focus(); // which takes what was typed here
          }
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
      ref={button}
      data-number={props.disabled ? undefined : true}
      aria-label={`${props.label}: ${props.mixed ? "mixed" : shownValue}`}
      onFocus={(e: React.FocusEvent) => {
        props.onPoint?.(true);
        if (next === e.currentTarget && !props.disabled) type();
        next = null;
      }}
      onBlur={() => props.onPoint?.(false)}
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
        const begins = /^[0-9.,(+-]$/.test(e.key) && !e.ctrlKey && !e.metaKey && !e.altKey;
        if ((e.key === "Enter" || begins) && !props.disabled) {
          e.preventDefault();
          e.stopPropagation();
          type(begins ? e.key : "");
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
      <span ref={props.text}>{props.mixed ? "mixed" : shownValue}</span>
    </Box>
  );
}
