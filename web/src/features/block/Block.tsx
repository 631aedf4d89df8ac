import Box from "@mui/material/Box";
import { useState } from "react";
import { active, useDesk } from "../../desk/store";
import { Parts } from "../../desk/widgets/Parts";
import { useInks } from "../../ui/look";
import { PART, useRoving } from "../../ui/roving";
import { Cycles } from "./Cycles";
import { Library } from "./Library";
import { Poses } from "./Poses";
import { Timing } from "./Timing";

const TABS = { poses: Poses, cycle: Cycles, timing: Timing, library: Library };
const NAMES: Record<keyof typeof TABS, string> = {
  poses: "Poses",
  cycle: "Cycle",
  timing: "Timing",
  library: "Library",
};

/** The Block bench: poses and breakdowns, mirrors and cycles, timing, and the pose library. */
export function Block() {
  const ink = useInks();
  const member = useDesk((s) => active(s));
  const [tab, setTab] = useState<keyof typeof TABS>("poses");
  const keys = useRoving<HTMLDivElement>("line");
  if (!member) return null;
  const Tab = TABS[tab];
  return (
    <Box sx={{ height: "100%", display: "flex", flexDirection: "column", minHeight: 0 }} data-testid="block">
      <Box
        role="tablist"
        aria-label="Blocking"
        {...keys}
        sx={{ display: "flex", borderBottom: 1, borderColor: "divider", flex: "none" }}
      >
        {(Object.keys(TABS) as (keyof typeof TABS)[]).map((name) => (
          <Box
            component="button"
            role="tab"
            id={`tab-${name}`}
            aria-controls="block-tab"
            {...PART}
            key={name}
            aria-selected={tab === name}
            onClick={() => setTab(name)}
            sx={{
              flex: 1,
              border: 0,
              borderBottom: 3,
              borderColor: tab === name ? ink.blue : "transparent",
              bgcolor: "transparent",
              color: ink.ink,
              font: "inherit",
              fontWeight: tab === name ? 700 : 400,
              py: 0.5,
              cursor: "pointer",
              "&:focus-visible": { outline: `2px solid ${ink.blue}`, outlineOffset: -2 },
            }}
          >
            {NAMES[name]}
          </Box>
        ))}
      </Box>
      <Box
        sx={{
          display: "flex",
          gap: 0.5,
          px: 1,
          py: 0.5,
          borderBottom: 1,
          borderColor: "divider",
          alignItems: "center",
          flex: "none",
        }}
      >
        <Parts />
      </Box>
      <Box
        role="tabpanel"
        id="block-tab"
        aria-labelledby={`tab-${tab}`}
        sx={{ flex: 1, minHeight: 0, overflowY: "auto" }}
      >
        <Tab key={member.id} member={member} />
      </Box>
    </Box>
  );
}
