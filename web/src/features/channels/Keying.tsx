// What is done with the selected control as a whole: moved by numbers, keyed.
import Box from "@mui/material/Box";
import { useState } from "react";
import { commitFor, meant } from "../../desk/company";
import { titled } from "../../desk/bound";
import { keySelection, keyWhole, reset } from "../../desk/posing";
import { act } from "../../desk/dragging";
import { pivotPlace } from "../../desk/pivot";
import { keyBy } from "../../desk/viewing";
import { useDesk } from "../../desk/store";
import type { Axes, Control } from "../../model/types";
import { DEGREES } from "../../model/units";
import { Acts } from "../../ui/Acts";
import { Choice } from "../../ui/Choice";
import { KindsKeyed } from "../../desk/widgets/KindsKeyed";
import { NumberField } from "../../ui/NumberField";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

const NAMES: Record<Axes, string> = { world: "world", parent: "parent", own: "own", view: "world" };

/** What can be taken away of what is chosen, all of it at once. */
const AWAY = [
  ["All plants", ["plants"]],
  ["All belonging", ["belonging"]],
  ["All layers", ["layers"]],
  ["Living holds and shakes", ["rules"]],
  ["All of these", ["plants", "belonging", "layers", "rules"]],
] as const;

/** Typed offsets along the tool's axes, for the whole selection. */
export function Offset({ control, controls }: { control: Control; controls: Control[] }) {
  const ink = useInks();
  const wished = useDesk((s) => s.tool);
  const axes = useDesk((s) => s.axes);
  const [, again] = useState(0);
  const moves = wished === "turn" ? !control.can_turn : control.can_move;
  const tool = moves ? "move" : "turn";
  if (!control.posed) return null;

  async function apply(axis: number, typed: number) {
    const way = [0, 0, 0].map((_, n) => (n === axis ? 1 : 0));
    const kept = axes[tool] === "view" ? "world" : axes[tool];
    const names = controls.map((c) => c.name);
    const ok =
      tool === "move"
        ? await act(names, { do: "move", offset: way.map((w) => w * typed), axes: kept, view: [0, 0, 0, 1] })
        : await act(names, {
            do: "turn",
            axis: way,
            angle: typed / DEGREES,
            axes: kept,
            view: [0, 0, 0, 1],
            pivot: pivotPlace(),
          });
    if (ok) again((n) => n + 1);
  }
  return (
    <Box sx={{ mt: 1, pt: 0.5, borderTop: 1, borderColor: "divider" }}>
      <Box sx={{ fontSize: 12, color: ink.faint, mb: 0.25 }}>
        {tool === "move" ? "Move" : "Turn"} by, along {NAMES[axes[tool]]} axes ({tool === "move" ? "m" : "°"})
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, 12px 1fr)", gap: 0.5, alignItems: "center" }}>
        {["x", "y", "z"].map((axis, n) => [
          <b key={`${axis}l`}>{axis}</b>,
          <NumberField
            key={axis}
            label={`${tool} by ${axis}`}
            value={0}
            digits={tool === "move" ? 3 : 1}
            step={0}
            onType={(typed) => void apply(n, typed)}
          />,
        ])}
      </Box>
    </Box>
  );
}

export function Keys() {
  const keying = useDesk((s) => s.keying);
  return (
    <Box sx={{ px: 1, py: 0.75, borderTop: 1, borderColor: "divider", display: "grid", gap: 0.5 }}>
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Choice
          label="Automatic keying"
          show
          value={keying}
          options={[
            { value: "off", label: "Off: poses wait" },
            { value: "changed", label: "What changed" },
            { value: "control", label: "The control" },
            { value: "whole", label: "Whole character" },
          ]}
          onChange={keyBy}
        />
        <KindsKeyed />
      </Box>
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <SmallButton onClick={() => void keySelection()} title={titled("Key the selection", "key")}>
          Key
        </SmallButton>
        <SmallButton onClick={() => void keyWhole()} title={titled("Key the whole character", "key whole")}>
          Key whole
        </SmallButton>
        <SmallButton onClick={() => void reset(false)} title={titled("Selected controls back to rest", "reset")}>
          Reset
        </SmallButton>
        <SmallButton onClick={() => void reset(true)} title={titled("The whole character back to rest", "reset all")}>
          Reset all
        </SmallButton>
        <Acts
          label="Take away"
          acts={AWAY.map(([label, what]) => ({
            label,
            act: () =>
              commitFor(meant(), ({ controls }) => ({ kind: "clear away", what: [...what], controls, anyway: false })),
          }))}
        />
      </Box>
    </Box>
  );
}
