import Box from "@mui/material/Box";
import { useState } from "react";
import { valueAt, curveOf } from "../../model/curves";
import { layerOf, poseIn } from "../../desk/layers";
import { addressIn, layersOf } from "../../model/layers";
import { commitNumber } from "../../desk/amounts";
import { commit } from "../../desk/steps";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import { CarryHere } from "../../desk/widgets/CarryHere";
import { lineField, useInks } from "../../ui/look";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";

/** Adjustments laid over the motion: which one is posed in, how much each counts, and what becomes of it. */
export function Layers({ member }: { member: Member }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const editable = useDesk((s) => canChange(s));
  const posedIn = useDesk((s) => layerOf(member, s));
  const selection = useDesk((s) => s.selection);
  const [name, setName] = useState("");
  const layers = layersOf(member.clip);
  const add = (controls: string[]) =>
    void commit({ kind: "add layer", name: name || "", controls, turned: true }).then((ok) => {
      setName("");
      const now = desk().cast.find((m) => m.id === member.id);
      const [newest] = now ? layersOf(now.clip) : [];
      if (ok && newest) poseIn(member, newest.number);
    });
  const row = (on: boolean) => ({
    border: 1,
    borderColor: on ? ink.blue : ink.line,
    bgcolor: on ? ink.sheet : "transparent",
    borderRadius: 1,
    p: 0.5,
    display: "grid",
    gap: 0.25,
  });
  return (
    <Section title="Layers" hint={layers.length ? "the uppermost first" : "adjustments over the motion"}>
      {layers.map(({ number, layer }) => {
        const curve = curveOf(member.clip, addressIn(number, "weight"));
        const weight = curve ? Math.min(Math.max(valueAt(curve, frame), 0), 1) : 1;
        const keys =
          Object.keys(member.clip.curves).filter((a) => a.startsWith(`#${number}/`)).length - (curve ? 1 : 0);
        const on = posedIn === number;
        return (
          <Box key={number} sx={row(on)} data-testid={`layer ${layer.name}`}>
            <Box sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
              <SmallButton
                on={on}
                disabled={!editable}
                onClick={() => poseIn(member, on ? 0 : number)}
                title="Poses are keyed in this layer"
              >
                {on ? "Posing in" : "Pose in"}
              </SmallButton>
              <Box
                sx={{
                  flex: 1,
                  minWidth: 0,
                  fontWeight: 700,
                  overflow: "hidden",
                  textOverflow: "ellipsis",
                  whiteSpace: "nowrap",
                }}
              >
                {layer.name}
              </Box>
              <SmallButton
                on={layer.muted}
                disabled={!editable}
                onClick={() => void commit({ kind: "change layer", number, muted: !layer.muted, up: 0 })}
              >
                {layer.muted ? "Muted" : "Mute"}
              </SmallButton>
              <SmallButton
                on={layer.solo}
                disabled={!editable}
                title="Of all layers, only those that are alone count"
                onClick={() => void commit({ kind: "change layer", number, solo: !layer.solo, up: 0 })}
              >
                Alone
              </SmallButton>
            </Box>
            <Line>
              <Word>Weight</Word>
              <Whole
                label={`Weight of ${layer.name} in percent`}
                value={Math.round(weight * 100)}
                low={0}
                high={100}
                onChange={(value) =>
                  void commitNumber(
                    {
                      kind: "weigh layer",
                      number,
                      weight: value / 100,
                      frame: curve && curve.length > 9 ? frame : null,
                    },
                    "",
                    value,
                  )
                }
              />
              <Word>%</Word>
              <SmallButton
                disabled={!editable}
                title="A key of the weight at the playhead, so that it can change over time"
                onClick={() => void commit({ kind: "weigh layer", number, weight, frame })}
              >
                Key at {frame}
              </SmallButton>
              {curve && curve.length > 9 && <Word>{curve.length / 9} keys</Word>}
            </Line>
            <Line>
              <Said>
                {layer.controls.length ? `${layer.controls.length} controls` : "the whole character"}, {keys} curves
              </Said>
              <SmallButton
                disabled={!editable}
                title={
                  layer.turned
                    ? "What it turns is turned as a whole, on top of how it is turned below. Click: each angle is added"
                    : "Each of its angles is added to the one below. Click: what it turns is turned as a whole"
                }
                onClick={() => void commit({ kind: "change layer", number, turned: !layer.turned, up: 0 })}
              >
                {layer.turned ? "Turns whole" : "Turns by angle"}
              </SmallButton>
              <SmallButton
                aria-label={`${layer.name} up`}
                disabled={!editable}
                onClick={() => void commit({ kind: "change layer", number, up: 1 })}
              >
                ↑
              </SmallButton>
              <SmallButton
                aria-label={`${layer.name} down`}
                disabled={!editable}
                onClick={() => void commit({ kind: "change layer", number, up: -1 })}
              >
                ↓
              </SmallButton>
              <SmallButton disabled={!editable} onClick={() => void commit({ kind: "merge layer", number })}>
                Merge down
              </SmallButton>
              <SmallButton disabled={!editable} onClick={() => void commit({ kind: "delete layer", number })}>
                Delete
              </SmallButton>
            </Line>
          </Box>
        );
      })}
      <Box sx={row(posedIn === 0)}>
        <Line>
          <SmallButton on={posedIn === 0} onClick={() => poseIn(member, 0)}>
            {posedIn === 0 ? "Posing in" : "Pose in"}
          </SmallButton>
          <b>The motion itself</b>
        </Line>
      </Box>
      <Line>
        <input
          aria-label="Name of a new layer"
          placeholder="Name of a new layer"
          value={name}
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
          style={{ ...lineField(ink), flex: 1, minWidth: 90 }}
        />
        <SmallButton disabled={!editable} onClick={() => add([])}>
          Add
        </SmallButton>
        <SmallButton disabled={!editable || !selection.length} onClick={() => add(selection)}>
          Of the selection
        </SmallButton>
      </Line>
      <CarryHere member={member} />
      <Said>What is posed in a layer is laid on the motion; planted feet stay planted.</Said>
    </Section>
  );
}
