import Box from "@mui/material/Box";
import { useRef } from "react";
import { active, GROUPS, groupOf, useDesk } from "../../../desk/store";
import { setLooks } from "../../../desk/viewing";
import { Tick } from "../../../ui/Tick";
import { useInks } from "../../../ui/look";
import { ControlGroups } from "./ControlGroups";
import { Drawing } from "./Drawing";
import { GuideList } from "./GuideList";

/** What is to be seen on the stage: parts of the figure, groups of its controls, ghosts, sights. */
export function Shown({ onClose }: { onClose: () => void }) {
  const ink = useInks();
  const looks = useDesk((s) => s.looks);
  const member = useDesk((s) => active(s));
  // A button that goes by its own press leaves the focus here, so that Escape still closes all of it.
  const panel = useRef<HTMLDivElement>(null);
  const stay = () => panel.current?.focus();
  // What a suggested group holds goes by that.
  const grouped = new Set(member?.rig.groups.flatMap((group) => group.controls));
  const parts = new Set(member?.rig.controls.filter((control) => !grouped.has(control.name)).map(groupOf));
  return (
    <Box
      ref={panel}
      tabIndex={-1}
      sx={{
        p: 1.5,
        display: "grid",
        gridTemplateColumns: "minmax(13em, auto) auto auto",
        columnGap: 2,
        outline: "none",
      }}
    >
      <Box sx={{ display: "grid", alignContent: "start" }} role="group" aria-label="Parts of the body">
        {GROUPS.filter(([group]) => parts.has(group)).map(([group, label]) => (
          <Tick
            key={group}
            label={label}
            on={!looks.hidden[group]}
            onChange={(on) => setLooks({ hidden: { ...looks.hidden, [group]: !on } })}
          />
        ))}
        <Tick apart label="Skin can be clicked" on={looks.pickSkin} onChange={(on) => setLooks({ pickSkin: on })} />
        <Tick
          label="Ghosts of the keys before and after"
          on={looks.ghosts > 0}
          onChange={(on) => setLooks({ ghosts: on ? 1 : 0 })}
        />
        <Tick label="Stage follows a travelling figure" on={looks.follow} onChange={(on) => setLooks({ follow: on })} />
        <Tick label="Sights beside the stage" on={looks.sights} onChange={(on) => setLooks({ sights: on })} />
      </Box>
      <Box sx={{ display: "grid", alignContent: "start", borderLeft: 1, borderColor: "divider", pl: 2, gap: 0.5 }}>
        {member && <ControlGroups member={member} onGone={stay} />}
        <Drawing />
      </Box>
      <GuideList onBegin={onClose} onGone={stay} />
      <Box sx={{ fontSize: 12, color: ink.faint, mt: 0.5, gridColumn: "1 / 4" }}>
        What is hidden is still keyed and copied with the whole.
      </Box>
    </Box>
  );
}
