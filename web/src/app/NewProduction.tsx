import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Dialog from "@mui/material/Dialog";
import TextField from "@mui/material/TextField";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router-dom";
import { ask, http } from "../api/client";
import { Buttons } from "./Buttons";

/** Asks for the name of a production and begins it. */
export function NewProduction({ onClose }: { onClose: () => void }) {
  const form = useForm({ defaultValues: { name: "" } });
  const go = useNavigate();
  const queries = useQueryClient();
  const make = useMutation({
    mutationFn: (body: { name: string }) => ask(http.POST("/api/productions", { body })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ["productions"] });
      onClose();
      go(`/productions/${made.id}`);
    },
  });
  return (
    <Dialog open onClose={onClose}>
      <Box
        component="form"
        sx={{ p: 2.5, display: "grid", gap: 2, width: 340 }}
        onSubmit={form.handleSubmit((v) => make.mutate(v))}
      >
        <Box component="h2" sx={{ m: 0, fontSize: 17 }}>
          New production
        </Box>
        <TextField label="Name" autoFocus {...form.register("name", { required: true, maxLength: 100 })} />
        {make.isError && <Alert severity="error">{make.error.message}</Alert>}
        <Buttons onClose={onClose} busy={make.isPending} label="Begin" />
      </Box>
    </Dialog>
  );
}
