import Box from "@mui/material/Box";
import { KEYS } from "../../desk/keys";
import { useInks } from "../../ui/look";
import { Dialog } from "../../ui/opened";

/** All keys, by what they are for. */
export function Help({ open, onClose }: { open: boolean; onClose: () => void }) {
  const ink = useInks();
  const groups = [...new Set(KEYS.map((k) => k.group))];
  return (
    <Dialog open={open} onClose={onClose} maxWidth="md">
      <Box sx={{ p: 3, columnCount: 3, columnGap: 4, fontSize: 12.5, maxWidth: 860 }}>
        {groups.map((group) => (
          <Box key={group} sx={{ breakInside: "avoid", mb: 2 }}>
            <Box component="h2" sx={{ fontSize: 13, m: 0, mb: 0.5, color: ink.blue }}>
              {group}
            </Box>
            {KEYS.filter((k) => k.group === group).map((k) => (
              <Box key={k.shown} sx={{ display: "flex", gap: 1, lineHeight: 1.7 }}>
                <Box component="kbd" sx={{ fontFamily: "inherit", fontWeight: 700, minWidth: 92 }}>
                  {k.shown}
                </Box>
                <span>{k.does}</span>
              </Box>
            ))}
          </Box>
        ))}
      </Box>
    </Dialog>
  );
}
