import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useInks } from "../ui/look";
import { NumberField } from "../ui/NumberField";

type Joints = Schemas["FreeOut"][];
type Moves = Record<string, [number, number]>;
export type Free = Record<string, Moves>;

const MOVES = [
  { name: "tx", says: "moves sideways", unit: "m", begins: [-0.1, 0.1], digits: 3 },
  { name: "ty", says: "moves up and down", unit: "m", begins: [-0.1, 0.1], digits: 3 },
  { name: "tz", says: "moves ahead and back", unit: "m", begins: [-0.1, 0.1], digits: 3 },
  { name: "rx", says: "turns about x", unit: "°", begins: [-45, 45], digits: 0 },
  { name: "ry", says: "turns about y", unit: "°", begins: [-45, 45], digits: 0 },
  { name: "rz", says: "turns about z", unit: "°", begins: [-45, 45], digits: 0 },
  { name: "s", says: "is sized", unit: "times", begins: [0.5, 2], digits: 2 },
] as const;

/** Degrees: as many are no end. */
const ALL_ROUND = 3600;

/** What was said of joints, by their names. */
export const freeOf = (joints: Joints): Free =>
  Object.fromEntries(joints.flatMap(({ joint, own }) => (own ? [[joint, own as Moves]] : [])));

/** Which ways a joint without a role moves, turns and is sized, and how far; one joint at a time. */
export function FreeJoints(p: { joints: Joints; free: Free; can: boolean; onChange: (free: Free) => void }) {
  const { joints, free, can, onChange } = p;
  const ink = useInks();
  const [chosen, setChosen] = useState(joints[0].joint);
  const one = joints.find((j) => j.joint === chosen) ?? joints[0];
  const moves = free[one.joint] ?? (one.usual as Moves);
  const set = (now: Moves) => onChange({ ...free, [one.joint]: now });
  const row = { display: "grid", gridTemplateColumns: "36px 170px 88px 88px 1fr", gap: 1, alignItems: "center" };
  return (
    <Box role="group" aria-label="Free joints">
      <Box sx={{ color: ink.faint, mb: 1 }}>
        Joints without a role in the body, jaw and eyes move as you let them. Shots that play this character keep how it
        was until they take the new version.
      </Box>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", mb: 0.5 }}>
        <TextField
          select
          size="small"
          label="Joint"
          value={one.joint}
          onChange={(e) => setChosen(e.target.value)}
          sx={{ minWidth: 220 }}
        >
          {joints.map(({ joint }) => (
            <MenuItem key={joint} value={joint}>
              {joint}
              {free[joint] ? " · set" : ""}
            </MenuItem>
          ))}
        </TextField>
        {free[one.joint] && (
          <Button
            size="small"
            disabled={!can}
            onClick={() => onChange(Object.fromEntries(Object.entries(free).filter(([name]) => name !== one.joint)))}
          >
            usual
          </Button>
        )}
      </Box>
      {MOVES.map(({ name, says, unit, begins, digits }) => {
        const range = moves[name];
        return (
          <Box key={name} sx={{ ...row, minHeight: 30 }}>
            <Checkbox
              size="small"
              checked={!!range}
              disabled={!can}
              slotProps={{ input: { "aria-label": `${one.joint} ${says}` } }}
              onChange={(e) =>
                set(
                  e.target.checked
                    ? { ...moves, [name]: [begins[0], begins[1]] }
                    : Object.fromEntries(Object.entries(moves).filter(([other]) => other !== name)),
                )
              }
            />
            <span>{says}</span>
            {range ? (
              ([0, 1] as const).map((end) => (
                <NumberField
                  key={end}
                  label={`${one.joint} ${says} ${end ? "to" : "from"}`}
                  value={range[end]}
                  digits={digits}
                  step={0}
                  disabled={!can}
                  onType={(v, by) => {
                    const now: [number, number] = [...range];
                    now[end] = by ? range[end] + v : v;
                    set({ ...moves, [name]: now });
                  }}
                />
              ))
            ) : (
              <>
                <span />
                <span />
              </>
            )}
            <Box component="span" sx={{ color: ink.faint, fontSize: 12 }}>
              {!range ? "does not" : Math.abs(range[1]) >= ALL_ROUND ? "°, as often round as you like" : unit}
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}
