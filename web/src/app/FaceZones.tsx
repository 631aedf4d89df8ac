import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { Schemas } from "../api/client";
import { SmallButton } from "../ui/SmallButton";
import { useInks } from "../ui/look";

/** By zone, the joints and the shapes that move it. */
export type Face = Schemas["CharacterDetail"]["face"];
type Zone = Face[string];
interface Mover {
  of: "Joints" | "Shapes";
  name: string;
}

const PAIRS = new Set(["brow", "lid", "eye", "pupil", "cheek", "corner"]);

/** What a person calls a zone. */
export function zoneLabel(zone: string): string {
  const words = zone.split(".");
  const side = words.includes("L") ? "left " : words.includes("R") ? "right " : "";
  const [first, ...rest] = words.filter((word) => word !== "L" && word !== "R");
  const named = first === "corner" ? "mouth corner" : first;
  return [side + named + (!side && PAIRS.has(first) ? "s" : ""), ...rest].join(" ");
}

/** Which joints and shapes move which zone of the face. */
export function FaceZones(p: {
  character: Schemas["CharacterDetail"];
  taken: ReadonlySet<string>;
  face: Face;
  problems: Record<string, string>;
  onChange: (face: Face) => void;
  /** Gives the eyes shapes by which they are squashed; null while something else is not stored yet. */
  onSquash: (() => void) | null;
}) {
  const { character, taken, face, problems, onChange, onSquash } = p;
  const ink = useInks();
  const used = new Set(Object.values(face).flatMap((zone) => [...zone.joints, ...zone.shapes.map((s) => `/${s}`)]));
  const movers: Mover[] = [
    ...character.skeleton.names.filter((j) => !taken.has(j)).map((name) => ({ of: "Joints" as const, name })),
    ...character.shapes.map((name) => ({ of: "Shapes" as const, name })),
  ];
  const free = (zone: Zone) => (mover: Mover) =>
    !used.has(mover.of === "Joints" ? mover.name : `/${mover.name}`) ||
    (mover.of === "Joints" ? zone.joints : zone.shapes).includes(mover.name);
  const set = (zone: string, chosen: Mover[]) => {
    const of = (kind: Mover["of"]) => chosen.filter((mover) => mover.of === kind).map((mover) => mover.name);
    onChange({ ...face, [zone]: { joints: of("Joints"), shapes: of("Shapes") } });
  };
  const shown = character.zones.filter((zone) => zone in face);
  const byRole = (zone: string) => zone === "jaw" || zone.startsWith("eye.");
  return (
    <Box component="fieldset" disabled={!character.can_change} sx={{ border: 0, p: 0, m: 0, mb: 1.5 }}>
      <Box component="legend" sx={{ fontWeight: 700, mb: 0.5 }}>
        Face
      </Box>
      <Box sx={{ color: ink.faint, mb: 0.75 }}>
        What moves each zone: joints, shapes of the skin, or both. The first joint has the zone’s control.
      </Box>
      {shown.map((zone) => {
        const { joints, shapes } = face[zone];
        const value = [
          ...joints.map((name) => ({ of: "Joints" as const, name })),
          ...shapes.map((name) => ({ of: "Shapes" as const, name })),
        ];
        return (
          <Box key={zone} sx={{ mb: 0.5 }}>
            <Box sx={{ display: "grid", gridTemplateColumns: "118px 1fr", alignItems: "center", gap: 1 }}>
              <Box
                component="label"
                htmlFor={`zone ${zone}`}
                sx={{ color: zone.includes(".L") ? ink.left : zone.includes(".R") ? ink.right : ink.ink }}
              >
                {zoneLabel(zone)}
              </Box>
              <Autocomplete
                id={`zone ${zone}`}
                multiple
                size="small"
                options={movers.filter(free(face[zone])).filter((m) => m.of === "Shapes" || !byRole(zone))}
                groupBy={(mover) => mover.of}
                getOptionLabel={(mover) => mover.name}
                isOptionEqualToValue={(a, b) => a.of === b.of && a.name === b.name}
                value={value}
                disabled={!character.can_change}
                onChange={(_, chosen) => set(zone, chosen)}
                sx={{
                  "& .MuiInputBase-root": { fontSize: 13, py: "1px !important" },
                  "& .MuiChip-root": { height: 20 },
                }}
                renderInput={(params) => (
                  <TextField {...params} placeholder={value.length ? "" : "none"} error={zone in problems} />
                )}
              />
            </Box>
            {problems[zone] && (
              <Box role="alert" sx={{ color: ink.red, fontSize: 12, pl: "126px" }}>
                {problems[zone]}
              </Box>
            )}
          </Box>
        );
      })}
      <TextField
        select
        size="small"
        label="Add a zone"
        value=""
        disabled={!character.can_change || shown.length === character.zones.length}
        onChange={(e) => set(e.target.value, [])}
        sx={{ mt: 0.5, minWidth: 200 }}
      >
        {character.zones
          .filter((zone) => !(zone in face))
          .map((zone) => (
            <MenuItem key={zone} value={zone}>
              {zoneLabel(zone)}
            </MenuItem>
          ))}
      </TextField>
      {character.squashable && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 1, mt: 1 }}>
          <SmallButton disabled={!character.can_change || !onSquash} onClick={() => onSquash?.()}>
            Let the eyes be squashed
          </SmallButton>
          <Box sx={{ color: ink.faint, fontSize: 12 }}>
            {onSquash
              ? "Adds two shapes to each eye: squashed with its volume kept, and flattened alone."
              : "Store what was changed first."}
          </Box>
        </Box>
      )}
    </Box>
  );
}
