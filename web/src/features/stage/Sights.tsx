import Box from "@mui/material/Box";
import { useEffect, useRef, useState } from "react";
import { cameraOf } from "../../desk/camera";
import { useDesk } from "../../desk/store";
import type { ViewName } from "../../model/types";
import { useInks } from "../../ui/look";
import type { StageScene } from "./scene";
import { SIGHT, View, VIEW_LABELS } from "./views";

const STRAIGHT = ["front", "side", "top"] as const;
const SEEN = [...STRAIGHT, "camera"] as const;

/** The stage's other directions, small and live. A click changes one with the stage. */
export function Sights({ scene, onSwap }: { scene: StageScene; onSwap: (name: ViewName, sight: View) => void }) {
  const camera = useDesk((s) => cameraOf(s) !== undefined);
  return (
    <Box sx={{ width: 148, display: "flex", flexDirection: "column", gap: "1px", ml: "1px" }} aria-label="Sights">
      {(camera ? SEEN : STRAIGHT).map((name) => (
        <Sight key={name} first={name} scene={scene} onSwap={onSwap} />
      ))}
    </Box>
  );
}

function Sight({
  first,
  scene,
  onSwap,
}: {
  first: ViewName;
  scene: StageScene;
  onSwap: (name: ViewName, sight: View) => void;
}) {
  const ink = useInks();
  const box = useRef<HTMLButtonElement>(null);
  const [view] = useState(() => new View(first, SIGHT));
  const [name, setName] = useState<ViewName>(first);

  useEffect(() => scene.addSight({ view, box: box.current! }), [scene, view]);

  return (
    <Box
      component="button"
      ref={box}
      title={`${VIEW_LABELS[name]}: click to change places with the stage`}
      onClick={() => {
        onSwap(view.name, view);
        setName(view.name);
      }}
      sx={{
        flex: 1,
        minHeight: 0,
        border: 0,
        p: 0,
        background: "transparent",
        cursor: "pointer",
        position: "relative",
        overflow: "hidden",
        fontFamily: "inherit",
        "&:hover": { outline: `2px solid ${ink.blue}`, outlineOffset: -2 },
      }}
    >
      <Box
        component="span"
        sx={{
          position: "absolute",
          left: 4,
          top: 3,
          px: 0.25,
          fontSize: 12,
          color: ink.faint,
          bgcolor: `${ink.sheet}cc`,
        }}
      >
        {VIEW_LABELS[name]}
      </Box>
    </Box>
  );
}
