import Box from "@mui/material/Box";
import { useState } from "react";
import { connect } from "../../desk/opening";
import { resolveAside } from "../../desk/steps";
import { useDesk } from "../../desk/store";
import { SmallButton } from "../../ui/SmallButton";
import { Menu } from "../../ui/opened";

const clock = (at: Date) => at.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", second: "2-digit" });

/** Saving is no action: this says whether every step so far is in the database, and what is with those that are not. */
export function Stored() {
  const waiting = useDesk((s) => s.waiting);
  const since = useDesk((s) => s.unreachedSince);
  const waitsFor = useDesk((s) => s.waitsFor);
  const revision = useDesk((s) => s.revision);
  const socket = useDesk((s) => s.socket);
  const state = since ? "waiting" : waiting ? "storing" : "stored";
  const steps = `${waiting} ${waiting === 1 ? "step waits" : "steps wait"}`;
  const text =
    state === "stored"
      ? "All stored"
      : state === "storing"
        ? "Storing…"
        : `Not stored since ${clock(since!)}: ${waiting ? `${steps}, ` : ""}` +
          (waitsFor ? `until ${waitsFor} signs in` : "trying again");
  return (
    <Box
      component="span"
      role="status"
      data-testid="stored"
      data-state={state}
      data-step={revision}
      sx={{ fontSize: 12, display: "flex", gap: 1, alignItems: "center", fontWeight: state === "waiting" ? 700 : 400 }}
    >
      <span style={{ opacity: state === "waiting" ? 1 : 0.85 }}>{text}</span>
      {socket === "lost" && <b data-testid="connection">Connection lost: reconnecting</b>}
      {socket === "refused" && (
        <span data-testid="connection">
          <b>Not connected: sign in again, or ask the lead whether you are still in.</b>{" "}
          <SmallButton onClick={connect}>Connect</SmallButton>
        </span>
      )}
      <SetAside />
    </Box>
  );
}

/** Steps that the server could not store, each with its reason: to be tried again or let go. */
function SetAside() {
  const aside = useDesk((s) => s.setAside);
  const [at, setAt] = useState<HTMLElement | null>(null);
  if (!aside.length) return null;
  return (
    <>
      <SmallButton onClick={(e) => setAt(e.currentTarget)}>
        {aside.length === 1 ? "1 step set aside" : `${aside.length} steps set aside`} ▾
      </SmallButton>
      <Menu open={!!at} anchorEl={at} onClose={() => setAt(null)}>
        {aside.map((step) => (
          <Box key={step.id} component="li" sx={{ px: 2, py: 1, display: "grid", gap: 0.5, maxWidth: 420 }}>
            <b>{step.what}</b>
            <span>{step.reason}</span>
            <Box sx={{ display: "flex", gap: 1 }}>
              <SmallButton onClick={() => resolveAside(step.id, true)}>Try it again</SmallButton>
              <SmallButton onClick={() => resolveAside(step.id, false)}>Let it go</SmallButton>
            </Box>
          </Box>
        ))}
      </Menu>
    </>
  );
}
