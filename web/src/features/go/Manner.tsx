import Box from "@mui/material/Box";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, http } from "../../api/client";
import { change, useWay } from "../../desk/goings";
import { say } from "../../desk/steps";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import { lineField, useInks } from "../../ui/look";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Quantity } from "./Quantity";

const TRAITS: [string, string[]][] = [
  ["Feet", ["lift", "strike", "push", "bounce", "low", "uneven"]],
  ["Trunk", ["turn", "list", "pitch", "lean", "chest"]],
  ["Arms", ["swing", "arm_bend", "arm_bends", "arms_out", "hands", "late"]],
  ["Head", ["head", "steady"]],
];

/** How somebody goes: measured, keyed over the way, read off any motion, kept under a name and laid on others. */
export function Manner({ member }: { member: Member }) {
  const way = useWay();
  const editable = useDesk((s) => canChange(s));
  return (
    <>
      <Kept member={member} editable={editable} />
      {way ? (
        TRAITS.map(([title, names]) => (
          <Section key={title} title={title}>
            {names.map((name) => (
              <Quantity key={name} name={name} member={member} way={way} editable={editable} />
            ))}
          </Section>
        ))
      ) : (
        <Section title="How it goes">Lay a way first.</Section>
      )}
    </>
  );
}

function Kept({ member, editable }: { member: Member; editable: boolean }) {
  const ink = useInks();
  const way = useWay();
  const shot = useDesk((s) => s.shot)!;
  const columns = useDesk((s) => s.columns);
  const [first, last] =
    columns.length > 1 ? [Math.min(...columns), Math.max(...columns)] : [shot.play_start, shot.play_end];
  const [name, setName] = useState("");
  const [read, setRead] = useState<Record<string, number> | null>(null);
  const client = useQueryClient();
  const production = shot.production_id;
  const path = { production_id: production };
  const kept = useQuery({
    queryKey: ["manners", production],
    queryFn: () => ask(http.GET("/api/productions/{production_id}/manners", { params: { path } })),
  });
  const renew = () => client.invalidateQueries({ queryKey: ["manners", production] });
  const reading = useMutation({
    mutationFn: () =>
      ask(
        http.GET("/api/takes/{take_id}/manner", {
          params: { path: { take_id: desk().takeId }, query: { casting: member.id, first, last } },
        }),
      ),
    onSuccess: (found) => {
      setRead(found.traits);
      say(
        `Read of ${first} to ${last}: ${found.speed.toFixed(2)} m/s, steps of ${(found.step * 100).toFixed(0)} % of ` +
          `the leg in ${found.step_frames.toFixed(1)} frames, feet ${(found.width * 100).toFixed(0)} cm apart.`,
      );
    },
    onError: (error: Error) => say(error.message, true),
  });
  const keep = useMutation({
    mutationFn: (traits: Record<string, number>) =>
      ask(
        http.POST("/api/productions/{production_id}/manners", {
          params: { path },
          body: { name: name.trim(), traits },
        }),
      ),
    onSuccess: () => {
      setName("");
      void renew();
    },
    onError: (error: Error) => say(error.message, true),
  });
  const away = useMutation({
    mutationFn: (id: number) => ask(http.DELETE("/api/manners/{manner_id}", { params: { path: { manner_id: id } } })),
    onSuccess: () => void renew(),
    onError: (error: Error) => say(error.message, true),
  });
  const lay = (manner: Record<string, number>) => way && void change({ kind: "way manner", at: way.start, manner });
  const traits =
    read ?? (way ? Object.fromEntries(TRAITS.flatMap(([, names]) => names.map((n) => [n, way.now[n]]))) : null);
  return (
    <Section title="How it goes" hint="measured, of any figure">
      <Line>
        <SmallButton onClick={() => reading.mutate()} disabled={reading.isPending}>
          {`Read ${member.name}, ${first} to ${last}`}
        </SmallButton>
        {read && way && (
          <SmallButton disabled={!editable} onClick={() => lay(read)}>
            Lay what was read
          </SmallButton>
        )}
        {way && (
          <SmallButton disabled={!editable} onClick={() => lay({})}>
            Plainly
          </SmallButton>
        )}
      </Line>
      <Line>
        <input
          aria-label="Name to keep it under"
          placeholder="Name it, to keep it"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
          style={lineField(ink)}
        />
        <SmallButton
          disabled={!editable || !name.trim() || !traits || keep.isPending}
          title={read ? "Keeps what was read" : "Keeps how it goes at the playhead"}
          onClick={() => traits && keep.mutate(traits)}
        >
          Keep
        </SmallButton>
      </Line>
      <Box role="list" aria-label="Kept" sx={{ display: "grid", gap: 0.25 }}>
        {kept.data?.map((one) => (
          <Box key={one.id} role="listitem" sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
            <Box component="span" sx={{ flex: 1, fontSize: 12.5, overflow: "hidden", textOverflow: "ellipsis" }}>
              {one.name} <Word>{one.by}</Word>
            </Box>
            <SmallButton disabled={!editable || !way} onClick={() => lay(one.traits)}>
              Go so
            </SmallButton>
            <SmallButton disabled={!editable} aria-label={`Put away ${one.name}`} onClick={() => away.mutate(one.id)}>
              Put away
            </SmallButton>
          </Box>
        ))}
      </Box>
      {kept.data && !kept.data.length && (
        <Said>Nothing is kept yet: read somebody, name it, and lay it on others.</Said>
      )}
    </Section>
  );
}
