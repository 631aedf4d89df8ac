import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, http, type Schemas } from "../api/client";
import { type Free, FreeJoints, freeOf } from "./FreeJoints";
import { useInks } from "../ui/look";
import { NumberField } from "../ui/NumberField";

type Body = Schemas["BodyOut"];
type Ranges = Record<string, Record<string, [number, number]>>;
const ANGLES = ["bend", "twist", "side"] as const;

/** From where to where shapes go, where that is not from 0 to 1. */
type Ways = Record<string, [number, number]>;
const USUAL: [number, number] = [0, 1];
const waysOf = (shapes: Body["shapes"]): Ways =>
  Object.fromEntries(
    shapes.filter((s) => s.low < USUAL[0] || s.high > USUAL[1]).map((s) => [s.name, [s.low, s.high] as const]),
  ) as Ways;

type Weights = Record<string, Schemas["WeightIn"]>;
type Part = Body["parts"][number];
/** What of a part's weight is set, each with its unit and how many of its own make one shown. */
const LENGTHS = [
  { of: "at", said: "lies at" },
  { of: "radii", said: "radius about" },
] as const;

/** What was set of the weights: where they differ from what is usual. */
function setOf(parts: Part[]): Weights {
  const found: Weights = {};
  for (const part of parts) {
    const usual = part.usual;
    const differs = (a: number[], b: number[] | undefined) => !b || a.some((v, n) => Math.abs(v - b[n]) > 2e-6);
    const own: Schemas["WeightIn"] = {};
    if (Math.abs(part.kilograms - (usual?.kilograms ?? 0)) > 2e-6) own.kilograms = part.kilograms;
    if (differs(part.at, usual?.at)) own.at = part.at;
    if (differs(part.radii, usual?.radii)) own.radii = part.radii;
    if (Object.keys(own).length) found[part.joint] = own;
  }
  return found;
}

/** How far the joints of a character turn while it is pulled, and what its parts weigh. */
export function BodyNumbers({ id, can, onClose }: { id: number; can: boolean; onClose: () => void }) {
  const path = { params: { path: { character_id: id } } };
  const found = useQuery({
    queryKey: ["body", id],
    queryFn: () => ask(http.GET("/api/characters/{character_id}/body", path)),
  });
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth>
      <DialogTitle>{found.data?.joints.length === 0 ? "Weight" : "Joint ranges and weights"}</DialogTitle>
      {found.data ? (
        <Numbers id={id} body={found.data as Body} can={can} onClose={onClose} />
      ) : (
        <DialogContent>{found.isError ? found.error.message : "Measuring…"}</DialogContent>
      )}
    </Dialog>
  );
}

