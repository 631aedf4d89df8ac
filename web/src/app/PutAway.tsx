import Box from "@mui/material/Box";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { ask, http, type Schemas } from "../api/client";
import { DeleteForGood, type Removable } from "../ui/DeleteForGood";
import { SmallButton } from "../ui/SmallButton";
import { useInks } from "../ui/look";

type Role = Schemas["ProductionOut"]["role"];

/** Puts something out of sight, or back. */
export function setAway(what: Removable, put_away: boolean): Promise<unknown> {
  const body = { put_away };
  switch (what.kind) {
    case "shot":
      return ask(http.PATCH("/api/shots/{shot_id}", { params: { path: { shot_id: what.id } }, body }));
    case "character":
      return ask(http.PATCH("/api/characters/{character_id}", { params: { path: { character_id: what.id } }, body }));
    case "production":
      return ask(
        http.PATCH("/api/productions/{production_id}", { params: { path: { production_id: what.id } }, body }),
      );
    case "take":
      return ask(http.PATCH("/api/takes/{take_id}", { params: { path: { take_id: what.id } }, body }));
  }
}

/** The button of a card with what can be done to the whole of it. */
export function CardMenu({
  what,
  onDone,
  onError,
}: {
  what: Removable;
  onDone: () => void;
  onError: (error: Error) => void;
}) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <SmallButton
        aria-label={`More about ${what.name}`}
        onClick={(event) => {
          event.preventDefault(); // the card is a link
          setAt(event.currentTarget);
        }}
        sx={{ minWidth: 26, px: 0.5 }}
      >
        …
      </SmallButton>
      <Menu
        open={!!at}
        anchorEl={at}
        onClose={() => setAt(null)}
        onClick={(event) => {
          // A click here is none on the card that the menu belongs to.
          event.preventDefault();
          event.stopPropagation();
          setAt(null);
        }}
      >
        <MenuItem onClick={() => void setAway(what, true).then(onDone, onError)}>Put away</MenuItem>
      </Menu>
    </>
  );
}

/** What was put away, to be brought back or, by a lead, deleted for good. */
export function AwayList({
  title,
  things,
  role,
  onChanged,
}: {
  title: string;
  things: Removable[];
  role: (what: Removable) => Role;
  onChanged: () => void;
}) {
  const ink = useInks();
  const [going, setGoing] = useState<Removable | null>(null);
  const [problem, setProblem] = useState("");
  if (!things.length) return null;
  return (
    <Box sx={{ mb: 2, maxWidth: 640 }}>
      <Box component="h3" sx={{ fontSize: 13, m: 0, mb: 0.5 }}>
        {title}
      </Box>
      {things.map((what) => (
        <Box
          key={what.id}
          sx={{ display: "flex", alignItems: "center", gap: 1, py: 0.5, borderTop: 1, borderColor: "divider" }}
        >
          <Box sx={{ flex: 1 }}>{what.name}</Box>
          {role(what) !== "guest" && (
            <SmallButton onClick={() => void setAway(what, false).then(onChanged, (e: Error) => setProblem(e.message))}>
              Bring back
            </SmallButton>
          )}
          {role(what) === "lead" && <SmallButton onClick={() => setGoing(what)}>Delete for good…</SmallButton>}
        </Box>
      ))}
      {problem && (
        <Box role="alert" sx={{ color: ink.red }}>
          {problem}
        </Box>
      )}
      {going && (
        <DeleteForGood
          what={going}
          onDone={(deleted) => {
            setGoing(null);
            if (deleted) onChanged();
          }}
        />
      )}
    </Box>
  );
}

/** Shots and characters of a production that were put away; folded up until asked for. */
export function PutAway({ production, children }: { production: Schemas["ProductionOut"]; children?: ReactNode }) {
  const ink = useInks();
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const at = { params: { path: { production_id: production.id }, query: { away: true } } };
  const shots = useQuery({
    queryKey: ["shots", production.id, "away"],
    queryFn: () => ask(http.GET("/api/productions/{production_id}/shots", at)),
    enabled: open,
  });
  const characters = useQuery({
    queryKey: ["characters", production.id, "away"],
    queryFn: () => ask(http.GET("/api/productions/{production_id}/characters", at)),
    enabled: open,
  });
  const changed = () => {
    void queries.invalidateQueries({ queryKey: ["shots", production.id] });
    void queries.invalidateQueries({ queryKey: ["characters", production.id] });
  };
  const none = open && shots.data?.length === 0 && characters.data?.length === 0;
  return (
    <Box sx={{ mt: 4 }}>
      <SmallButton on={open} onClick={() => setOpen(!open)} aria-expanded={open}>
        What was put away
      </SmallButton>
      {open && (
        <Box sx={{ mt: 1.5 }}>
          {none && (
            <Box sx={{ color: ink.faint }}>
              Nothing. A shot or a character that is not needed now can be put away by the “…” on its card.
            </Box>
          )}
          <AwayList
            title="Shots"
            things={(shots.data ?? []).map((s) => ({ kind: "shot", id: s.id, name: s.name }))}
            role={() => production.role}
            onChanged={changed}
          />
          <AwayList
            title="Characters"
            things={(characters.data ?? []).map((c) => ({ kind: "character", id: c.id, name: c.name }))}
            role={() => production.role}
            onChanged={changed}
          />
          {children}
        </Box>
      )}
    </Box>
  );
}
