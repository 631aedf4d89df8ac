import { useState } from "react";
import { Chevron } from "./Chevron";
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
        <Chevron />
      </SmallButton>
      <MenuOf at={at} onClose={() => setAt(null)} items={acts} />
    </>
  );
}