function Numbers({ id, body, can, onClose }: { id: number; body: Body; can: boolean; onClose: () => void }) {
  const ink = useInks();
  const queries = useQueryClient();
  const [ranges, setRanges] = useState<Ranges>(
    Object.fromEntries(
      body.joints.filter((j) => Object.keys(j.own).length).map((j) => [j.name, j.own as Ranges[string]]),
    ),
  );
  const [weights, setWeights] = useState<Weights>(() => setOf(body.parts));
  const [ways, setWays] = useState<Ways>(() => waysOf(body.shapes));
  const [free, setFree] = useState<Free>(() => freeOf(body.free));
  const [said, setSaid] = useState("");
  const path = { params: { path: { character_id: id } } };

  function setAngle(joint: Body["joints"][number], angle: string, end: 0 | 1, value: number) {
    const now = [...(ranges[joint.name]?.[angle] ?? joint.usual[angle])] as [number, number];
    now[end] = Math.min(Math.max(value, -180), 180);
    setRanges({ ...ranges, [joint.name]: { ...ranges[joint.name], [angle]: now } });
  }

  async function store() {
    try {
      const now = await ask(
        http.PUT("/api/characters/{character_id}/body", { ...path, body: { ranges, weights, shapes: ways, free } }),
      );
      queries.setQueryData(["body", id], now);
      onClose();
    } catch (error) {
      setSaid((error as Error).message);
    }
  }

  const head = { fontSize: 12, color: ink.faint };
  return (
    <>
      <DialogContent dividers sx={{ display: "grid", gap: 2 }}>
        {body.joints.length > 0 && (
          <>
            <Box sx={{ color: ink.faint }}>
              Degrees from the anatomical position: standing, arms hanging, palms in. They hold while the body is
              pulled; a control can be turned further by hand.
            </Box>
            <Box role="table" aria-label="Joint ranges">
              <Box sx={{ display: "grid", gridTemplateColumns: "1fr repeat(3, 156px) 70px", gap: 1, ...head }}>
                <span>joint</span>
                {ANGLES.map((a) => (
                  <span key={a}>{a}, from and to</span>
                ))}
                <span />
              </Box>
              {body.joints.map((joint) => (
                <Box
                  key={joint.name}
                  role="row"
                  sx={{
                    display: "grid",
                    gridTemplateColumns: "1fr repeat(3, 156px) 70px",
                    gap: 1,
                    alignItems: "center",
                    minHeight: 28,
                  }}
                >
                  <span>{joint.label}</span>
                  {ANGLES.map((angle) => {
                    const range = ranges[joint.name]?.[angle] ?? joint.usual[angle];
                    if (!range) return <span key={angle} />;
                    return (
                      <Box key={angle} sx={{ display: "flex", gap: 0.5 }}>
                        {([0, 1] as const).map((end) => (
                          <Box key={end} sx={{ width: 72 }}>
                            <NumberField
                              label={`${joint.label} ${angle} ${end ? "to" : "from"}`}
                              value={range[end]}
                              digits={0}
                              step={0}
                              disabled={!can}
                              onType={(v, by) => setAngle(joint, angle, end, by ? range[end] + v : v)}
                            />
                          </Box>
                        ))}
                      </Box>
                    );
                  })}
                  {ranges[joint.name] ? (
                    <Button
                      size="small"
                      disabled={!can}
                      onClick={() =>
                        setRanges(Object.fromEntries(Object.entries(ranges).filter(([name]) => name !== joint.name)))
                      }
                    >
                      usual
                    </Button>
                  ) : (
                    <span />
                  )}
                </Box>
              ))}
            </Box>
          </>
        )}
        {body.shapes.length > 0 && <Shapes shapes={body.shapes} ways={ways} can={can} onChange={setWays} />}
        {body.free.length > 0 && <FreeJoints joints={body.free} free={free} can={can} onChange={setFree} />}
        <Weighed parts={body.parts} weights={weights} can={can} onChange={setWeights} />
        {said && <Alert severity="error">{said}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button
          disabled={!can}
          onClick={() => {
            setRanges({});
            setWeights({});
            setWays({});
            setFree({});
          }}
        >
          All as usual
        </Button>
        <Box sx={{ flex: 1 }} />
        <Button onClick={onClose}>Leave as it was</Button>
        <Button variant="contained" disabled={!can} onClick={() => void store()}>
          Store
        </Button>
      </DialogActions>
    </>
  );
}

/** How far each shape of the skin may be keyed. */
function Shapes(p: { shapes: Body["shapes"]; ways: Ways; can: boolean; onChange: (ways: Ways) => void }) {
  const { shapes, ways, can, onChange } = p;
  const ink = useInks();
  const columns = "1fr 72px 72px 70px";
  const row = { display: "grid", gridTemplateColumns: columns, gap: 1, alignItems: "center" };
  return (
    <Box role="table" aria-label="Shapes">
      <Box sx={{ color: ink.faint, mb: 0.5 }}>
        Shapes of the skin go from 0 to 1, or as far beyond that as you let them.
      </Box>
      <Box sx={{ ...row, fontSize: 12, color: ink.faint }}>
        <span>shape</span>
        <span>from</span>
        <span>to</span>
        <span />
      </Box>
      {shapes.map(({ name }) => {
        const way = ways[name] ?? USUAL;
        const set = (end: 0 | 1, value: number) => {
          const now: [number, number] = [...way];
          now[end] = value;
          onChange({ ...ways, [name]: now });
        };
        return (
          <Box key={name} role="row" sx={{ ...row, minHeight: 28 }}>
            <Box component="span" sx={{ overflow: "hidden", textOverflow: "ellipsis" }} title={name}>
              {name}
            </Box>
            {([0, 1] as const).map((end) => (
              <NumberField
                key={end}
                label={`${name} ${end ? "to" : "from"}`}
                value={way[end]}
                digits={2}
                step={0}
                disabled={!can}
                onType={(v, by) => set(end, by ? way[end] + v : v)}
              />
            ))}
            {ways[name] ? (
              <Button
                size="small"
                disabled={!can}
                onClick={() => onChange(Object.fromEntries(Object.entries(ways).filter(([other]) => other !== name)))}
              >
                usual
              </Button>
            ) : (
              <span />
            )}
          </Box>
        );
      })}
    </Box>
  );
}

/** What each joint carries: its weight, where that lies and how far it is spread, in the rest pose. */
function Weighed(p: { parts: Part[]; weights: Weights; can: boolean; onChange: (weights: Weights) => void }) {
  const { parts, weights, can, onChange } = p;
  const ink = useInks();
  const now = (part: Part): Schemas["Weight"] => {
    const base = part.usual ?? { ...part, kilograms: 0 };
    const own = weights[part.joint] ?? {};
    return { kilograms: own.kilograms ?? base.kilograms, at: own.at ?? base.at, radii: own.radii ?? base.radii };
  };
  const set = (joint: string, own: Schemas["WeightIn"]) =>
    onChange({ ...weights, [joint]: { ...weights[joint], ...own } });
  const whole = parts.reduce((sum, part) => sum + now(part).kilograms, 0);
  const columns = "minmax(96px, 1fr) 72px repeat(3, 58px) 8px repeat(3, 58px) 60px";
  return (
    <Box role="table" aria-label="Weights">
      <Box sx={{ color: ink.faint, mb: 0.5 }}>
        {whole.toFixed(1)} kg in all. Where the weight of a joint lies, and its radii of gyration about the axes through
        that, are in centimetres, as the figure rests.
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: columns, columnGap: 0.5, fontSize: 12, color: ink.faint }}>
        <span>joint</span>
        <span>kg</span>
        {LENGTHS.map(({ of, said }, n) => [
          n > 0 && <span key={of} />,
          ...["x", "y", "z"].map((axis) => (
            <span key={of + axis}>
              {said} {axis}
            </span>
          )),
        ])}
        <span />
      </Box>
      {parts.map((part) => {
        const { joint } = part;
        const weight = now(part);
        return (
          <Box
            key={joint}
            role="row"
            sx={{ display: "grid", gridTemplateColumns: columns, columnGap: 0.5, alignItems: "center", minHeight: 28 }}
          >
            <Box component="span" sx={{ overflow: "hidden", textOverflow: "ellipsis" }} title={joint}>
              {joint}
            </Box>
            <NumberField
              label={`${joint} weighs`}
              value={weight.kilograms}
              digits={2}
              step={0}
              disabled={!can}
              onType={(v, by) => set(joint, { kilograms: Math.max(by ? weight.kilograms + v : v, 0) })}
            />
            {LENGTHS.map(({ of, said }, n) => [
              n > 0 && <span key={of} />,
              ...["x", "y", "z"].map((axis, k) => (
                <NumberField
                  key={of + axis}
                  label={`${joint} ${said} ${axis}`}
                  value={weight[of][k] * 100}
                  digits={1}
                  step={0}
                  disabled={!can}
                  onType={(v, by) => {
                    const three: [number, number, number] = [...weight[of]];
                    three[k] = by ? three[k] + v / 100 : v / 100;
                    set(joint, { [of]: three });
                  }}
                />
              )),
            ])}
            {weights[joint] ? (
              <Button
                size="small"
                disabled={!can}
                onClick={() => onChange(Object.fromEntries(Object.entries(weights).filter(([name]) => name !== joint)))}
              >
                usual
              </Button>
            ) : (
              <span />
            )}
          </Box>
        );
      })}
    </Box>
  );
}
