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
import { lineField, useInks } from "../ui/look";
import { SmallButton } from "../ui/SmallButton";
import { Tick } from "../ui/Tick";

type Found = Schemas["GroupsOut"];

/** The groups of controls that a character suggests to whoever poses it. */
export function ControlGroups({ id, can, onClose }: { id: number; can: boolean; onClose: () => void }) {
  const path = { params: { path: { character_id: id } } };
  const found = useQuery({
    queryKey: ["groups", id],
    queryFn: () => ask(http.GET("/api/characters/{character_id}/groups", path)),
  });
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>Groups of controls</DialogTitle>
      {found.data ? (
        <Groups id={id} found={found.data} can={can} onClose={onClose} />
      ) : (
        <DialogContent>{found.isError ? found.error.message : "Looking…"}</DialogContent>
      )}
    </Dialog>
  );
}

function Groups({ id, found, can, onClose }: { id: number; found: Found; can: boolean; onClose: () => void }) {
  const ink = useInks();
  const queries = useQueryClient();
  const [groups, setGroups] = useState(found.groups);
  const [at, setAt] = useState(0);
  const [wanted, setWanted] = useState("");
  const [said, setSaid] = useState("");
  const open = groups[at];
  const change = (now: Partial<(typeof groups)[number]>) =>
    setGroups(groups.map((group, n) => (n === at ? { ...group, ...now } : group)));

  async function store(own: boolean) {
    try {
      const params = { path: { character_id: id } };
      const now = await ask(
        http.PUT("/api/characters/{character_id}/groups", { params, body: { groups: own ? groups : null } }),
      );
      queries.setQueryData(["groups", id], now);
      onClose();
    } catch (error) {
      setSaid((error as Error).message);
    }
  }
  const shown = found.controls.filter((control) => control.label.toLowerCase().includes(wanted.toLowerCase()));
  return (
    <>
      <DialogContent>
        <Box sx={{ color: ink.faint, mb: 1.5 }}>
          They are shown and hidden by their names in every shot that the character plays in.{" "}
          {found.own ? "These were set by hand." : "These are the usual ones: what hangs on the body, by its names."}
        </Box>
        <Box sx={{ display: "grid", gridTemplateColumns: "200px 1fr", gap: 2, height: 340 }}>
          <Box sx={{ overflowY: "auto", display: "grid", gap: 0.5, alignContent: "start" }}>
            {groups.map((group, n) => (
              <Box key={n} sx={{ display: "flex", gap: 0.5 }}>
                <SmallButton on={n === at} onClick={() => setAt(n)} sx={{ flex: 1, justifyContent: "flex-start" }}>
                  {group.name || "no name yet"} ({group.controls.length})
                </SmallButton>
                <SmallButton
                  aria-label={`Drop the group ${group.name}`}
                  disabled={!can}
                  onClick={() => {
                    setGroups(groups.filter((_, m) => m !== n));
                    setAt(Math.max(0, at - (n <= at ? 1 : 0)));
                  }}
                >
                  ✕
                </SmallButton>
              </Box>
            ))}
            <SmallButton
              disabled={!can}
              onClick={() => {
                const names = new Set(groups.map((group) => group.name));
                let n = groups.length + 1;
                while (names.has(`Group ${n}`)) n++;
                setGroups([...groups, { name: `Group ${n}`, controls: [] }]);
                setAt(groups.length);
              }}
            >
              Add a group
            </SmallButton>
          </Box>
          {open ? (
            <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0, gap: 0.5 }}>
              <input
                aria-label="Name of the group"
                value={open.name}
                maxLength={60}
                disabled={!can}
                onChange={(e) => change({ name: e.target.value })}
                style={lineField(ink)}
              />
              <input
                aria-label="Find a control"
                placeholder="Find a control"
                value={wanted}
                onChange={(e) => setWanted(e.target.value)}
                style={lineField(ink)}
              />
              <Box sx={{ overflowY: "auto", flex: 1, display: "grid", alignContent: "start", pl: 1 }}>
                {shown.map((control) => (
                  <Tick
                    key={control.name}
                    label={control.label}
                    on={open.controls.includes(control.name)}
                    onChange={(on) =>
                      can &&
                      change({
                        controls: on
                          ? [...open.controls, control.name]
                          : open.controls.filter((name) => name !== control.name),
                      })
                    }
                  />
                ))}
              </Box>
            </Box>
          ) : (
            <Box sx={{ color: ink.faint }}>No groups: each control is shown with its part of the body.</Box>
          )}
        </Box>
        {said && (
          <Alert severity="error" sx={{ mt: 1 }}>
            {said}
          </Alert>
        )}
      </DialogContent>
      <DialogActions>
        <Button disabled={!can || !found.own} onClick={() => void store(false)}>
          The usual ones
        </Button>
        <Box sx={{ flex: 1 }} />
        <Button onClick={onClose}>Close</Button>
        <Button variant="contained" disabled={!can} onClick={() => void store(true)}>
          Store
        </Button>
      </DialogActions>
    </>
  );
}
