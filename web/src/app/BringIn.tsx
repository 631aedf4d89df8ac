import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router-dom";
import { type Schemas, send } from "../api/client";
import { finished, type Job } from "../api/jobs";
import { Tick } from "../ui/Tick";
import { useInks } from "../ui/look";

/** Bytes: a file so large is read as a job. */
const LARGE = 4_000_000;

/** A character or a prop out of a file, chosen or dropped here. */
export function BringIn({ productionId }: { productionId: number }) {
  const ink = useInks();
  const go = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const [over, setOver] = useState(false);
  const [prop, setProp] = useState(false);
  const bring = useMutation({
    mutationFn: async (chosen: File) => {
      const form = new FormData();
      form.append("file", chosen);
      form.append("name", chosen.name.replace(/\.[^.]*$/, ""));
      form.append("prop", String(prop));
      const path = `/api/productions/${productionId}/characters`;
      if (chosen.size < LARGE) return (await send<Schemas["CharacterOut"]>("POST", path, form)).id;
      const job = await finished(await send<Job>("POST", `${path}/jobs`, form));
      return job.outcome.character as number;
    },
    onSuccess: (id) => {
      void queries.invalidateQueries({ queryKey: ["characters", productionId] });
      go(`/characters/${id}`);
    },
  });
  return (
    <Box
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        if (e.dataTransfer.files[0]) bring.mutate(e.dataTransfer.files[0]);
      }}
      sx={{
        border: "1.5px dashed",
        borderColor: over ? ink.blue : ink.faint,
        borderRadius: 1,
        p: 1.5,
        display: "grid",
        gap: 1,
      }}
    >
      <input
        ref={file}
        type="file"
        accept=".glb,model/gltf-binary"
        hidden
        aria-label="Character file"
        onChange={(e) => {
          if (e.target.files?.[0]) bring.mutate(e.target.files[0]);
          e.target.value = "";
        }}
      />
      <Button onClick={() => file.current?.click()} disabled={bring.isPending}>
        {bring.isPending ? "Reading the file…" : "Bring in a character…"}
      </Button>
      <Box sx={{ fontSize: 12, color: ink.faint }}>
        A skinned .glb (glTF 2.0), also dropped here.{" "}
        {prop ? "Its joints become parts that move." : "A body plan is proposed from its joints."}
      </Box>
      <Tick label="It is a prop, without a body" on={prop} onChange={setProp} />
      {bring.isError && <Alert severity="error">{bring.error.message}. Nothing was stored.</Alert>}
    </Box>
  );
}
