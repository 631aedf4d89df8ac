import Box from "@mui/material/Box";
import { useState } from "react";
import { useInks } from "./look";
import { Chevron } from "./Chevron";
import { SmallButton } from "./SmallButton";
import { MenuOf } from "./opened";

interface Option<T extends string> {
  value: T;
  label: string;
  hint?: string;
}

/** One of several, shown as a small button that opens a list. */
export function Choice<T extends string>(props: {
  label: string;
  value: T;
  options: Option<T>[];
  onChange: (value: T) => void;
  show?: boolean;
  disabled?: boolean;
}) {
  const ink = useInks();
  const [at, setAt] = useState<HTMLElement | null>(null);
  const now = props.options.find((o) => o.value === props.value);
  return (
    <>
      <SmallButton
        onClick={(e) => setAt(e.currentTarget)}
        disabled={props.disabled}
        aria-label={`${props.label}: ${now?.label}`}
      >
        {props.show && (
          <Box component="span" sx={{ color: ink.faint, whiteSpace: "pre" }}>
            {`${props.label}: `}
          </Box>
        )}
        {now?.label}
        <Chevron />
      </SmallButton>
      <MenuOf
        at={at}
        onClose={() => setAt(null)}
        items={props.options.map(({ value, label, hint }) => ({
          key: value,
          label,
          hint,
          selected: value === props.value,
          act: () => props.onChange(value),
        }))}
      />
    </>
  );
}
