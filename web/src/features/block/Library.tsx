import Box from "@mui/material/Box";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, http, type Schemas, send } from "../../api/client";
import { leaveTry, tryEdit } from "../../desk/posing";
import { partsActedOn } from "../../desk/selecting";
import { commit, say } from "../../desk/steps";
import { pictureAt } from "../../desk/pictures";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import type { AnyEdit } from "../../model/types";
import { KindsKeyed } from "../../desk/widgets/KindsKeyed";
import { Line, Section } from "../../ui/Section";
import { CarryHere } from "../../desk/widgets/CarryHere";
import { Share } from "../../ui/Share";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { lineField, useInks } from "../../ui/look";
import { PART, useRoving } from "../../ui/roving";

type Pose = Schemas["LibraryPoseOut"];

const told = (p: Pose) =>
  `${p.name}, from ${p.character}: ${p.channels} channels of ${p.controls.length} controls` +
  `${p.with_master ? ", with the master's place" : ""}. Stored by ${p.made_by}.`;

/** Stored poses: found by name, laid whole or by a share, on this or another character. */
export function Library({ member }: { member: Member }) {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const frame = useDesk((s) => s.frame);
  const client = useQueryClient();
  const [find, setFind] = useState("");
  const [chosen, setChosen] = useState<number | null>(null);
  const [name, setName] = useState("");
  const [master, setMaster] = useState(false);
  const [mirror, setMirror] = useState(false);
  const keys = useRoving<HTMLDivElement>("plane");
  const production = shot.production_id;
  const poses = useQuery({
    queryKey: ["poses", production, find],
    queryFn: () =>
      ask(
        http.GET("/api/productions/{production_id}/poses", {
          params: { path: { production_id: production }, query: { find } },
        }),
      ),
  });
  const renew = () => client.invalidateQueries({ queryKey: ["poses", production] });
  const others = useDesk((s) => !member.prop && s.cast.some((other) => other.id !== member.id && !other.prop));
  const keep = useMutation({
    mutationFn: async () => {
      const controls = partsActedOn();
      if (controls === undefined) return null;
      const { takeId, kinds } = desk();
      const body = { name: name.trim(), take: takeId, casting: member.id, frame, controls, kinds, with_master: master };
      const made = await ask(
        http.POST("/api/productions/{production_id}/poses", { params: { path: { production_id: production } }, body }),
      );
      const picture = pictureAt(frame, { width: 96, height: 96, sheet: ink.sheet, view: "quarter", of: [member] });
      const blob = picture && (await new Promise<Blob | null>((done) => picture.toBlob(done, "image/png")));
      if (blob) await send("PUT", `/api/poses/${made.id}/picture`, blob).catch(() => undefined);
      return made;
    },
    onSuccess: (made) => {
      if (!made) return;
      say(`${made.name} is in the library: ${made.channels} channels of ${made.controls.length} controls.`);
      setName("");
      setChosen(made.id);
      void renew();
    },
    onError: (error) => say(error.message, true),
  });
  const aside = useMutation({
    mutationFn: (pose: Pose) =>
      ask(http.PATCH("/api/poses/{pose_id}", { params: { path: { pose_id: pose.id } }, body: { set_aside: true } })),
    onSuccess: (pose) => {
      say(`${pose.name} is set aside.`);
      void renew();
    },
    onError: (error) => say(error.message, true),
  });
  const lay = (percent: number): AnyEdit | null => {
    const controls = partsActedOn();
    const { mirrored, keying, shape } = desk();
    if (controls === undefined || chosen === null) return null;
    return {
      kind: "lay",
      frame,
      pose: chosen,
      share: percent / 100,
      controls,
      with_master: master,
      mirrored: mirror ? mirrored : null,
      keying,
      shape,
    };
  };
  const pose = poses.data?.find((p) => p.id === chosen);
  return (
    <>
      <Section title="Store the pose" hint={`of ${member.name} at ${frame}`}>
        <Line>
          <input
            aria-label="Name for the library"
            placeholder="Name"
            value={name}
            maxLength={100}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => e.stopPropagation()}
            style={{ flex: 1, minWidth: 0, ...lineField(ink) }}
          />
          <SmallButton disabled={!name.trim() || keep.isPending || !canChange()} onClick={() => keep.mutate()}>
            Store
          </SmallButton>
        </Line>
        <Line>
          <KindsKeyed title="Channels that are stored and keyed" label="Channels…" />
          <Tick label="With the master’s place" on={master} onChange={setMaster} />
        </Line>
      </Section>
      {others && (
        <Section title="A whole motion" hint="of another of the cast">
          <CarryHere member={member} />
        </Section>
      )}
      <Section title="Library">
        <input
          aria-label="Find a pose"
          placeholder="Find by name or character"
          value={find}
          onChange={(e) => setFind(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
          style={lineField(ink)}
        />
        {poses.data?.length === 0 && (
          <Box sx={{ color: ink.faint }}>{find ? "No pose is called that." : "No poses yet: store one above."}</Box>
        )}
        <Box
          sx={{ display: "grid", gridTemplateColumns: "repeat(3, 1fr)", gap: 0.5 }}
          role="listbox"
          aria-label="Poses"
          {...keys}
        >
          {poses.data?.map((p) => (
            <Box
              component="button"
              role="option"
              {...PART}
              key={p.id}
              aria-selected={p.id === chosen}
              title={told(p)}
              onClick={() => setChosen(p.id)}
              sx={{
                p: 0,
                border: p.id === chosen ? 2 : 1,
                borderColor: p.id === chosen ? ink.blue : ink.line,
                borderRadius: 1,
                bgcolor: ink.sheet,
                color: ink.ink,
                font: "inherit",
                fontSize: 11.5,
                cursor: "pointer",
                overflow: "hidden",
              }}
            >
              {p.picture ? (
                <img
                  src={`/api/poses/${p.id}/picture.png`}
                  alt=""
                  style={{ width: "100%", display: "block", aspectRatio: "1" }}
                />
              ) : (
                <Box sx={{ aspectRatio: "1" }} />
              )}
              <Box sx={{ px: 0.5, pb: 0.25, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}>
                {p.name}
              </Box>
            </Box>
          ))}
        </Box>
      </Section>
      {pose && (
        <Section title={`Lay ${pose.name}`} hint={`on ${member.name} at ${frame}`}>
          <Share
            key={`${pose.id}-${frame}`}
            label="Share"
            low={0}
            high={100}
            start={100}
            marks={[
              { at: 0, label: "now" },
              { at: 50, label: "half" },
              { at: 100, label: "whole" },
            ]}
            onTry={(v) => {
              const e = lay(v);
              if (e) tryEdit(e);
            }}
            onDone={(v) => {
              const e = lay(v);
              if (e) void commit(e);
            }}
            onLeave={leaveTry}
          />
          {pose.with_master && <Tick label="At its master’s place too" on={master} onChange={setMaster} />}
          <Tick label="Mirrored" on={mirror} onChange={setMirror} />
          <Line>
            <SmallButton onClick={() => aside.mutate(pose)}>Set aside</SmallButton>
          </Line>
        </Section>
      )}
    </>
  );
}
