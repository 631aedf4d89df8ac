import Box from "@mui/material/Box";
import { ask, http } from "../../api/client";
import { useLookUp } from "../../desk/looking";
import { type Member, useDesk } from "../../desk/store";
import type { Control } from "../../model/types";
import { go } from "../../desk/playing";
import { useInks } from "../../ui/look";
import { SmallButton } from "../../ui/SmallButton";

const said = (value: number, unit: string) => {
  const sign = value < 0 ? "−" : "";
  const size = Math.abs(value);
  if (unit === "rad") return `${sign}${((size * 180) / Math.PI).toFixed(1)}°`;
  return unit === "m" ? `${sign}${(1000 * size).toFixed(0)} mm` : `${sign}${size.toFixed(2)}`;
};

/** Channels that do one thing together, while a pose beside keys only one of them: what it is read from is not all. */
export function Doubles({ member, control }: { member: Member; control: Control }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const still = useDesk((s) => !s.playing && !s.dragged);
  const found = useLookUp({
    what: "doubles",
    of: [member.id, control.name, frame],
    ask: (take_id) =>
      ask(
        http.GET("/api/takes/{take_id}/doubles", {
          params: { path: { take_id }, query: { casting: member.id, control: control.name, frame } },
        }),
      ),
    enabled: still,
    keep: false,
  });
  if (!found.data?.length) return null;
  return (
    <Box sx={{ mb: 0.75, borderLeft: 3, borderColor: ink.red, pl: 0.75, fontSize: 12 }} role="note">
      {found.data.map((two) => (
        <Box key={String(two.addresses)} sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
          <Box sx={{ flex: 1 }}>
            <b>
              {two.first} {said(two.values[0], two.units[0])}
            </b>{" "}
            and{" "}
            <b>
              {two.second} {said(two.values[1], two.units[1])}
            </b>{" "}
            do one thing here; at {two.beside} only {two.first} is keyed.
          </Box>
          <SmallButton onClick={() => go(two.beside)} sx={{ height: 22 }}>
            Go to {two.beside}
          </SmallButton>
        </Box>
      ))}
    </Box>
  );
}
