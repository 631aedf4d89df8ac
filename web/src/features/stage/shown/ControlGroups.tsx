import Box from "@mui/material/Box";
import { useState } from "react";
import { dropGroup, groupSelected, hideGroup, hideSelected, hideSuggested, showPutAway } from "../../../desk/grouping";
import { type Member, useDesk } from "../../../desk/store";
import { suggestedHidden } from "../../../model/groups";
import { lineField, useInks } from "../../../ui/look";
import { Line } from "../../../ui/Section";
import { SmallButton } from "../../../ui/SmallButton";
import { Tick } from "../../../ui/Tick";

/** Groups of controls: those that the character suggests, and the person's own, of this shot. */
export function ControlGroups({ member, onGone }: { member: Member; onGone: () => void }) {
  const ink = useInks();
  const own = useDesk((s) => s.groups[member.id]);
  const selection = useDesk((s) => s.selection);
  const [name, setName] = useState("");
  const away = own?.away.length ?? 0;
  const keep = () => groupSelected(name) && setName("");
  return (
    <Box
      sx={{ display: "grid", alignContent: "start", width: 240, gap: 0.5 }}
      role="group"
      aria-label={`Groups of ${member.name}`}
    >
      <Box sx={{ fontSize: 12, color: ink.faint, overflow: "hidden", textOverflow: "ellipsis" }}>
        Groups of {member.name}
      </Box>
      <Box sx={{ maxHeight: 260, overflowY: "auto", display: "grid" }}>
        {member.rig.groups.map((group) => (
          <Tick
            key={group.name}
            label={group.name}
            on={!suggestedHidden(group, member.rig.controls, own)}
            onChange={(on) => hideSuggested(member, group, !on)}
          />
        ))}
        {own?.groups.map((group) => (
          <Box key={`own ${group.name}`} sx={{ display: "flex", alignItems: "center" }}>
            <Box
              sx={{ flex: 1, minWidth: 0, "& .MuiTypography-root": { overflow: "hidden", textOverflow: "ellipsis" } }}
            >
              <Tick
                label={`${group.name} (${group.controls.length})`}
                on={!group.hidden}
                onChange={(on) => hideGroup(member, group.name, !on)}
              />
            </Box>
            <SmallButton
              aria-label={`Drop the group ${group.name}`}
              title="The group goes; its controls stay"
              onClick={() => {
                dropGroup(member, group.name);
                onGone();
              }}
              sx={{ px: 0.75, height: 22 }}
            >
              ✕
            </SmallButton>
          </Box>
        ))}
      </Box>
      <Line>
        <input
          aria-label="Name of a new group"
          placeholder="Name of a new group"
          value={name}
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") keep();
          }}
          style={{ ...lineField(ink), flex: 1, minWidth: 90 }}
        />
        <SmallButton disabled={!selection.length || !name.trim()} onClick={keep} title="Of what is selected">
          Group
        </SmallButton>
      </Line>
      <Line>
        <SmallButton disabled={!selection.length} onClick={hideSelected}>
          Hide the selected
        </SmallButton>
        <SmallButton disabled={!away} onClick={() => showPutAway(member)}>
          {away ? `Show ${away} again` : "None put away"}
        </SmallButton>
      </Line>
    </Box>
  );
}
