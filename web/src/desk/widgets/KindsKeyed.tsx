import Box from "@mui/material/Box";
import Popover from "@mui/material/Popover";
import { useState } from "react";
import { keyKinds } from "../viewing";
import { useDesk } from "../store";
import type { Kind } from "../../model/types";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";

const KINDS: [Kind, string][] = [
  ["place", "Place"],
  ["turn", "Turn"],
  ["extra", "Roll, curl, IK and the like"],
  ["scale", "Size"],
];

/** What keying takes in by default: place and turn, not size, unless it is wished. */
export function KindsKeyed({
  title = "Channels that are keyed",
  label = "Keyed…",
}: {
  title?: string;
  label?: string;
}) {
  const kinds = useDesk((s) => s.kinds);
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
        <Box sx={{ p: 1.5, display: "grid" }}>
          <Box sx={{ fontSize: 12, mb: 0.5 }}>{title}</Box>
          {KINDS.map(([kind, label]) => (
            <Tick
              key={kind}
              label={label}
              on={kinds.includes(kind)}
              onChange={(on) => keyKinds(on ? [...kinds, kind] : kinds.filter((k) => k !== kind))}
            />
          ))}
        </Box>
      </Popover>
    </>
  );
}
