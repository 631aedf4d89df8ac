import Box from "@mui/material/Box";
import { useState } from "react";
import { joinAll, joinNobody, meantSaid, toggleJoined } from "../../desk/company";
import { lock } from "../../desk/choosing";
import { seeAll, seeAlone, seeNext, sightOf } from "../../desk/seeing";
import { actOn } from "../../desk/selecting";
import { useDesk } from "../../desk/store";
import { Chevron } from "../../ui/Chevron";
import { useInks } from "../../ui/look";
import { Popover } from "../../ui/opened";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";

const SIGHTS = { shown: "shown", dim: "dimmed", hidden: "hidden" };

/** Whom the tools act on, who is meant as well, and a lock that keeps them there. */
export function Whom() {
  const ink = useInks();
  const cast = useDesk((s) => s.cast);
  const activeId = useDesk((s) => s.activeId);
  const company = useDesk((s) => s.company);
  const seen = useDesk((s) => s.seen);
  const locked = useDesk((s) => s.locked);
  const said = useDesk(meantSaid);
  const [at, setAt] = useState<HTMLElement | null>(null);
  if (cast.length < 2)
    return (
      <Box sx={{ ml: "auto", height: 26, display: "flex", alignItems: "center", fontSize: 12, color: ink.faint }}>
        Acts on {cast[0]?.name ?? "nobody"}
      </Box>
    );
  const meantToo = (id: number) => id === activeId || id in company;
  return (
    <Box sx={{ ml: "auto", display: "flex", gap: 0.25, alignItems: "center" }}>
      <SmallButton
        aria-haspopup="dialog"
        aria-label={`Acts on: ${said}`}
        onClick={(e) => setAt(e.currentTarget)}
        sx={{ maxWidth: 260 }}
      >
        <Box component="span" sx={{ color: ink.faint, whiteSpace: "pre" }}>
          {"Acts on: "}
        </Box>
        <Box component="span" sx={{ overflow: "hidden", textOverflow: "ellipsis" }}>
          {said}
        </Box>
        <Chevron />
      </SmallButton>
      <Popover
        open={!!at}
        anchorEl={at}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
      >
        <Box sx={{ p: 1, minWidth: 240 }} role="group" aria-label="Whom the tools act on">
          <Box sx={{ fontSize: 12, color: ink.faint, mb: 0.5 }}>The tools act on</Box>
          {cast.map((member) => (
            <Box
              key={member.id}
              role="group"
              aria-label={member.name}
              sx={{ display: "flex", alignItems: "center", gap: 1, mb: 0.5 }}
            >
              <SmallButton
                on={member.id === activeId}
                sx={{ flex: 1, justifyContent: "flex-start" }}
                onClick={() => {
                  setAt(null);
                  actOn(member.id);
                }}
              >
                {member.name}
              </SmallButton>
              <SmallButton
                aria-label={`${member.name}: ${SIGHTS[sightOf(member.id, seen)]}`}
                title="Shown, dimmed, hidden: on the stage and in the sights"
                sx={{ width: 66, justifyContent: "center" }}
                onClick={() => seeNext(member.id)}
              >
                {SIGHTS[sightOf(member.id, seen)]}
              </SmallButton>
              <SmallButton title="It alone is shown; once more: all" onClick={() => seeAlone(member.id)}>
                Alone
              </SmallButton>
              {member.id === activeId ? (
                <Box sx={{ width: 84 }} />
              ) : (
                <Box sx={{ width: 84, whiteSpace: "nowrap" }}>
                  <Tick label="as well" on={meantToo(member.id)} onChange={() => toggleJoined(member)} />
                </Box>
              )}
            </Box>
          ))}
          <Box sx={{ display: "flex", gap: 0.5, mt: 0.5 }}>
            <SmallButton onClick={joinAll}>Everybody</SmallButton>
            <SmallButton onClick={joinNobody}>Only this one</SmallButton>
            <Box sx={{ flex: 1 }} />
            <SmallButton disabled={!Object.keys(seen).length} onClick={seeAll}>
              Show all
            </SmallButton>
          </Box>
          <Box sx={{ fontSize: 12, color: ink.faint, mt: 0.75, maxWidth: 400 }}>
            Who is meant as well is keyed, copied, pasted, turned over, delayed, reset and moved in time in one step.
            With Shift a control of another is selected as well.
          </Box>
        </Box>
      </Popover>
      <SmallButton
        on={locked}
        onClick={() => lock(!locked)}
        aria-label={locked ? "Locked to this character" : "Lock the tools to this character"}
        title={
          locked
            ? "The tools stay on this character. Click to let them follow the selection"
            : "Keep the tools on this character, whatever is clicked"
        }
        sx={{ px: 0.75 }}
      >
        <svg width="11" height="13" viewBox="0 0 11 13" aria-hidden>
          <rect x="1" y="5.5" width="9" height="7" rx="1.5" fill="currentColor" />
          <path
            d={locked ? "M3 5.5 V3.6 a2.5 2.5 0 0 1 5 0 V5.5" : "M3 5.5 V3.6 a2.5 2.5 0 0 1 4.6 -1.3"}
            fill="none"
            stroke="currentColor"
            strokeWidth="1.5"
          />
        </svg>
      </SmallButton>
    </Box>
  );
}
