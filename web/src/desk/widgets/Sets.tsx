import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Popover from "@mui/material/Popover";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { dropSet, keepSet, selectSet } from "../actions";
import { type Member, useDesk } from "../store";
import { Choice } from "../../ui/Choice";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

/** Named selection sets, each with the control it turns about. */
export function Sets({ member }: { member: Member }) {
  const ink = useInks();
  const selection = useDesk((s) => s.selection);
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState<HTMLElement | null>(null);
  const [name, setName] = useState("");
  const [pivot, setPivot] = useState("");
  return (
    <>
      <SmallButton onClick={(e) => setAt(e.currentTarget)} title="Selections kept by name" sx={{ px: 0.75 }}>Sets ▾</SmallButton>
      <Menu open={!!at} anchorEl={at} onClose={() => setAt(null)}>
        {member.sets.length === 0 && <MenuItem disabled>No sets yet: select controls, then keep them</MenuItem>}
        {member.sets.map((set) => (
          <MenuItem key={set.id} onClick={() => { selectSet(set); setAt(null); }}>
            <Box sx={{ flex: 1, mr: 2 }}>
              {set.name}
              <Box component="span" sx={{ color: ink.faint, ml: 1, fontSize: 12 }}>
                {set.controls.length} {set.pivot && `· turns about ${member.controls.get(set.pivot)?.label ?? set.pivot}`}
              </Box>
            </Box>
            <Box component="span" role="button" aria-label={`Drop the set ${set.name}`} title="Drop this set" onClick={(e) => { e.stopPropagation(); void dropSet(set.id); }} sx={{ color: ink.faint, "&:hover": { color: ink.red } }}>✕</Box>
          </MenuItem>
        ))}
        <MenuItem divider disabled sx={{ minHeight: "4px !important", p: 0 }} />
        <MenuItem disabled={!selection.length} onClick={() => { setNaming(at); setAt(null); setName(""); setPivot(""); }}>Keep the selection as a set…</MenuItem>
      </Menu>
      <Popover open={!!naming} anchorEl={naming} onClose={() => setNaming(null)} anchorOrigin={{ vertical: "bottom", horizontal: "right" }} transformOrigin={{ vertical: "top", horizontal: "right" }}>
        <Box component="form" sx={{ p: 1.5, display: "grid", gap: 1, width: 250 }} onSubmit={(e) => { e.preventDefault(); if (!name.trim()) return; void keepSet(name.trim(), pivot); setNaming(null); }}>
          <TextField label="Name of the set" value={name} autoFocus onChange={(e) => setName(e.target.value)} slotProps={{ htmlInput: { maxLength: 60 } }} />
          <Choice label="Turns about" show value={pivot} options={[{ value: "", label: "The last selected" }, ...selection.map((n) => ({ value: n, label: member.controls.get(n)?.label ?? n }))]} onChange={setPivot} />
          <Button type="submit" variant="contained">Keep</Button>
        </Box>
      </Popover>
    </>
  );
}
