import { Suspense, useState } from "react";
import { SmallButton } from "../../ui/SmallButton";
import { later } from "../../ui/later";
import { Popover } from "../../ui/opened";

const Kinds = later(() => import("./Kinds").then((m) => m.Kinds));

/** What keying takes in by default: place and turn, not size, unless it is wished. */
export function KindsKeyed({
  title = "Channels that are keyed",
  label = "Keyed…",
}: {
  title?: string;
  label?: string;
}) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <SmallButton onClick={(e) => setAt(e.currentTarget)} title={title}>
        {label}
      </SmallButton>
      <Popover
        open={!!at}
        anchorEl={at}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: "top", horizontal: "right" }}
        transformOrigin={{ vertical: "bottom", horizontal: "right" }}
      >
        <Suspense>
          <Kinds title={title} />
        </Suspense>
      </Popover>
    </>
  );
}
