import Box from "@mui/material/Box";
import { protect } from "../../desk/casting";
import { howOf, select } from "../../desk/selecting";
import { useInks } from "../../ui/look";
import { LABELS } from "./labels";
import { ROW } from "./paint";
import type { Row } from "./rows";

interface Props {
  row: Row;
  top: number;
  /** All of it is selected; all of it is protected. */
  on: boolean;
  kept: boolean;
  open: boolean;
  editable: boolean;
  onToggle: () => void;
}

/** The name of a row: opens it, selects what it stands for, and protects that. */
export function RowHead({ row, top, on, kept, open, editable, onToggle }: Props) {
  const ink = useInks();
  return (
    <Box
      data-row={row.key}
      sx={{
        position: "absolute",
        top,
        left: 0,
        width: LABELS,
        height: ROW,
        display: "flex",
        alignItems: "center",
        pl: 0.75 + row.depth,
        bgcolor: ink.paper,
        borderBottom: 1,
        borderColor: "divider",
        boxSizing: "border-box",
        zIndex: 1,
      }}
    >
      {row.depth < 2 ? (
        <Box
          component="button"
          aria-label={`${open ? "Close" : "Open"} ${row.label}`}
          aria-expanded={open}
          onClick={() => onToggle()}
          sx={{
            border: 0,
            background: "none",
            p: 0,
            width: 16,
            color: ink.faint,
            cursor: "pointer",
            font: "inherit",
            fontSize: 10,
          }}
        >
          {open ? "▼" : "▶"}
        </Box>
      ) : (
        <Box sx={{ width: 16 }} />
      )}
      <Box
        component="button"
        onClick={(e) => select(row.controls, howOf(e), row.member.id)}
        sx={{
          flex: 1,
          minWidth: 0,
          border: 0,
          background: "none",
          p: 0,
          font: "inherit",
          fontSize: 12,
          textAlign: "left",
          cursor: "pointer",
          color: on ? ink.blue : ink.ink,
          fontWeight: on || row.depth === 0 ? 700 : 400,
          overflow: "hidden",
          textOverflow: "ellipsis",
          whiteSpace: "nowrap",
          "&::first-letter": { textTransform: "uppercase" },
        }}
      >
        {row.label}
        {row.side && row.depth === 1 && (
          <Box component="b" sx={{ color: row.side === "L" ? ink.left : ink.right, ml: 0.5 }}>
            {row.side}
          </Box>
        )}
      </Box>
      {row.depth < 2 && (
        <Box
          component="button"
          aria-pressed={kept}
          aria-label={`${kept ? "Protected" : "Protect"}: ${row.label}`}
          title={kept ? "Protected: no edit touches it. Click to take the protection off" : "Protect from every edit"}
          disabled={!editable}
          onClick={() => void protect(row.member, row.controls, !kept)}
          sx={{
            border: 0,
            background: "none",
            p: 0,
            width: 22,
            cursor: "pointer",
            color: kept ? ink.red : ink.line,
            "&:hover": { color: ink.ink },
          }}
        >
          <svg width="12" height="13" viewBox="0 0 12 13" aria-hidden>
            <path
              d="M6 0.8 L11 2.6 V6.2 C11 9.4 8.8 11.4 6 12.4 C3.2 11.4 1 9.4 1 6.2 V2.6 Z"
              fill={kept ? "currentColor" : "none"}
              stroke="currentColor"
              strokeWidth="1.3"
            />
          </svg>
        </Box>
      )}
    </Box>
  );
}
