import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import { ask, http, type Schemas } from "../../api/client";
import { openTake } from "../../desk/opening";
import { say } from "../../desk/steps";
import { shotNow, takeRenamed } from "../../desk/taking";
import { canChange, useDesk } from "../../desk/store";
import { DeleteForGood } from "../../ui/DeleteForGood";
import { SmallButton } from "../../ui/SmallButton";

/** The takes of the shot: going to one, beginning and naming one, and putting one away. */
export function Takes() {
  const shot = useDesk((s) => s.shot);
  const takeId = useDesk((s) => s.takeId);
  const name = useDesk((s) => s.takeName);
  const editable = useDesk((s) => canChange(s));
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [asked, setAsked] = useState<"new" | "rename" | "away" | null>(null);
  const go = useNavigate();
  if (!shot) return null;

  async function finish(given: string) {
    const kind = asked;
    setAsked(null);
    try {
      if (kind === "rename") {
        await ask(http.PATCH("/api/takes/{take_id}", { params: { path: { take_id: takeId } }, body: { name: given } }));
        takeRenamed(takeId, given);
      } else {
        const made = await ask(
          http.POST("/api/shots/{shot_id}/takes", {
            params: { path: { shot_id: shot!.id } },
            body: { name: given, source: takeId },
          }),
        );
        go(`/shots/${shot!.id}/takes/${made.id}`);
        await openTake(shot!.id, made.id);
        say(`${given} goes on from ${name}, which stays as it is.`);
      }
    } catch (error) {
      say((error as Error).message, true);
    }
  }

  async function putAway() {
    try {
      await ask(
        http.PATCH("/api/takes/{take_id}", { params: { path: { take_id: takeId } }, body: { put_away: true } }),
      );
      const next = shot!.takes.filter((t) => t.id !== takeId).at(-1)!;
      go(`/shots/${shot!.id}/takes/${next.id}`);
      await openTake(shot!.id, next.id);
      say(`${name} is put away. It can be brought back from the menu of takes.`);
    } catch (error) {
      say((error as Error).message, true);
    }
  }

  return (
    <>
      <SmallButton onClick={(e) => setAt(e.currentTarget)} aria-label={`Take: ${name}`}>
        {name} ▾
      </SmallButton>
      <Menu open={!!at} anchorEl={at} onClose={() => setAt(null)} onClick={() => setAt(null)}>
        {shot.takes.map((t) => (
          <MenuItem key={t.id} selected={t.id === takeId} onClick={() => go(`/shots/${shot.id}/takes/${t.id}`)}>
            {t.name}
          </MenuItem>
        ))}
        {editable && <MenuItem divider disabled sx={{ minHeight: "4px !important", p: 0 }} />}
        {editable && <MenuItem onClick={() => setAsked("new")}>Set aside, and go on in a new take…</MenuItem>}
        {editable && <MenuItem onClick={() => setAsked("rename")}>Rename this take…</MenuItem>}
        {editable && (
          <MenuItem onClick={() => void putAway()} disabled={shot.takes.length < 2}>
            Put this take away
          </MenuItem>
        )}
        {editable && <MenuItem onClick={() => setAsked("away")}>Takes put away…</MenuItem>}
      </Menu>
      {(asked === "new" || asked === "rename") && (
        <Name
          title={asked === "new" ? "New take from this one" : "Rename this take"}
          first={asked === "new" ? `Take ${shot.takes.length + 1}` : name}
          onDone={(n) => void finish(n)}
          onClose={() => setAsked(null)}
        />
      )}
      {asked === "away" && <Away shot={shot} onClose={() => setAsked(null)} />}
    </>
  );
}

/** Takes that were put away: brought back by an animator, deleted for good by a lead. */
function Away({ shot, onClose }: { shot: Schemas["ShotOut"]; onClose: () => void }) {
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

function Name(p: { title: string; first: string; onDone: (name: string) => void; onClose: () => void }) {
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
