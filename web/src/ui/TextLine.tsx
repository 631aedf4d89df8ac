import { useState } from "react";
import { lineField, useInks } from "./look";

interface Props {
  label: string;
  value: string;
  placeholder?: string;
  longest?: number;
  disabled?: boolean;
  /** Told on Enter and on leaving the field, where something else stands there than before. */
  onDone: (value: string) => void;
}

/** A line of text: taken on Enter and on leaving the field; Escape brings back what was there. */
export function TextLine({ label, value, placeholder, longest = 100, disabled, onDone }: Props) {
  const ink = useInks();
  const [text, setText] = useState(value);
  return (
    <input
      aria-label={label}
      placeholder={placeholder}
      value={text}
      maxLength={longest}
      disabled={disabled}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur(); // taken as it is left, and the keys work again
        if (e.key === "Escape") setText(value);
      }}
      onBlur={() => {
        if (text.trim() !== value) onDone(text.trim());
      }}
      style={{ flex: 1, minWidth: 0, ...lineField(ink) }}
    />
  );
}
