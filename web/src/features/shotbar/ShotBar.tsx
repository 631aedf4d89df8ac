import Box from "@mui/material/Box";
import { Link } from "react-router-dom";
import { titled } from "../../desk/bound";
import { redo, undo } from "../../desk/steps";
import { canChange, useDesk } from "../../desk/store";
import { SmallButton } from "../../ui/SmallButton";
import { useInks, useLook } from "../../ui/look";
import { Stored } from "./Stored";
import { Takes } from "./Takes";

interface Props {
  onCast: () => void;
  onHistory: () => void;
  onHelp: () => void;
}

/** Shot, take, whether all is stored, undo and history; on the right, people and help. */
export function ShotBar({ onCast, onHistory, onHelp }: Props) {
  const ink = useInks();
  const look = useLook();
  const shot = useDesk((s) => s.shot);
  const canUndo = useDesk((s) => s.canUndo);
  const canRedo = useDesk((s) => s.canRedo);
  const people = useDesk((s) => s.people);
  const editable = useDesk((s) => canChange(s));
  if (!shot) return null;
  const names = [...new Set(people.map((p) => p.name))];
  return (
    <Box
      component="header"
      sx={{
        height: 40,
        display: "flex",
        alignItems: "center",
        gap: 1,
        px: 1.5,
        bgcolor: ink.bar,
        color: ink.onBar,
        flex: "none",
        "& button": { color: ink.ink },
      }}
    >
      <Box
        component={Link}
        to={`/productions/${shot.production_id}`}
        title="To the shots"
        sx={{ color: "inherit", display: "flex", alignItems: "center", gap: 1, textDecoration: "none" }}
      >
        <img src="/mark.svg" width={22} height={22} alt="" />
        <span style={{ opacity: 0.8 }}>{shot.production}</span>
      </Box>
      <span aria-hidden style={{ opacity: 0.5 }}>
        ·
      </span>
      <Box component="h1" sx={{ fontSize: 14, m: 0 }}>
        {shot.name}
      </Box>
      <Takes />
      <Stored />
      <Box sx={{ width: 8 }} />
      <SmallButton disabled={!canUndo || !editable} onClick={() => void undo()} title={titled("Undo", "undo")}>
        Undo
      </SmallButton>
      <SmallButton disabled={!canRedo || !editable} onClick={() => void redo()} title={titled("Redo", "redo")}>
        Redo
      </SmallButton>
      <SmallButton onClick={onHistory}>History</SmallButton>
      <SmallButton onClick={onCast} title="Who plays in this shot">
        Cast
      </SmallButton>
      <Box sx={{ flex: 1 }} />
      {names.length > 0 && (
        <Box component="span" title={`Here now: ${names.join(", ")}`} sx={{ fontSize: 12, opacity: 0.85 }}>
          {names.join(", ")}
          {people.length > names.length ? ` (${people.length} pages)` : ""}
        </Box>
      )}
      <SmallButton onClick={() => look.setDesk(look.desk === "day" ? "night" : "day")} title="Light or dark desk">
        {look.desk === "day" ? "Night desk" : "Day desk"}
      </SmallButton>
      <SmallButton onClick={onHelp} title="Keys (?)" aria-label="Help">
        ?
      </SmallButton>
    </Box>
  );
}
