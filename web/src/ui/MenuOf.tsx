// A menu of things to choose or to do, with the whole of MUI's menu: see opened.tsx.
import Box from "@mui/material/Box";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useInks } from "./look";

export interface Item {
  label: string;
  key?: string;
  hint?: string;
  selected?: boolean;
  disabled?: boolean;
  /** A line above it parts it from those before. */
  apart?: boolean;
  act: () => unknown;
}

export function MenuOf({ at, items, onClose }: { at: HTMLElement | null; items: Item[]; onClose: () => void }) {
  const ink = useInks();
  return (
    <Menu open={!!at} anchorEl={at} onClose={onClose}>
      {items.map(({ label, key = label, hint, selected, disabled, apart, act }) => (
        <MenuItem
          key={key}
          selected={selected}
          disabled={disabled}
          sx={apart ? { borderTop: 1, borderColor: "divider", mt: 0.5 } : undefined}
          onClick={() => {
            onClose();
            act();
          }}
        >
          <Box component="span" sx={{ flex: 1, mr: 3 }}>
            {label}
          </Box>
          {hint && (
            <Box component="kbd" sx={{ color: ink.faint, fontFamily: "inherit" }}>
              {hint}
            </Box>
          )}
        </MenuItem>
      ))}
    </Menu>
  );
}
