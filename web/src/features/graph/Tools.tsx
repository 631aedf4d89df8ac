import { keySaid } from "../../desk/bound";
import { deleteChosen, keysChosenCount } from "../../desk/arranging";
import { copy, paste } from "../../desk/copying";
import { WAY_OF, type Way, wayLabel } from "../../model/ways";
import { commit, say } from "../../desk/steps";
import { chooseKeys } from "../../desk/choosing";
import { desk, useDesk } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import { Acts } from "../../ui/Acts";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { SmallButton } from "../../ui/SmallButton";
import Box from "@mui/material/Box";
import { CODE, FREE, kindsOf, rowAt, SHAPE, VALUE, WIDTH } from "../../model/curves";
import type { Shown } from "./shown";

type Kind<K extends AnyEdit["kind"]> = Extract<AnyEdit, { kind: K }>;
type How = Kind<"handles">["how"];
type Side = Kind<"handles">["side"];

const HOWS: { value: How; label: string; hint: string }[] = [
  { value: "automatic", label: "Automatic", hint: "never past its keys" },
  { value: "flat", label: "Flat", hint: "level" },
  { value: "straight", label: "Straight", hint: "along the way" },
  { value: "free", label: "Free", hint: "as they are now" },
  { value: "in line", label: "In line", hint: "both in one line" },
  { value: "broken", label: "Broken", hint: "each on its own" },
];
const SIDES: { value: Side; label: string }[] = [
  { value: "both", label: "both sides" },
  { value: "before", label: "before" },
  { value: "after", label: "after" },
];
const WAYS = [WAY_OF[2], WAY_OF[0], WAY_OF[1], ...WAY_OF.slice(3)].map((value) => ({ value, label: wayLabel(value) }));

/** What is done to the keys that are chosen in the graph. */
export function Tools({ curves, side, setSide }: { curves: Shown[]; side: Side; setSide: (side: Side) => void }) {
  const chosen = useDesk((s) => s.keysChosen);
  const count = keysChosenCount();
  const keys = () => desk().keysChosen;
  const make = (edit: AnyEdit) => {
    if (!keysChosenCount()) return say("Choose keys first: click one, or drag a box about some.");
    return commit(edit);
  };
  const first = curves.find((curve) => chosen[curve.address]?.length);
  const frame = first ? chosen[first.address][0] : 0;
  const row = first ? rowAt(first.table, frame) : -1;
  const value = first && row >= 0 ? first.table[row * WIDTH + VALUE] : 0;
  const typed = (number: number, by: boolean) => {
    if (!first) return;
    const mine = curves.filter((curve) => chosen[curve.address]?.length);
    const each = Object.fromEntries(mine.map((curve) => [curve.address, number / curve.factor]));
    const nothing = { by_frames: 0, about_frame: 0, time: 1, about: {}, value: 1, shear: {}, bend: {} };
    void make({ kind: "reshape", keys: keys(), ...nothing, by: by ? each : {}, to: by ? {} : each });
  };
  const typedFrame = (number: number, by: boolean) => {
    const move = by ? number : number - frame;
    void Promise.resolve(make({ kind: "move keys", keys: keys(), by: Math.round(move) })).then(
      (ok) =>
        ok &&
        chooseKeys(Object.fromEntries(Object.entries(chosen).map(([a, f]) => [a, f.map((n) => n + Math.round(move))]))),
    );
  };
  const flatten = () => {
    const nothing = { by_frames: 0, by: {}, to: {}, about_frame: 0, time: 1, about: {}, shear: {}, bend: {} };
    void make({ kind: "reshape", keys: keys(), ...nothing, value: 0 });
  };
  const calm = () => void make({ kind: "calm", keys: keys(), share: 1 });
  const way = useWay(curves);
  return (
    <>
      <Choice
        label="Handles"
        show
        value={howNow(curves, chosen) as How}
        options={HOWS}
        disabled={!count}
        onChange={(how) => void make({ kind: "handles", keys: keys(), how, side })}
      />
      <Choice label="Of which side" value={side} options={SIDES} onChange={setSide} />
      <SmallButton
        disabled={!count}
        onClick={() => void make({ kind: "lengthen", keys: keys(), factor: 1.5, side })}
        title="Longer handles: a longer hang"
      >
        Longer
      </SmallButton>
      <SmallButton
        disabled={!count}
        onClick={() => void make({ kind: "lengthen", keys: keys(), factor: 1 / 1.5, side })}
        title="Shorter handles: a sharper turn"
      >
        Shorter
      </SmallButton>
      <Choice
        label="Way"
        show
        value={way}
        options={WAYS}
        disabled={!count}
        onChange={(to) => void make({ kind: "way", way: to, keys: keys(), strength: 0.5, gaps: null, controls: null })}
      />
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, fontSize: 12 }}>
        Frame
        <Box sx={{ width: 48 }}>
          <NumberField
            label="Frame of the chosen keys"
            value={frame}
            digits={0}
            step={0}
            disabled={!count}
            onType={typedFrame}
          />
        </Box>
        Value
        <Box sx={{ width: 66 }}>
          <NumberField
            label="Value of the chosen keys"
            value={value * (first?.factor ?? 1)}
            digits={1}
            step={0}
            disabled={!count}
            onType={typed}
          />
        </Box>
        {first?.unit.trim()}
      </Box>
      <Acts
        label="Keys"
        acts={[
          { label: "Flatten: all of a curve to their mean", disabled: !count, act: flatten },
          { label: "Calm a bump: to where their neighbours lead", disabled: !count, act: calm },
          { label: "Copy", hint: keySaid("copy"), disabled: !count, act: copy },
          { label: "Paste at the playhead", hint: keySaid("paste"), act: () => paste() },
          { label: "Paste joined, going on from the curve there", act: () => paste(false, true) },
          { label: "Paste turned over", hint: keySaid("paste over"), act: () => paste(true) },
          { label: "Delete", hint: keySaid("delete"), disabled: !count, act: deleteChosen },
        ]}
      />
    </>
  );
}

/** How the handles of the first chosen key come. */
function howNow(curves: Shown[], chosen: Record<string, number[]>): How {
  for (const curve of curves)
    for (const frame of chosen[curve.address] ?? []) {
      const row = rowAt(curve.table, frame);
      if (row < 0) continue;
      const { before, after, aligned } = kindsOf(curve.table[row * WIDTH + CODE]);
      if (aligned) return "in line";
      if (after === FREE && before === FREE) return "broken";
      return (["automatic", "free", "flat", "straight"] as const)[after];
    }
  return "automatic";
}

function useWay(curves: Shown[]): Way {
  const chosen = useDesk((s) => s.keysChosen);
  for (const curve of curves)
    for (const frame of chosen[curve.address] ?? []) {
      const row = rowAt(curve.table, frame);
      if (row >= 0) return WAY_OF[curve.table[row * WIDTH + SHAPE]];
    }
  return "smooth";
}
