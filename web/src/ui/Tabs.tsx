import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { useInks } from "./look";
import { PART, useRoving } from "./roving";

/** A panel in parts, one of which is open: their names in a line above, reached by arrow keys. */
export function Tabs<T extends string>({
  label,
  tabs,
  tab,
  onTab,
  counts = {},
  above,
  testId,
  children,
}: {
  label: string;
  tabs: T[];
  tab: T;
  onTab: (tab: T) => void;
  counts?: Partial<Record<string, number>>;
  above?: ReactNode;
  testId: string;
  children: ReactNode;
}) {
  const ink = useInks();
  const keys = useRoving<HTMLDivElement>("line");
  return (
    <Box sx={{ height: "100%", display: "flex", flexDirection: "column", minHeight: 0 }} data-testid={testId}>
      <Box
        role="tablist"
        aria-label={label}
        {...keys}
        sx={{ display: "flex", borderBottom: 1, borderColor: "divider", flex: "none" }}
      >
        {tabs.map((name) => (
          <Box
            component="button"
            role="tab"
            id={`${testId}-${name}`}
            aria-controls={`${testId}-panel`}
            {...PART}
            key={name}
            aria-selected={tab === name}
            onClick={() => onTab(name)}
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
              px: 0.25,
              whiteSpace: "nowrap",
              cursor: "pointer",
              "&:focus-visible": { outline: `2px solid ${ink.blue}`, outlineOffset: -2 },
            }}
          >
            {name}
            {counts[name] ? (
              <Box component="span" sx={{ color: ink.red, fontWeight: 700 }}>
                {" "}
                {counts[name]}
              </Box>
            ) : null}
          </Box>
        ))}
      </Box>
      {above && (
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
          {above}
        </Box>
      )}
      <Box
        role="tabpanel"
        id={`${testId}-panel`}
        aria-labelledby={`${testId}-${tab}`}
        sx={{ flex: 1, minHeight: 0, overflowY: "auto" }}
      >
        {children}
      </Box>
    </Box>
  );
}
