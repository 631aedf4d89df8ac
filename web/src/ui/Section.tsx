import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { useInks } from "./look";

/** A titled part of a panel. */
export function Section({ title, hint, children }: { title: string; hint?: string; children: ReactNode }) {
  const ink = useInks();
  return (
    <Box
      component="section"
      aria-label={title}
      sx={{ px: 1, py: 0.75, borderBottom: 1, borderColor: "divider", display: "grid", gap: 0.5 }}
    >
      <Box component="h3" sx={{ fontSize: 12.5, m: 0, fontWeight: 700 }}>
        {title}
        {hint && (
          <Box component="span" sx={{ color: ink.faint, fontWeight: 400, fontSize: 12 }}>
            {" "}
            {hint}
          </Box>
        )}
      </Box>
      {children}
    </Box>
  );
}

/** Things side by side that may go on in the next line. */
export const Line = ({ children }: { children: ReactNode }) => (
  <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap", alignItems: "center" }}>{children}</Box>
);

/** A sentence in a panel: it goes on in the next line. */
export const Said = ({ children }: { children: ReactNode }) => {
  const ink = useInks();
  return <Box sx={{ color: ink.faint, fontSize: 12 }}>{children}</Box>;
};

/** A number of a form with its words around it. */
export const Word = ({ children }: { children: ReactNode }) => {
  const ink = useInks();
  return (
    <Box component="span" sx={{ color: ink.faint, fontSize: 12, whiteSpace: "nowrap" }}>
      {children}
    </Box>
  );
};
