import Box from "@mui/material/Box";
import Popover from "@mui/material/Popover";
import { useState } from "react";
import { active, canChange, GROUPS, groupOf, setDesk, useDesk } from "../../desk/store";
import type { Axes, Sides, SkinLook, Tool, ViewName } from "../../desk/types";
import { Choice } from "../../ui/Choice";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { VIEW_LABELS } from "./views";

const AXES: { value: Axes; label: string }[] = [
  { value: "world", label: "World" },
  { value: "parent", label: "Parent" },
  { value: "own", label: "Own" },
  { value: "view", label: "View" },
];

/** The tool on the selection, its axes, and whether the other side follows. */
function Tools() {
  const tool = useDesk((s) => s.tool);
  const axes = useDesk((s) => s.axes);
  const sides = useDesk((s) => s.sides);
  const pivot = useDesk((s) => s.pivot);
  const many = useDesk((s) => s.selection.length > 1);
  return (
    <Box sx={{ display: "flex", gap: 0.5 }}>
      {(["move", "turn"] as Tool[]).map((t) => (
        <SmallButton key={t} on={tool === t} onClick={() => setDesk({ tool: t })} title={t === "move" ? "Move (M)" : "Turn (T)"}>
          {t === "move" ? "Move" : "Turn"}
        </SmallButton>
      ))}
      <Choice label="Axes" show value={axes[tool]} options={AXES} onChange={(a) => setDesk({ axes: { ...axes, [tool]: a } })} />
      <Choice
        label="Sides"
        show
        value={sides}
        options={[
          { value: "one", label: "This only" },
          { value: "mirrored", label: "Both, mirrored" },
          { value: "opposite", label: "Both, equal and opposite" },
        ]}
        onChange={(s: Sides) => setDesk({ sides: s })}
      />
      {many && (
        <Choice
          label="Turn about"
          show
          value={pivot}
          options={[
            { value: "each", label: "Each its place" },
            { value: "one", label: "The last selected" },
          ]}
          onChange={(p) => setDesk({ pivot: p })}
        />
      )}
    </Box>
  );
}

/** What the stage shows and whom the tools act on, along its top edge. */
export function StageBar() {
  const ink = useInks();
  const looks = useDesk((s) => s.looks);
  const view = useDesk((s) => s.view);
  const cast = useDesk((s) => s.cast);
  const activeId = useDesk((s) => s.activeId);
  const guest = useDesk((s) => !canChange(s));
  const [at, setAt] = useState<HTMLElement | null>(null);
  const member = cast.find((m) => m.id === activeId);
  const groups = new Set(member?.rig.controls.map(groupOf));
  const setLooks = (change: Partial<typeof looks>) => setDesk({ looks: { ...looks, ...change } });

  return (
    <Box
      onPointerDown={(e) => e.stopPropagation()}
      sx={{ position: "absolute", left: 8, right: 8, top: 8, display: "flex", gap: 1, alignItems: "flex-start", flexWrap: "wrap", pointerEvents: "none", "& > *": { pointerEvents: "auto" } }}
    >
      <Tools />
      <Choice
        label="View"
        value={view}
        options={(Object.keys(VIEW_LABELS) as ViewName[]).map((v, n) => ({ value: v, label: VIEW_LABELS[v], hint: `${n + 1}` }))}
        onChange={(v) => setDesk({ view: v })}
        show
      />
      <Choice
        label="Skin"
        value={looks.skin}
        options={[
          { value: "solid", label: "Solid" },
          { value: "clear", label: "See-through", hint: "G" },
          { value: "only", label: "Skin only", hint: "H" },
        ]}
        onChange={(v: SkinLook) => setLooks({ skin: v })}
        show
      />
      <SmallButton onClick={(e) => setAt(e.currentTarget)}>Show</SmallButton>
      <Popover open={!!at} anchorEl={at} onClose={() => setAt(null)} anchorOrigin={{ vertical: "bottom", horizontal: "left" }}>
        <Box sx={{ p: 1.5, display: "grid" }}>
          {GROUPS.filter(([group]) => groups.has(group)).map(([group, label]) => (
            <Tick key={group} label={label} on={!looks.hidden[group]} onChange={(on) => setLooks({ hidden: { ...looks.hidden, [group]: !on } })} />
          ))}
          <Tick apart label="Skin can be clicked" on={looks.pickSkin} onChange={(on) => setLooks({ pickSkin: on })} />
          <Tick label="Sights beside the stage" on={looks.sights} onChange={(on) => setLooks({ sights: on })} />
          <Box sx={{ fontSize: 12, color: ink.faint, maxWidth: 220, mt: 0.5 }}>What is hidden is still keyed and copied with the whole.</Box>
        </Box>
      </Popover>
      <Box sx={{ flex: 1 }} />
      <Box sx={{ bgcolor: ink.paper, border: 1, borderColor: ink.line, borderRadius: 1, px: 1, height: 26, display: "flex", alignItems: "center", fontSize: 12 }}>
        {guest ? "You look as a guest" : `Acts on ${active()?.name ?? "nobody"}`}
      </Box>
    </Box>
  );
}
