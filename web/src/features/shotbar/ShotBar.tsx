import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { ask, http } from "../../api/client";
import { openTake, redo, say, undo } from "../../desk/actions";
import { canChange, desk, setDesk, useDesk } from "../../desk/store";
import { SmallButton } from "../../ui/SmallButton";
import { useInks, useLook } from "../../ui/look";

/** Shot, take, whether all is stored, undo and history; on the right, people and help. */
export function ShotBar({ onHistory, onHelp }: { onHistory: () => void; onHelp: () => void }) {
  const ink = useInks();
  const look = useLook();
  const shot = useDesk((s) => s.shot);
  const canUndo = useDesk((s) => s.canUndo);
  const canRedo = useDesk((s) => s.canRedo);
  const people = useDesk((s) => s.people);
  const editable = useDesk((s) => canChange(s));
  if (!shot) return null;
  const names = [...new Set(people.map((p) => p.name))];
  return (
    <Box component="header" sx={{ height: 40, display: "flex", alignItems: "center", gap: 1, px: 1.5, bgcolor: ink.bar, color: ink.onBar, flex: "none", "& button": { color: ink.ink } }}>
      <Box component={Link} to={`/productions/${shot.production_id}`} title="To the shots" sx={{ color: "inherit", display: "flex", alignItems: "center", gap: 1, textDecoration: "none" }}>
        <img src="/mark.svg" width={22} height={22} alt="" />
        <span style={{ opacity: 0.8 }}>{shot.production}</span>
      </Box>
      <span style={{ opacity: 0.5 }}>·</span>
      <Box component="h1" sx={{ fontSize: 14, m: 0 }}>{shot.name}</Box>
      <Takes />
      <Stored />
      <Box sx={{ width: 8 }} />
      <SmallButton disabled={!canUndo || !editable} onClick={() => void undo()} title="Undo (Ctrl+Z)">Undo</SmallButton>
      <SmallButton disabled={!canRedo || !editable} onClick={() => void redo()} title="Redo (Ctrl+Shift+Z)">Redo</SmallButton>
      <SmallButton onClick={onHistory}>History</SmallButton>
      <Box sx={{ flex: 1 }} />
      {names.length > 0 && <Box component="span" title={`Here now: ${names.join(", ")}`} sx={{ fontSize: 12, opacity: 0.85 }}>{names.join(", ")}{people.length > names.length ? ` (${people.length} pages)` : ""}</Box>}
      <SmallButton onClick={() => look.setDesk(look.desk === "day" ? "night" : "day")} title="Light or dark desk">{look.desk === "day" ? "Night desk" : "Day desk"}</SmallButton>
      <SmallButton onClick={onHelp} title="Keys (?)" aria-label="Help">?</SmallButton>
    </Box>
  );
}

/** Saving is no action: this says whether every step made so far is in the database. */
function Stored() {
  const stored = useDesk((s) => s.stored);
  const revision = useDesk((s) => s.revision);
  const socket = useDesk((s) => s.socket);
  const text = stored === "stored" ? `Stored · step ${revision}` : stored === "storing" ? "Storing…" : "Not stored yet: trying again";
  return (
    <Box component="span" role="status" data-testid="stored" data-state={stored} sx={{ fontSize: 12, display: "flex", gap: 1, fontWeight: stored === "waiting" ? 700 : 400 }}>
      <span style={{ opacity: stored === "waiting" ? 1 : 0.85 }}>{text}</span>
      {socket === "lost" && <b data-testid="connection">Connection lost: reconnecting</b>}
    </Box>
  );
}

function Takes() {
  const shot = useDesk((s) => s.shot);
  const takeId = useDesk((s) => s.takeId);
  const name = useDesk((s) => s.takeName);
  const editable = useDesk((s) => canChange(s));
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState<"new" | "rename" | null>(null);
  const go = useNavigate();
  if (!shot) return null;

  async function finish(given: string) {
    const kind = naming;
    setNaming(null);
    try {
      if (kind === "rename") {
        await ask(http.PATCH("/api/takes/{take_id}", { params: { path: { take_id: takeId } }, body: { name: given } }));
        setDesk({ takeName: given, shot: { ...desk().shot!, takes: desk().shot!.takes.map((t) => (t.id === takeId ? { ...t, name: given } : t)) } });
      } else {
        const made = await ask(http.POST("/api/shots/{shot_id}/takes", { params: { path: { shot_id: shot!.id } }, body: { name: given, source: takeId } }));
        go(`/shots/${shot!.id}/takes/${made.id}`);
        await openTake(shot!.id, made.id);
        say(`${given} goes on from ${name}, which stays as it is.`);
      }
    } catch (error) {
      say((error as Error).message, true);
    }
  }
  return (
    <>
      <SmallButton onClick={(e) => setAt(e.currentTarget)} aria-label={`Take: ${name}`}>{name} ▾</SmallButton>
      <Menu open={!!at} anchorEl={at} onClose={() => setAt(null)} onClick={() => setAt(null)}>
        {shot.takes.map((t) => (
          <MenuItem key={t.id} selected={t.id === takeId} onClick={() => go(`/shots/${shot.id}/takes/${t.id}`)}>{t.name}</MenuItem>
        ))}
        {editable && <MenuItem divider disabled sx={{ minHeight: "4px !important", p: 0 }} />}
        {editable && <MenuItem onClick={() => setNaming("new")}>Set aside, and go on in a new take…</MenuItem>}
        {editable && <MenuItem onClick={() => setNaming("rename")}>Rename this take…</MenuItem>}
      </Menu>
      {naming && <Name title={naming === "new" ? "New take from this one" : "Rename this take"} first={naming === "new" ? `Take ${shot.takes.length + 1}` : name} onDone={(n) => void finish(n)} onClose={() => setNaming(null)} />}
    </>
  );
}

function Name(p: { title: string; first: string; onDone: (name: string) => void; onClose: () => void }) {
  const [name, setName] = useState(p.first);
  return (
    <Dialog open onClose={p.onClose}>
      <Box component="form" sx={{ p: 2, display: "grid", gap: 1.5, width: 320 }} onSubmit={(e) => { e.preventDefault(); if (name.trim()) p.onDone(name.trim()); }}>
        <Box component="h2" sx={{ fontSize: 16, m: 0 }}>{p.title}</Box>
        <TextField label="Name" value={name} autoFocus onChange={(e) => setName(e.target.value)} slotProps={{ htmlInput: { maxLength: 100 } }} />
        <Box sx={{ display: "flex", gap: 1, justifyContent: "flex-end" }}>
          <Button onClick={p.onClose}>Cancel</Button>
          <Button type="submit" variant="contained">Done</Button>
        </Box>
      </Box>
    </Dialog>
  );
}
