import Box from "@mui/material/Box";
import { useState } from "react";
import { keySaid } from "../../desk/bound";
import { playToLanding, playWholeTurns } from "../../desk/endings";
import { active, canChange, type Member, useDesk } from "../../desk/store";
import { everyFrame, fitAll, fitChosen, fitPlayed, fitSelected } from "../../desk/time";
import { stepBy } from "../../desk/viewing";
import { Popover } from "../../ui/opened";
import { NumberField } from "../../ui/NumberField";
import { Chevron } from "../../ui/Chevron";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

const SHOWN: [string, string, () => void][] = [
  ["All of the shot", "all time", fitAll],
  ["What is played", "", fitPlayed],
  ["Keys of what is selected", "", fitSelected],
  ["Chosen columns or keys", "chosen time", fitChosen],
  ["Every frame, about the playhead", "every frame", everyFrame],
];

const ENDS: [string, string, (member: Member) => void][] = [
  ["A foot that stands", "The last frame at which a foot comes to stand", (member) => void playToLanding(member)],
  ["Whole turns", "As many turns of the cycle as are over by then", (member) => void playWholeTurns(member)],
];

/** Which frames the time line shows, where what is played ends, and how far a step of one's own goes. */
export function Zoom() {
  const ink = useInks();
  const step = useDesk((s) => s.step);
  const editable = useDesk((s) => canChange(s));
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <SmallButton
        aria-haspopup="dialog"
        onClick={(e) => setAt(e.currentTarget)}
        title="Which frames are shown: the wheel over them zooms"
      >
        Time
        <Chevron />
      </SmallButton>
      <Popover
        open={!!at}
        anchorEl={at}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: "top", horizontal: "left" }}
        transformOrigin={{ vertical: "bottom", horizontal: "left" }}
      >
        <Box sx={{ p: 1, display: "grid", gap: 0.5, minWidth: 250 }} role="group" aria-label="Time shown">
          <Box sx={{ fontWeight: 700, fontSize: 12 }}>Show</Box>
          {SHOWN.map(([label, key, act]) => (
            <SmallButton
              key={label}
              sx={{ justifyContent: "space-between" }}
              onClick={() => {
                setAt(null);
                act();
              }}
            >
              {label}
              <Box component="kbd" sx={{ color: ink.faint, fontFamily: "inherit", ml: 2 }}>
                {key && keySaid(key)}
              </Box>
            </SmallButton>
          ))}
          <Box sx={{ fontWeight: 700, fontSize: 12, mt: 0.5 }}>Play up to</Box>
          <Box sx={{ display: "flex", gap: 0.5 }}>
            {ENDS.map(([label, title, act]) => (
              <SmallButton
                key={label}
                disabled={!editable}
                title={title}
                sx={{ flex: 1 }}
                onClick={() => {
                  const member = active();
                  setAt(null);
                  if (member) act(member);
                }}
              >
                {label}
              </SmallButton>
            ))}
          </Box>
          <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, mt: 0.5 }}>
            <span>A step of</span>
            <Box sx={{ width: 40 }}>
              <NumberField
                label="Frames a step"
                value={step}
                digits={0}
                step={0}
                onType={(n, by) => stepBy(by ? step + n : n)}
              />
            </Box>
            <span>frames</span>
            <Box component="kbd" sx={{ color: ink.faint, fontFamily: "inherit", ml: "auto" }}>
              {keySaid("step back")} {keySaid("step on")}
            </Box>
          </Box>
        </Box>
      </Popover>
    </>
  );
}
