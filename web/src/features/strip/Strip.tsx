import Box from "@mui/material/Box";
import { useState } from "react";
import { titled } from "../../desk/bound";
import { deleteChosen } from "../../desk/arranging";
import { dropPending, keyWhole } from "../../desk/posing";
import { toggleStrip } from "../../desk/viewing";
import { active, useDesk } from "../../desk/store";
import { Parts } from "../../desk/widgets/Parts";
import type { Room } from "../../model/time";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";
import { TimeLine } from "./TimeLine";
import { Ranges, Transport } from "./Transport";
import { Zoom } from "./Zoom";

/** The head of the strip, its time line, and what it is opened into, on the same frames. */
export function Strip({
  below,
  between,
  inset,
}: {
  below?: (frame: Room) => React.ReactNode;
  between?: { high: number; rows: (frame: Room) => React.ReactNode };
  inset: number;
}) {
  const ink = useInks();
  const member = useDesk((s) => active(s));
  const shot = useDesk((s) => s.shot);
  const frame = useDesk((s) => s.frame);
  const columns = useDesk((s) => s.columns);
  const opened = useDesk((s) => s.opened);
  const [lies, setLies] = useState<Room | null>(null);
  if (!shot || !member) return <Box sx={{ height: "100%" }} />;
  const here = member.clip.pending[String(frame)];
  return (
    <Box
      sx={{
        height: "100%",
        display: "flex",
        flexDirection: "column",
        bgcolor: ink.paper,
        borderTop: 1,
        borderColor: "divider",
      }}
      data-testid="strip"
    >
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 1, height: 36, flex: "none" }}>
        <Transport />
        <Box
          sx={{
            flex: 1,
            display: "flex",
            justifyContent: "center",
            gap: 0.5,
            alignItems: "center",
            minWidth: 0,
            overflow: "hidden",
          }}
        >
          {here ? (
            <>
              <Box role="status" sx={{ color: ink.red, fontWeight: 700, whiteSpace: "nowrap" }}>
                Pending pose at {frame}: not keyed yet
              </Box>
              <SmallButton onClick={() => void keyWhole()}>Key it</SmallButton>
              <SmallButton onClick={() => void dropPending()}>Drop it</SmallButton>
            </>
          ) : columns.length > 0 ? (
            <>
              <Box
                title={columnsSaid(columns)}
                sx={{
                  color: ink.faint,
                  whiteSpace: "nowrap",
                  minWidth: 0,
                  overflow: "hidden",
                  textOverflow: "ellipsis",
                }}
              >
                {columnsSaid(columns)}
              </Box>
              <Parts bare />
              <SmallButton
                onClick={() => void deleteChosen()}
                title={titled(
                  "Take it away. Drag a column to move it; with Ctrl it stays as well, with Shift turned over",
                  "delete",
                )}
              >
                Delete
              </SmallButton>
            </>
          ) : null}
        </Box>
        <Zoom />
        <SmallButton
          on={opened === "sheet"}
          onClick={() => toggleStrip("sheet")}
          title={titled("Keys by part of the body", "sheet")}
        >
          Sheet
        </SmallButton>
        <SmallButton
          on={opened === "graph"}
          onClick={() => toggleStrip("graph")}
          title={titled("Curves of what is selected", "graph")}
        >
          Graph
        </SmallButton>
        <Ranges />
      </Box>
      <Box
        sx={{
          flex: below ? "none" : 1,
          height: below ? (opened === "graph" ? 56 : 130) + (between?.high ?? 0) : undefined,
          minHeight: 0,
        }}
      >
        <TimeLine inset={inset} cards={opened !== "graph"} between={between} onFrame={setLies} />
      </Box>
      {below && lies && <Box sx={{ flex: 1, minHeight: 0, position: "relative" }}>{below(lies)}</Box>}
    </Box>
  );
}

function columnsSaid(columns: number[]) {
  if (columns.length < 3) return `Column ${columns.join(", ")}`;
  return `${columns.length} columns, ${columns[0]} to ${columns[columns.length - 1]}`;
}
