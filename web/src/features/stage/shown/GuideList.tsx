import Box from "@mui/material/Box";
import { useState } from "react";
import { beginGuide, dropGuide, shareGuide } from "../../../desk/guides";
import { canChange, useDesk } from "../../../desk/store";
import { setLooks } from "../../../desk/viewing";
import { type GuideKind, NEEDED } from "../../../model/guides";
import type { ViewName } from "../../../model/types";
import { useInks } from "../../../ui/look";
import { Line } from "../../../ui/Section";
import { SmallButton } from "../../../ui/SmallButton";
import { Tick } from "../../../ui/Tick";
import { VIEW_LABELS } from "../views";

/** Guides of the shot: drawn by clicks on the stage, snapped to, shared or one's own. */
export function GuideList({ onBegin, onGone }: { onBegin: () => void; onGone: () => void }) {
  const ink = useInks();
  const guides = useDesk((s) => s.guides);
  const shown = useDesk((s) => s.looks.guides);
  const editable = useDesk((s) => canChange(s));
  const [inView, setInView] = useState(false);
  const begin = (kind: GuideKind) => {
    onBegin();
    beginGuide(kind, inView, false);
  };
  return (
    <Box
      role="group"
      aria-label="Guides"
      sx={{
        display: "grid",
        alignContent: "start",
        borderLeft: 1,
        borderColor: "divider",
        pl: 2,
        gap: 0.5,
        width: 210,
      }}
    >
      <Box sx={{ fontSize: 12, color: ink.faint }}>Guides, drawn by clicks on the stage, moved by their ends</Box>
      <Line>
        {(Object.keys(NEEDED) as GuideKind[]).map((kind) => (
          <SmallButton key={kind} onClick={() => begin(kind)}>
            {kind[0].toUpperCase() + kind.slice(1)}
          </SmallButton>
        ))}
      </Line>
      <Tick label="On the picture of this view" on={inView} onChange={setInView} />
      <Tick label="Shown, and snapped to" on={shown} onChange={(on) => setLooks({ guides: on })} />
      <Box sx={{ maxHeight: 220, overflowY: "auto", display: "grid" }}>
        {guides.map((guide, n) => (
          <Box key={guide.id} sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
            <Box sx={{ flex: 1, fontSize: 12.5 }}>
              {n + 1}. {guide.kind}
              <span style={{ color: ink.faint }}>
                {guide.view ? `, ${VIEW_LABELS[guide.view as ViewName].toLowerCase()}` : ""}
              </span>
            </Box>
            {guide.mine ? (
              <Tick label="shared" on={guide.shared} onChange={(on) => editable && void shareGuide(guide.id, on)} />
            ) : (
              <span style={{ color: ink.faint, fontSize: 12 }}>shared by others</span>
            )}
            <SmallButton
              aria-label={`Take away guide ${n + 1}`}
              onClick={() => {
                void dropGuide(guide.id);
                onGone();
              }}
              sx={{ px: 0.75, height: 22 }}
            >
              ✕
            </SmallButton>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
