// What the menu of takes asks in a dialog: a name, and which of those put away come back.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, http, type Schemas } from "../../api/client";
import { say } from "../../desk/steps";
import { shotNow } from "../../desk/taking";
import { DeleteForGood } from "../../ui/DeleteForGood";
import { SmallButton } from "../../ui/SmallButton";
import { Dialog, TextField } from "../../ui/opened";

/** Takes that were put away: brought back by an animator, deleted for good by a lead. */
export function Away({ shot, onClose }: { shot: Schemas["ShotOut"]; onClose: () => void }) {
  const queries = useQueryClient();
  const key = ["takes away", shot.id];
  const path = { params: { path: { shot_id: shot.id } } };
  const away = useQuery({
    queryKey: key,
    queryFn: () => ask(http.GET("/api/shots/{shot_id}/takes", { params: { ...path.params, query: { away: true } } })),
    staleTime: 0,
  });
  const [going, setGoing] = useState<Schemas["TakeSummary"] | null>(null);
  async function bringBack(take: Schemas["TakeSummary"]) {
    try {
      await ask(
        http.PATCH("/api/takes/{take_id}", { params: { path: { take_id: take.id } }, body: { put_away: false } }),
      );
      const now = await ask(http.GET("/api/shots/{shot_id}", path));
      shotNow(now);
      await queries.invalidateQueries({ queryKey: key });
      say(`${take.name} is back among the takes.`);
    } catch (error) {
      say((error as Error).message, true);
    }
  }
  return (
    <Dialog open onClose={onClose}>
      <Box sx={{ p: 2.5, display: "grid", gap: 1.5, width: 400 }}>
        <Box component="h2" sx={{ fontSize: 16, m: 0 }}>
          Takes put away
        </Box>
        {away.data?.length === 0 && (
          <Box>None. A take that is not needed now can be put away from the menu of takes.</Box>
        )}
        {away.data?.map((take) => (
          <Box key={take.id} sx={{ display: "flex", alignItems: "center", gap: 1 }}>
            <Box sx={{ flex: 1 }}>{take.name}</Box>
            <SmallButton onClick={() => void bringBack(take)}>Bring back</SmallButton>
            {shot.role === "lead" && <SmallButton onClick={() => setGoing(take)}>Delete for good…</SmallButton>}
          </Box>
        ))}
        <Button onClick={onClose} sx={{ justifySelf: "end" }}>
          Close
        </Button>
      </Box>
      {going && (
        <DeleteForGood
          what={{ kind: "take", id: going.id, name: going.name }}
          onDone={() => {
            setGoing(null);
            void queries.invalidateQueries({ queryKey: key });
          }}
        />
      )}
    </Dialog>
  );
}

export function Name(p: { title: string; first: string; onDone: (name: string) => void; onClose: () => void }) {
  const [name, setName] = useState(p.first);
  return (
    <Dialog open onClose={p.onClose}>
      <Box
        component="form"
        sx={{ p: 2, display: "grid", gap: 1.5, width: 320 }}
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) p.onDone(name.trim());
        }}
      >
        <Box component="h2" sx={{ fontSize: 16, m: 0 }}>
          {p.title}
        </Box>
        <TextField
          label="Name"
          value={name}
          autoFocus
          onChange={(e) => setName(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 100 } }}
        />
        <Box sx={{ display: "flex", gap: 1, justifyContent: "flex-end" }}>
          <Button onClick={p.onClose}>Cancel</Button>
          <Button type="submit" variant="contained">
            Done
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
