import Box from "@mui/material/Box";
import { useState } from "react";
import { go } from "../playing";
import { leaveTry, tryEdit } from "../posing";
import { actOn, select } from "../selecting";
import { commit } from "../steps";
import { desk, useDesk } from "../store";
import type { Alert } from "../../model/types";
import { Section, Line } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { useInks } from "../../ui/look";

const keyOf = (a: Alert) => `${a.casting} ${a.kind} ${a.control} ${a.first}`;

/** Faults of all who play: a click leads there, and where one action mends one, it can be seen and taken. */
export function AlertList({ alerts, of, none }: { alerts: Alert[] | null; of: string; none: string }) {
  const ink = useInks();
  const cast = useDesk((s) => s.cast);
  const [open, setOpen] = useState("");
  if (!alerts) return <Section title="Alerts">Looking at the {of}…</Section>;
  function lead(alert: Alert) {
    if (desk().activeId !== alert.casting) actOn(alert.casting);
    select([alert.control], "set", alert.casting);
    go(alert.worst);
    setOpen(keyOf(alert));
  }
  return (
    <Section
      title={
        alerts.length ? `${alerts.length} ${alerts.length === 1 ? "fault" : "faults"} of ${of}` : `No faults of ${of}`
      }
    >
      {alerts.length === 0 && <Box sx={{ color: ink.faint }}>{none}</Box>}
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
              <Box component="b" sx={{ minWidth: 52, flexShrink: 0, pr: 0.75, fontVariantNumeric: "tabular-nums" }}>
                {alert.first === alert.last ? alert.first : `${alert.first}–${alert.last}`}
              </Box>
              <span>
                {cast.length > 1 ? `${cast.find((m) => m.id === alert.casting)?.name}: ` : ""}
                {alert.says}
              </span>
            </SmallButton>
            {open === keyOf(alert) &&
              alert.mend &&
              [{ edit: alert.mend, says: alert.mending }, ...alert.others].map(({ edit, says }) => (
                <Line key={says}>
                  <SmallButton
                    onPointerEnter={() => tryEdit(edit, null, alert.casting)}
                    onPointerLeave={leaveTry}
                    onFocus={() => tryEdit(edit, null, alert.casting)}
                    onBlur={leaveTry}
                    title="While the pointer is here, the stage shows how it would be"
                    onClick={() =>
                      void commit(edit, { takeId: desk().takeId, casting: alert.casting, frame: alert.worst })
                    }
                  >
                    {says[0].toUpperCase() + says.slice(1)}
                  </SmallButton>
                </Line>
              ))}
          </Box>
        ))}
      </Box>
    </Section>
  );
}
