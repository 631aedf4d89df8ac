import Box from "@mui/material/Box";
import { SmallButton } from "../ui/SmallButton";
import { useInks } from "../ui/look";

/** Which way the figure was found to face in its file; where that is wrong, it is turned here. */
export function Facing({
  facing,
  disabled,
  onTurn,
}: {
  facing: number;
  disabled: boolean;
  onTurn: (degrees: number) => void;
}) {
  const ink = useInks();
  const degrees = Math.round(((((facing + 180) % 360) + 360) % 360) - 180);
  const said = degrees === 0 ? "as its file has it" : `turned by ${Math.abs(degrees)}° from its file`;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mb: 1.5 }}>
      <Box sx={{ flex: 1 }}>
        <b>Facing</b>{" "}
        <Box component="span" sx={{ color: ink.faint }}>
          towards you in the front view, {said}
        </Box>
      </Box>
      <SmallButton disabled={disabled} onClick={() => onTurn(90)} title="Turn the figure to its left by a quarter">
        Turn by 90°
      </SmallButton>
      <SmallButton disabled={disabled} onClick={() => onTurn(180)} title="Turn the figure to face the other way">
        Turn round
      </SmallButton>
    </Box>
  );
}
