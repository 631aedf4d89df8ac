import Box from "@mui/material/Box";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";
import { useInks } from "./look";
import { SmallButton } from "./SmallButton";

export interface Act {
  label: string;
  hint?: string;
  disabled?: boolean;
  act: () => unknown;
}

/** Several things to do behind one small button. */
export function Acts({ label, acts, disabled }: { label: string; acts: Act[]; disabled?: boolean }) {
  const ink = useInks();
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <SmallButton disabled={disabled} aria-haspopup="menu" onClick={(e) => setAt(e.currentTarget)}>
        {label}
        <Box component="svg" viewBox="0 0 8 6" sx={{ width: 8, ml: 0.75 }} aria-hidden>
          <path d="M1 1 L4 5 L7 1" fill="none" stroke="currentColor" strokeWidth="1.4" />
        </Box>
      </SmallButton>
      <Menu open={!!at} anchorEl={at} onClose={() => setAt(null)}>
        {acts.map((one) => (
          <MenuItem
            key={one.label}
            disabled={one.disabled}
            onClick={() => {
              setAt(null);
              one.act();
            }}
          >
            <Box component="span" sx={{ flex: 1, mr: 3 }}>
              {one.label}
            </Box>
            {one.hint && (
              <Box component="kbd" sx={{ color: ink.faint, fontFamily: "inherit" }}>
                {one.hint}
              </Box>
            )}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
