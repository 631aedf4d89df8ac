import Box from "@mui/material/Box";
import { pictures } from "../../../desk/pictures";
import { Choice } from "../../../ui/Choice";
import { useLook } from "../../../ui/look";
import { Line } from "../../../ui/Section";
import { Tick } from "../../../ui/Tick";

/** How finely the stage is drawn, and how often what is computed follows the hand: this person's choice, by browser. */
export function Drawing() {
  const look = useLook();
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", pt: 0.5 }} role="group" aria-label="How the stage is drawn">
      <Line>
        <Choice
          label="Drawn"
          show
          value={look.drawing}
          options={[
            { value: "itself", label: "as the machine lets it" },
            { value: "whole", label: "always whole" },
            { value: "quick", label: "quick until it rests" },
          ]}
          onChange={look.setDrawing}
        />
      </Line>
      <Tick label="Shadows" on={look.shadow} onChange={look.setShadow} />
      {pictures.source?.slow && <Tick label="Smooth edges when at rest" on={look.smooth} onChange={look.setSmooth} />}
      <Line>
        <Choice
          label="Follows the hand"
          show
          value={String(look.pace) as "0" | "100" | "500"}
          options={[
            { value: "0", label: "at once" },
            { value: "100", label: "ten times a second" },
            { value: "500", label: "twice a second" },
          ]}
          onChange={(pace) => look.setPace(Number(pace))}
        />
      </Line>
    </Box>
  );
}
