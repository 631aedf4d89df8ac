import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { FACTS } from "../../api/facts.gen";
import { ask, http } from "../../api/client";
import { recast } from "../../desk/opening";
import { say } from "../../desk/steps";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import { Choice } from "../../ui/Choice";
import { SmallButton } from "../../ui/SmallButton";
import { TextLine } from "../../ui/TextLine";
import { useInks } from "../../ui/look";
import { Dialog } from "../../ui/opened";

/** Things that ship with the application, as the server names them. */
const FROM_SHELF = "shelf ";

/** Who plays: adding figures and props, naming them, putting them in order, taking them out and bringing them back. */
export function Cast({ open, onClose }: { open: boolean; onClose: () => void }) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot);
  const cast = useDesk((s) => s.cast);
  const editable = useDesk((s) => canChange(s));
  const [busy, setBusy] = useState(false);
  const [added, setAdded] = useState("");
  const production = shot?.production_id ?? 0;
  const characters = useQuery({
    queryKey: ["characters", production],
    queryFn: () =>
      ask(http.GET("/api/productions/{production_id}/characters", { params: { path: { production_id: production } } })),
    enabled: open && production > 0,
  });
  if (!shot) return null;
  const able = characters.data?.filter((c) => !c.problem) ?? [];
  const chosen = added || String(able[0]?.id ?? "");
  // What ships, where the production has nothing of that name yet.
  const shelf = FACTS.shelf.filter((name) => !characters.data?.some((c) => c.prop && c.name === name));

  /** Does something to the cast and takes over who plays then. */
  async function change(work: Promise<unknown>) {
    setBusy(true);
    try {
      await work;
      await recast();
    } catch (error) {
      say((error as Error).message, true);
    } finally {
      setBusy(false);
    }
  }
  const at = { params: { path: { shot_id: shot.id } } };
  const patch = (id: number, body: { name?: string; out?: boolean }) =>
    change(ask(http.PATCH("/api/castings/{casting_id}", { params: { path: { casting_id: id } }, body })));
  /** What is tied to somebody who goes is said: it stands where it was, and is as before once they are back. */
  async function takeOut(member: Member) {
    const named = (one: Member, of: number) => ownersIn(one).includes(of);
    const held = cast.filter((one) => one.id !== member.id && named(one, member.id)).map((one) => one.name);
    const holds = cast.filter((one) => one.id !== member.id && named(member, one.id)).map((one) => one.name);
    await patch(member.id, { out: true });
    if (desk().cast.some((one) => one.id === member.id)) return; // it was refused, which has been said
    if (held.length)
      say(`${held.join(", ")} held or stood on ${member.name}: it stays where it was until ${member.name} is back.`);
    if (holds.length) say(`${member.name} was carried by ${holds.join(", ")}, and is again when it is brought back.`);
  }
  async function bringToPlay(value: string) {
    let id = Number(value);
    if (value.startsWith(FROM_SHELF)) {
      const name = value.slice(FROM_SHELF.length);
      const path = { production_id: production };
      id = (await ask(http.POST("/api/productions/{production_id}/shelf", { params: { path }, body: { name } }))).id;
      await characters.refetch();
      setAdded(String(id));
    }
    await ask(http.POST("/api/shots/{shot_id}/cast", { ...at, body: { character_id: id } }));
  }
  const add = () => change(bringToPlay(chosen));
  function move(from: number, to: number) {
    const castings = desk().cast.map((m) => m.id);
    castings.splice(to, 0, ...castings.splice(from, 1));
    return change(ask(http.PUT("/api/shots/{shot_id}/cast", { ...at, body: { castings } })));
  }

  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="cast-title">
      <Box sx={{ p: 2.5, width: 480, display: "grid", gap: 1 }}>
        <Box component="h2" id="cast-title" sx={{ m: 0, fontSize: 17 }}>
          Cast of {shot.name}
        </Box>
        <Box component="ol" aria-label="Who plays" sx={{ m: 0, p: 0, listStyle: "none", display: "grid", gap: 0.5 }}>
          {cast.map((member, n) => (
            <Role
              key={`${member.id} ${member.name}`}
              member={member}
              disabled={busy || !editable}
              first={n === 0}
              last={n === cast.length - 1}
              onName={(name) => void patch(member.id, { name })}
              onMove={(by) => void move(n, n + by)}
              onOut={() => void takeOut(member)}
            />
          ))}
        </Box>
        {editable && able.length + shelf.length > 0 && (
          <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", pt: 0.5 }}>
            <Choice
              label="Who comes to play"
              value={chosen}
              options={[
                ...able.map((c) => ({ value: String(c.id), label: c.prop ? `${c.name} (prop)` : c.name })),
                ...shelf.map((name) => ({ value: FROM_SHELF + name, label: `${name} (prop, from the shelf)` })),
              ]}
              onChange={setAdded}
            />
            <SmallButton disabled={busy} onClick={() => void add()}>
              Add to the cast
            </SmallButton>
          </Box>
        )}
        {shot.taken_out.length > 0 && (
          <Box sx={{ borderTop: 1, borderColor: "divider", pt: 1, display: "grid", gap: 0.5 }}>
            <Box sx={{ color: ink.faint, fontSize: 12 }}>Taken out. Their motion is kept in every take.</Box>
            {shot.taken_out.map((role) => (
              <Box key={role.id} sx={{ display: "flex", alignItems: "center", gap: 1 }}>
                <Box sx={{ flex: 1 }}>{role.name}</Box>
                {editable && (
                  <SmallButton disabled={busy} onClick={() => void patch(role.id, { out: false })}>
                    Bring back
                  </SmallButton>
                )}
              </Box>
            ))}
          </Box>
        )}
        <Button onClick={onClose} sx={{ justifySelf: "end" }}>
          Close
        </Button>
      </Box>
    </Dialog>
  );
}

/** By number, those who carry something of a figure, or on whom it stands. */
const ownersIn = ({ clip }: Member): number[] =>
  Object.values(clip.tracks).flatMap((spans) =>
    spans.flatMap((span) => ("figure" in span && span.figure ? [span.figure as number] : [])),
  );

interface RoleProps {
  member: Member;
  disabled: boolean;
  first: boolean;
  last: boolean;
  onName: (name: string) => void;
  onMove: (by: number) => void;
  onOut: () => void;
}

function Role({ member, disabled, first, last, onName, onMove, onOut }: RoleProps) {
  const ink = useInks();
  return (
    <Box component="li" sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
      <TextLine label={`Name of ${member.name}`} value={member.name} disabled={disabled} onDone={onName} />
      <Box sx={{ color: ink.faint, fontSize: 12, width: 44 }}>{member.prop ? "prop" : "figure"}</Box>
      <SmallButton aria-label={`${member.name} one up`} disabled={disabled || first} onClick={() => onMove(-1)}>
        ↑
      </SmallButton>
      <SmallButton aria-label={`${member.name} one down`} disabled={disabled || last} onClick={() => onMove(1)}>
        ↓
      </SmallButton>
      <SmallButton disabled={disabled || (first && last)} onClick={onOut} aria-label={`Take out ${member.name}`}>
        Take out
      </SmallButton>
    </Box>
  );
}
