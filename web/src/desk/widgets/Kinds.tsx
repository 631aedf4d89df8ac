import Box from "@mui/material/Box";
import { keyKinds } from "../viewing";
import { useDesk } from "../store";
import type { Kind } from "../../model/types";
import { Tick } from "../../ui/Tick";

const KINDS: [Kind, string][] = [
  ["place", "Place"],
  ["turn", "Turn"],
  ["extra", "Roll, curl, IK and the like"],
  ["scale", "Size"],
];

/** The kinds of channel that are keyed, to be ticked. */
export function Kinds({ title }: { title: string }) {
  const kinds = useDesk((s) => s.kinds);
  return (
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
  );
}
