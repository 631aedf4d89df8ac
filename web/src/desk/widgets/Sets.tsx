import { Suspense, useState } from "react";
import type { Member } from "../store";
import { later } from "../../ui/later";
import { SmallButton } from "../../ui/SmallButton";

const SetsOpened = later(() => import("./SetsOpened").then((m) => m.SetsOpened));

/** Named selection sets, each with the control it turns about. */
export function Sets({ member }: { member: Member }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [ever, setEver] = useState(false);
  return (
    <>
      <SmallButton
        onClick={(e) => {
          setEver(true);
          setAt(e.currentTarget);
        }}
        title="Selections kept by name"
        sx={{ px: 0.75 }}
      >
        Sets ▾
      </SmallButton>
      {ever && (
        <Suspense>
          <SetsOpened member={member} at={at} onClose={() => setAt(null)} />
        </Suspense>
      )}
    </>
  );
}
