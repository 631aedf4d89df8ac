import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Dialog from "@mui/material/Dialog";
import TextField from "@mui/material/TextField";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router-dom";
import { ask, http, type Schemas } from "../api/client";
import { SmallButton } from "../ui/SmallButton";
import { Buttons } from "./Buttons";

/** Asks for name, range and who plays, how often, and begins the shot. */
export function NewShot({ production, onClose }: { production: Schemas["ProductionOut"]; onClose: () => void }) {
  const go = useNavigate();
  const at = { params: { path: { production_id: production.id } } };
  const characters = useQuery({
    queryKey: ["characters", production.id],
    queryFn: () => ask(http.GET("/api/productions/{production_id}/characters", at)),
  });
  const able = characters.data?.filter((c) => !c.problem) ?? [];
  const form = useForm({ defaultValues: { name: "", fps: 24, start: 1, end: 48 } });
  // How often each plays: the figure that was there first once, until something else is said.
  const [counts, setCounts] = useState<Record<number, number> | null>(null);
  const figures = able.filter((c) => !c.prop);
  const first = [...(figures.length ? figures : able)].sort((a, b) => a.id - b.id)[0];
  const count = (id: number) => (counts ?? (first ? { [first.id]: 1 } : {}))[id] ?? 0;
  const playing = able.flatMap((c) => Array.from({ length: count(c.id) }, () => c.id));
  const change = (id: number, to: number) =>
    setCounts({ ...Object.fromEntries(able.map((c) => [c.id, count(c.id)])), [id]: Math.min(Math.max(to, 0), 9) });
  const make = useMutation({
    mutationFn: (v: { name: string; fps: number; start: number; end: number }) =>
      ask(
        http.POST("/api/productions/{production_id}/shots", {
          ...at,
          body: {
            name: v.name,
            character_ids: playing,
            fps: v.fps,
            start: v.start,
            end: v.end,
          },
        }),
      ),
    onSuccess: (shot) => go(`/shots/${shot.id}`),
  });
  return (
    <Dialog open onClose={onClose}>
      <Box
        component="form"
        sx={{ p: 2.5, display: "grid", gap: 2, width: 380 }}
        onSubmit={form.handleSubmit((v) => make.mutate(v))}
      >
        <Box component="h2" sx={{ m: 0, fontSize: 17 }}>
          New shot
        </Box>
        <TextField label="Name" autoFocus {...form.register("name", { required: true, maxLength: 100 })} />
        <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, display: "grid", gap: 0.5 }}>
          <Box component="legend" sx={{ fontWeight: 700, mb: 0.5, p: 0 }}>
            Who plays
          </Box>
          {able.map((c) => (
            <Box key={c.id} sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
              <Box sx={{ flex: 1 }}>{c.prop ? `${c.name} (prop)` : c.name}</Box>
              <SmallButton
                aria-label={`${c.name} once less`}
                disabled={count(c.id) === 0}
                onClick={() => change(c.id, count(c.id) - 1)}
              >
                −
              </SmallButton>
              <Box component="span" data-count={c.name} sx={{ width: 20, textAlign: "center" }}>
                {count(c.id)}
              </Box>
              <SmallButton aria-label={`${c.name} once more`} onClick={() => change(c.id, count(c.id) + 1)}>
                +
              </SmallButton>
            </Box>
          ))}
        </Box>
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1.2fr", gap: 1.5 }}>
          <TextField
            label="First frame"
            type="number"
            {...form.register("start", { valueAsNumber: true, required: true })}
          />
          <TextField
            label="Last frame"
            type="number"
            {...form.register("end", { valueAsNumber: true, required: true })}
          />
          <TextField
            label="Frames a second"
            type="number"
            slotProps={{ htmlInput: { step: "any", min: 1, max: 240 } }}
            {...form.register("fps", { valueAsNumber: true, required: true })}
          />
        </Box>
        {make.isError && <Alert severity="error">{make.error.message}</Alert>}
        <Buttons onClose={onClose} busy={make.isPending || !playing.length} label="Begin" />
      </Box>
    </Dialog>
  );
}
