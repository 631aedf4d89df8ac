// What the button of the selection sets opens: the sets, and a form to keep one.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";
import { dropSet, keepSet } from "../casting";
import { selectSet } from "../selecting";
import { type Member, useDesk } from "../store";
import { Choice } from "../../ui/Choice";
import { useInks } from "../../ui/look";
import Menu from "@mui/material/Menu";
import Popover from "@mui/material/Popover";
import TextField from "@mui/material/TextField";

type Kept = Member["sets"][number];

export function SetsOpened({ member, at, onClose }: { member: Member; at: HTMLElement | null; onClose: () => void }) {
  const ink = useInks();
  const selection = useDesk((s) => s.selection);
  const [naming, setNaming] = useState<HTMLElement | null>(null);
  const [name, setName] = useState("");
  const [pivot, setPivot] = useState("");
  const [changed, setChanged] = useState<Kept | null>(null);
  const company = useDesk((s) => s.company);
  const controls = changed && !selection.length ? changed.controls : selection;
  const beside = changed && !selection.length ? changed.beside : company;
  const others = (of: Record<string, string[]>) => {
    const count = Object.keys(of).length;
    return count ? ` and ${count} more of the cast` : "";
  };

  function begin(set: Kept | null) {
    setNaming(at);
    onClose();
    setChanged(set);
    setName(set?.name ?? "");
    setPivot(set?.pivot ?? "");
  }

  async function keep() {
    if (!name.trim()) return;
    setNaming(null);
    const kept = await keepSet(name.trim(), controls, controls.includes(pivot) ? pivot : "", beside);
    if (kept && changed && changed.name !== name.trim()) await dropSet(changed.id);
  }
  return (
    <>
      <Menu open={!!at} anchorEl={at} onClose={onClose}>
        {member.sets.length === 0 && <MenuItem disabled>No sets yet: select controls, then keep them</MenuItem>}
        {member.sets.map((set) => (
          <MenuItem
            key={set.id}
            onClick={() => {
              selectSet(set);
              onClose();
            }}
          >
            <Box sx={{ flex: 1, mr: 2 }}>
              {set.name}
              <Box component="span" sx={{ color: ink.faint, ml: 1, fontSize: 12 }}>
                {set.controls.length}
                {others(set.beside)}{" "}
                {set.pivot && `· turns about ${member.controls.get(set.pivot)?.label ?? set.pivot}`}
              </Box>
            </Box>
            <Box
              component="span"
              role="button"
              aria-label={`Change the set ${set.name}`}
              title="Another name, other controls (those selected now) or another pivot"
              onClick={(e) => {
                e.stopPropagation();
                begin(set);
              }}
              sx={{ color: ink.faint, fontSize: 12, mr: 1.5, "&:hover": { color: ink.blue } }}
            >
              Change…
            </Box>
            <Box
              component="span"
              role="button"
              aria-label={`Drop the set ${set.name}`}
              title="Drop this set"
              onClick={(e) => {
                e.stopPropagation();
                void dropSet(set.id);
              }}
              sx={{ color: ink.faint, "&:hover": { color: ink.red } }}
            >
              ✕
            </Box>
          </MenuItem>
        ))}
        <MenuItem divider disabled sx={{ minHeight: "4px !important", p: 0 }} />
        <MenuItem disabled={!selection.length} onClick={() => begin(null)}>
          Keep the selection as a set…
        </MenuItem>
      </Menu>
      <Popover
        open={!!naming}
        anchorEl={naming}
        onClose={() => setNaming(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
      >
        <Box
          component="form"
          sx={{ p: 1.5, display: "grid", gap: 1, width: 250 }}
          onSubmit={(e) => {
            e.preventDefault();
            void keep();
          }}
        >
          <TextField
            label="Name of the set"
            value={name}
            autoFocus
            onChange={(e) => setName(e.target.value)}
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <Box sx={{ fontSize: 12, color: ink.faint }}>
            Holds {controls.length === 1 ? "1 control" : `${controls.length} controls`}
            {others(beside)}
            {changed && (selection.length ? ": those selected now, in place of its own" : ", as before")}.
          </Box>
          <Choice
            label="Turns about"
            show
            value={controls.includes(pivot) ? pivot : ""}
            options={[
              { value: "", label: "The last selected" },
              ...controls.map((n) => ({ value: n, label: member.controls.get(n)?.label ?? n })),
            ]}
            onChange={setPivot}
          />
          <Button type="submit" variant="contained">
            Keep
          </Button>
        </Box>
      </Popover>
    </>
  );
}
