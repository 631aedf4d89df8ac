import Box from "@mui/material/Box";
import { useState } from "react";
import { go } from "../../desk/playing";
import { leaveTry, tryEdit } from "../../desk/posing";
import { actOn, select } from "../../desk/selecting";
import { commit } from "../../desk/steps";
import { desk, type Member, useDesk } from "../../desk/store";
import type { Alert } from "../../desk/types";
import { Section, Line } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

const keyOf = (a: Alert) => `${a.casting} ${a.kind} ${a.control} ${a.first}`;

/** Faults of contact of all who play: a click leads there, and where one action mends it, it can be seen and taken. */
export function Alerts(_: { member: Member }) {
  const ink = useInks();
  const alerts = useDesk((s) => s.alerts);
  const cast = useDesk((s) => s.cast);
  const [open, setOpen] = useState("");
  if (!alerts) return <Section title="Alerts">Looking at the contacts…</Section>;
  function lead(alert: Alert) {
    if (desk().activeId !== alert.casting) actOn(alert.casting);
    select([alert.control], "set", alert.casting);
    go(alert.worst);
    setOpen(keyOf(alert));
  }
  return (
    <Section title={alerts.length ? `${alerts.length} faults of contact` : "No faults of contact"}>
      {alerts.length === 0 && (
        <Box sx={{ color: ink.faint }}>
          Nothing slides, sinks, floats, reaches too far, snaps, or bends the wrong way.
        </Box>
      )}
      <Box sx={{ display: "grid", gap: 0.5 }} role="list" aria-label="Faults">
        {alerts.map((alert) => (
          <Box key={keyOf(alert)} role="listitem">
            <SmallButton
              on={open === keyOf(alert)}
              onClick={() => lead(alert)}
              sx={{
                width: "100%",
                justifyContent: "flex-start",
                height: "auto",
                minHeight: 26,
                whiteSpace: "normal",
                textAlign: "left",
                py: 0.25,
              }}
            >
              <Box component="b" sx={{ minWidth: 52, fontVariantNumeric: "tabular-nums" }}>
                {alert.first === alert.last ? alert.first : `${alert.first}–${alert.last}`}
              </Box>
              <span>
                {cast.length > 1 ? `${cast.find((m) => m.id === alert.casting)?.name}: ` : ""}
                {alert.says}
              </span>
            </SmallButton>
            {open === keyOf(alert) && alert.mend && (
              <Line>
                <SmallButton
                  onPointerEnter={() => alert.mend && desk().activeId === alert.casting && tryEdit(alert.mend)}
                  onPointerLeave={leaveTry}
                  onFocus={() => alert.mend && tryEdit(alert.mend)}
                  onBlur={leaveTry}
                  title="While the pointer is here, the stage shows how it would be"
                  onClick={() =>
                    alert.mend &&
                    void commit(alert.mend, { takeId: desk().takeId, casting: alert.casting, frame: alert.worst })
                  }
                >
                  {alert.mending[0].toUpperCase() + alert.mending.slice(1)}
                </SmallButton>
              </Line>
            )}
          </Box>
        ))}
      </Box>
    </Section>
  );
}
