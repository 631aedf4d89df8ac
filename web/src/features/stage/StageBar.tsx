import Box from "@mui/material/Box";
import { type ReactNode, Suspense, useState } from "react";
import { keySaid, titled } from "../../desk/bound";
import { takeUpPull } from "../../desk/pulling";
import { chooseAxes, choosePivot, chooseSides, lookFrom, setLooks, takeTool } from "../../desk/viewing";
import { active, canChange, useDesk } from "../../desk/store";
import { Whom } from "./Whom";
import type { Axes, SkinLook, Tool, ViewName } from "../../model/types";
import { Choice } from "../../ui/Choice";
import { layerOf, poseIn } from "../../desk/layers";
import { layersOf } from "../../model/layers";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";
import { cameraOf } from "../../desk/camera";
import { VIEW_LABELS } from "./views";
import { later } from "../../ui/later";
import { Popover } from "../../ui/opened";

const Shown = later(() => import("./shown/Shown").then((m) => m.Shown));

const AXES: { value: Axes; label: string }[] = [
  { value: "world", label: "World" },
  { value: "parent", label: "Parent" },
  { value: "own", label: "Own" },
  { value: "view", label: "View" },
];

const TOOLS: { name: Tool; label: string; title: string }[] = [
  { name: "move", label: "Move", title: "Move" },
  { name: "turn", label: "Turn", title: "Turn" },
  { name: "pull", label: "Pull", title: "Pull: the body follows" },
];

/** The tool on the selection, its axes, and whether the other side follows. */
function Tools() {
  const tool = useDesk((s) => s.tool);
  const axes = useDesk((s) => s.axes);
  const sides = useDesk((s) => s.sides);
  const pivot = useDesk((s) => s.pivot);
  const dropped = useDesk((s) => s.dropped !== null);
  const many = useDesk((s) => s.selection.length > 1);
  return (
    <Box sx={{ display: "flex", gap: 0.5 }}>
      {TOOLS.map(({ name, label, title }) => (
        <SmallButton
          key={name}
          on={tool === name}
          onClick={() => (name === "pull" ? takeUpPull() : takeTool(name))}
          title={titled(title, name)}
        >
          {label}
        </SmallButton>
      ))}
      {tool !== "pull" && <Choice label="Axes" show value={axes[tool]} options={AXES} onChange={chooseAxes} />}
      {tool !== "pull" && (
        <Choice
          label="Sides"
          value={sides}
          options={[
            { value: "one", label: "One side" },
            { value: "mirrored", label: "Both, mirrored" },
            { value: "opposite", label: "Both, equal and opposite" },
          ]}
          onChange={chooseSides}
        />
      )}
      {tool !== "pull" && (many || dropped) && (
        <Choice
          label="Turn about"
          show
          value={dropped ? "dropped" : pivot}
          options={[
            { value: "each", label: many ? "Each its place" : "Its own place" },
            ...(many ? [{ value: "one" as const, label: "The last selected" }] : []),
            ...(dropped ? [{ value: "dropped" as const, label: "The dropped pivot", hint: "P" }] : []),
          ]}
          onChange={(p) => p !== "dropped" && choosePivot(p)}
        />
      )}
    </Box>
  );
}

/** What the stage shows and whom the tools act on, along its top edge. */
export function StageBar() {
  const camera = useDesk((s) => cameraOf(s) !== undefined);
  const looks = useDesk((s) => s.looks);
  const view = useDesk((s) => s.view);
  const guest = useDesk((s) => !canChange(s));
  const [at, setAt] = useState<HTMLElement | null>(null);

  return (
    <Box
      data-testid="stage-bar"
      onPointerDown={(e) => e.stopPropagation()}
      sx={{
        position: "absolute",
        left: 8,
        right: 8,
        top: 8,
        display: "flex",
        gap: 0.75,
        alignItems: "flex-start",
        flexWrap: "wrap",
        pointerEvents: "none",
        "& > *": { pointerEvents: "auto" },
      }}
    >
      <Tools />
      <Choice
        label="View"
        value={view}
        options={(Object.keys(VIEW_LABELS) as ViewName[])
          .filter((v) => v !== "camera" || camera)
          .map((v) => ({ value: v, label: VIEW_LABELS[v], hint: keySaid(v) }))}
        onChange={lookFrom}
      />
      <Choice
        label="Skin"
        value={looks.skin}
        options={[
          { value: "solid", label: "Solid skin" },
          { value: "clear", label: "See-through skin", hint: keySaid("glass") },
          { value: "only", label: "Skin only", hint: keySaid("hide") },
        ]}
        onChange={(v: SkinLook) => setLooks({ skin: v })}
      />
      <SmallButton onClick={(e) => setAt(e.currentTarget)}>Show</SmallButton>
      <Popover
        open={!!at}
        anchorEl={at}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
      >
        <Suspense>
          <Shown onClose={() => setAt(null)} />
        </Suspense>
      </Popover>
      <SmallButton
        on={looks.reference}
        onClick={() => setLooks({ reference: !looks.reference })}
        title="Drawn poses and pictures beside the stage"
      >
        Reference
      </SmallButton>
      <PosedIn />
      {guest ? <Said>You look as a guest</Said> : <Whom />}
    </Box>
  );
}

/** What the bar says at its end, where there is nothing to choose. */
function Said({ children }: { children: ReactNode }) {
  const ink = useInks();
  return (
    <Box
      sx={{
        ml: "auto",
        bgcolor: ink.paper,
        border: 1,
        borderColor: ink.line,
        borderRadius: 1,
        px: 1,
        height: 26,
        display: "flex",
        alignItems: "center",
        fontSize: 12,
      }}
    >
      {children}
    </Box>
  );
}

/** The layer that is posed in, from whichever bench; a click goes back to the motion itself. */
function PosedIn() {
  const member = useDesk((s) => active(s));
  const layer = useDesk((s) => layerOf(active(s), s));
  if (!member || !layer) return null;
  const name = layersOf(member.clip).find(({ number }) => number === layer)?.layer.name ?? "";
  return (
    <SmallButton
      on
      onClick={() => poseIn(member, 0)}
      title="Poses are keyed in this layer. Click: in the motion itself"
    >
      Posing in {name}
    </SmallButton>
  );
}
