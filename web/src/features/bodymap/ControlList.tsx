import Box from "@mui/material/Box";
import { useState } from "react";
import { howOf, select } from "../../desk/selecting";
import { GROUPS, groupOf, hiddenOf, type Member, toHand, useDesk } from "../../desk/store";
import { lineField, useInks } from "../../ui/look";
import { PART, useRoving } from "../../ui/roving";

/** All controls to hand by name, for who looks for one rather than for its place. */
export function ControlList({ member }: { member: Member }) {
  const ink = useInks();
  const selection = useDesk((s) => s.selection);
  const hidden = useDesk((s) => hiddenOf(member, s));
  const [wanted, setWanted] = useState("");
  const keys = useRoving<HTMLDivElement>("line");
  const found = member.rig.controls.filter(
    (c) => c.kind !== "switch" && toHand(member, c, hidden) && c.label.toLowerCase().includes(wanted.toLowerCase()),
  );
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column", px: 1, pt: 1 }}>
      <input
        aria-label="Find a control"
        placeholder="Find a control"
        value={wanted}
        onChange={(e) => setWanted(e.target.value)}
        style={lineField(ink)}
      />
      <Box
        sx={{ flex: 1, overflowY: "auto", my: 0.5 }}
        role="listbox"
        aria-label="Controls"
        aria-multiselectable
        {...keys}
      >
        {GROUPS.map(([group, title]) => {
          const rows = found.filter((c) => groupOf(c) === group);
          if (!rows.length) return null;
          return (
            <Box key={group} role="group" aria-label={title}>
              <Box sx={{ fontSize: 11, color: ink.faint, mt: 0.5 }}>{title}</Box>
              {rows.map((control) => {
                const on = selection.includes(control.name);
                return (
                  <Box
                    key={control.name}
                    role="option"
                    {...PART}
                    aria-selected={on}
                    onClick={(e) => select([control.name], howOf(e))}
                    sx={{
                      px: 0.75,
                      cursor: "pointer",
                      borderRadius: "3px",
                      bgcolor: on ? ink.blue : "transparent",
                      color: on ? ink.paper : ink.ink,
                      "&:hover": { outline: `1px solid ${ink.blue}` },
                    }}
                  >
                    {control.label}
                  </Box>
                );
              })}
            </Box>
          );
        })}
        {found.length === 0 && (
          <Box sx={{ color: ink.faint, p: 1 }}>
            No control to hand is called that. What is hidden can be shown under “Show” on the stage.
          </Box>
        )}
      </Box>
    </Box>
  );
}
