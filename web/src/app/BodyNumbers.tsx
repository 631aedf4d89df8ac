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
import { useInks } from "../ui/look";
import { NumberField } from "../ui/NumberField";

type Body = Schemas["BodyOut"];
type Ranges = Record<string, Record<string, [number, number]>>;
const ANGLES = ["bend", "twist", "side"] as const;

/** How far the joints of a character turn while it is pulled, and what its parts weigh. */
export function BodyNumbers({ id, can, onClose }: { id: number; can: boolean; onClose: () => void }) {
  const path = { params: { path: { character_id: id } } };
  const found = useQuery({
    queryKey: ["body", id],
    queryFn: () => ask(http.GET("/api/characters/{character_id}/body", path)),
  });
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth>
      <DialogTitle>Joint ranges and weights</DialogTitle>
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
  const [masses, setMasses] = useState<Record<string, number> | null>(null);
  const [usual, setUsual] = useState(false);
  const [said, setSaid] = useState("");
  const path = { params: { path: { character_id: id } } };

  function setAngle(joint: Body["joints"][number], angle: string, end: 0 | 1, value: number) {
    const now = [...(ranges[joint.name]?.[angle] ?? joint.usual[angle])] as [number, number];
    now[end] = Math.min(Math.max(value, -180), 180);
    setRanges({ ...ranges, [joint.name]: { ...ranges[joint.name], [angle]: now } });
  }

  async function store() {
    try {
      const weighed = usual ? {} : (masses ?? Object.fromEntries(body.masses.map((m) => [m.joint, m.kilograms])));
      const kept = masses || usual ? weighed : undefined;
      // Untouched masses stay what they are: sent again only where the body has its own.
      const now = await ask(
        http.PUT("/api/characters/{character_id}/body", {
          ...path,
          body: { ranges, masses: kept ?? (body.weighed ? weighed : {}) },
        }),
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
        <Box sx={{ color: ink.faint }}>
          Degrees from the anatomical position: standing, arms hanging, palms in. They hold while the body is pulled; a
          control can be turned further by hand.
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
        <Box role="table" aria-label="Weights">
          <Box sx={head}>Weights, kilograms at each joint</Box>
          <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, 1fr)", columnGap: 2 }}>
            {body.masses.map(({ joint, kilograms }) => (
              <Box key={joint} sx={{ display: "flex", alignItems: "center", gap: 1, minHeight: 28 }}>
                <Box component="span" sx={{ flex: 1, overflow: "hidden", textOverflow: "ellipsis" }}>
                  {joint}
                </Box>
                <Box sx={{ width: 72 }}>
                  <NumberField
                    label={`${joint} weighs`}
                    value={masses?.[joint] ?? kilograms}
                    digits={2}
                    step={0}
                    disabled={!can}
                    onType={(v, by) => {
                      const all = masses ?? Object.fromEntries(body.masses.map((m) => [m.joint, m.kilograms]));
                      setUsual(false);
                      setMasses({ ...all, [joint]: Math.max(by ? all[joint] + v : v, 0) });
                    }}
                  />
                </Box>
              </Box>
            ))}
          </Box>
        </Box>
        {said && <Alert severity="error">{said}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button
          disabled={!can}
          onClick={() => {
            setRanges({});
            setMasses(null);
            setUsual(true);
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
