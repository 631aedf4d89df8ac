import Box from "@mui/material/Box";
import { useState } from "react";
import { SmallButton } from "./SmallButton";
import type { Item } from "./MenuOf";
import { MenuOf } from "./opened";

export type Act = Item;

/** Several things to do behind one small button. */
export function Acts({ label, acts, disabled }: { label: string; acts: Act[]; disabled?: boolean }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <SmallButton disabled={disabled} aria-haspopup="menu" onClick={(e) => setAt(e.currentTarget)}>
        {label}
        <Box component="svg" viewBox="0 0 8 6" sx={{ width: 8, ml: 0.75 }} aria-hidden>
          <path d="M1 1 L4 5 L7 1" fill="none" stroke="currentColor" strokeWidth="1.4" />
        </Box>
      </SmallButton>
      <MenuOf at={at} onClose={() => setAt(null)} items={acts} />
    </>
  );
}
