import Box from "@mui/material/Box";
import { pictures } from "../../desk/pictures";
import { GROUPS, groupOf, useDesk } from "../../desk/store";
import { setLooks } from "../../desk/viewing";
import { useInks, useLook } from "../../ui/look";
import { Tick } from "../../ui/Tick";

/** What is to be seen on the stage: parts of the figure, ghosts, sights. */
export function Shown() {
  const ink = useInks();
  const look = useLook();
  const looks = useDesk((s) => s.looks);
  const member = useDesk((s) => s.cast.find((m) => m.id === s.activeId));
  const groups = new Set(member?.rig.controls.map(groupOf));
  return (
    <Box sx={{ p: 1.5, display: "grid" }}>
      {GROUPS.filter(([group]) => groups.has(group)).map(([group, label]) => (
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
      {pictures.source?.slow && (
        <Tick label="Smooth edges when at rest (no graphics card)" on={look.smooth} onChange={look.setSmooth} />
      )}
      <Box sx={{ fontSize: 12, color: ink.faint, maxWidth: 220, mt: 0.5 }}>
        What is hidden is still keyed and copied with the whole.
      </Box>
    </Box>
  );
}
