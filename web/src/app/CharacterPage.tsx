import Alert from "@mui/material/Alert";
import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { ask, http, type Schemas } from "../api/client";
import { Choice } from "../ui/Choice";
import { SmallButton } from "../ui/SmallButton";
import { useInks } from "../ui/look";
import { Waiting } from "../ui/Waiting";
import { counted } from "../ui/counted";
import { ControlGroups } from "./ControlGroups";
import { BodyNumbers } from "./BodyNumbers";
import { FaceZones, type Face } from "./FaceZones";
import { Facing } from "./Facing";
import { SkeletonPicture } from "./SkeletonPicture";
import { TopBar } from "./TopBar";

type Detail = Schemas["CharacterDetail"];
type Roles = Record<string, string>;

/** A character: its skeleton, and which joint is which part of the body. */
export default function CharacterPage() {
  const { characterId } = useParams();
  const path = { params: { path: { character_id: Number(characterId) } } };
  const found = useQuery({
    queryKey: ["character", characterId],
    queryFn: () => ask(http.GET("/api/characters/{character_id}", path)),
  });
  if (found.isPending) return <Waiting text="Opening the character" />;
  if (found.isError) return <Waiting text={found.error.message} stopped />;
  return <Mapping key={found.data.id} character={found.data} />;
}

const FINGERS = ["thumb", "index", "middle", "ring", "little"];

/** The roles offered: those that are filled, those of a usual body, and one more of each numbered row. */
function sections(roles: Roles): { title: string; roles: string[] }[] {
  const filled = Object.keys(roles);
  if ("base" in roles) return [{ title: "Prop", roles: ["base"] }];
  const numbered = (stem: string, least: number) => {
    const used = filled.filter((r) => r.startsWith(`${stem}.`)).length;
    return Array.from({ length: Math.max(used + 1, least) }, (_, n) => `${stem}.${n + 1}`);
  };
  const limbs = [
    ...new Set([
      "arm.L",
      "arm.R",
      "leg.L",
      "leg.R",
      ...filled.flatMap((r) => r.match(/^(?:arm|leg)\d*\.[LR]/)?.[0] ?? []),
    ]),
  ].sort();
  const name = (limb: string) => `${limb.endsWith("L") ? "Left" : "Right"} ${limb.slice(0, limb.indexOf("."))}`;
  return [
    { title: "Trunk", roles: ["root", "hips", ...numbered("spine", 3)] },
    { title: "Head", roles: [...numbered("neck", 1), "head", "jaw", "eye.L", "eye.R"] },
    ...limbs.map((limb) => ({
      title: name(limb),
      roles: (limb.startsWith("arm")
        ? ["collar", "upper", "lower", "twist", "hand"]
        : ["upper", "lower", "foot", "ball", "tip"]
      ).map((p) => `${limb}.${p}`),
    })),
    ...limbs
      .filter((l) => l.startsWith("arm"))
      .map((limb) => ({
        title: `${name(limb)}: fingers`,
        roles: FINGERS.flatMap((f) => [1, 2, 3].map((n) => `${limb}.${f}.${n}`)),
      })),
  ];
}

const PLAIN: Record<string, string> = {
  root: "root (travels)",
  base: "whole of it",
  collar: "collar bone",
  upper: "upper bone",
  lower: "lower bone",
  twist: "forearm twist",
  tip: "toe tip",
  ball: "ball of the foot",
};
function label(role: string): string {
  const parts = role.split(".");
  if (parts[0] === "eye") return `eye ${parts[1]}`;
  if (/^(arm|leg)/.test(parts[0]))
    return parts.length === 4 ? `${parts[2]} ${parts[3]}` : (PLAIN[parts[2]] ?? parts[2]);
  return parts.length === 2 ? `${parts[0]} ${parts[1]}` : (PLAIN[role] ?? role);
}

/** The character with its joints turned about the vertical, seen before it is stored. */
function turnedBy(character: Detail, degrees: number): Detail {
  const [s, c] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)];
  const places = character.skeleton.places.map(([x, y, z]) => [c * x + s * z, y, c * z - s * x]);
  return { ...character, skeleton: { ...character.skeleton, places } };
}

function Mapping({ character }: { character: Detail }) {
  const ink = useInks();
  const queries = useQueryClient();
  const go = useNavigate();
  const [roles, setRoles] = useState<Roles>(character.roles);
  const [focus, setFocus] = useState<string | null>(null);
  const [side, setSide] = useState<"front" | "side" | "top">("front");
  const [stored, setStored] = useState("");
  const [turn, setTurn] = useState(0);
  const [face, setFace] = useState<Face>(character.face);
  const changed =
    JSON.stringify([roles, face]) !== JSON.stringify([character.roles, character.face]) || turn % 360 !== 0;
  const body = { roles, turn, face: "base" in roles ? {} : face };
  const turned = useMemo(() => turnedBy(character, turn), [character, turn]);
  const path = { params: { path: { character_id: character.id } } };
  const check = useQuery({
    queryKey: ["plan", character.id, roles, face],
    queryFn: () => ask(http.POST("/api/characters/{character_id}/plan/check", { ...path, body })),
    placeholderData: (before) => before,
  });
  const problems = check.data?.problems ?? {};
  const prop = "base" in roles;
  const wrong = Object.keys(problems).length;
  const parts = useMemo(() => sections(roles), [roles]);
  const users = useMemo(() => Object.fromEntries(Object.entries(roles).map(([r, j]) => [j, r])), [roles]);

  function set(role: string, joint: string | null) {
    setStored("");
    setRoles((before) => {
      const next = { ...before };
      if (joint) next[role] = joint;
      else delete next[role];
      return next;
    });
  }

  async function storedBy(act: () => Promise<Schemas["CharacterOut"]>) {
    try {
      const now = await act();
      const kept =
        now.version > character.version
          ? `, as version ${now.version}; shots that use version ${character.version} keep it`
          : "";
      setStored(`Stored: a rig of ${now.controls} controls${kept}.`);
      await queries.invalidateQueries({ queryKey: ["character", String(character.id)] });
      await queries.invalidateQueries({ queryKey: ["characters"] });
      const found = queries.getQueryData<Detail>(["character", String(character.id)]);
      if (!found) return;
      setRoles(found.roles);
      setFace(found.face);
      setTurn(0);
    } catch (error) {
      setStored((error as Error).message);
    }
  }
  const store = () => storedBy(() => ask(http.PUT("/api/characters/{character_id}/plan", { ...path, body })));
  const squash = () => storedBy(() => ask(http.POST("/api/characters/{character_id}/squash", path)));

  const [numbers, setNumbers] = useState(false);
  const [grouping, setGrouping] = useState(false);

  async function tryIt() {
    const shot = await ask(
      http.POST("/api/productions/{production_id}/shots", {
        params: { path: { production_id: character.production_id } },
        body: { name: `${character.name}, first poses`, character_ids: [character.id], fps: 24, start: 1, end: 48 },
      }),
    );
    go(`/shots/${shot.id}`);
  }

  return (
    <Box sx={{ height: "100%", display: "flex", flexDirection: "column" }}>
      {numbers && <BodyNumbers id={character.id} can={character.can_change} onClose={() => setNumbers(false)} />}
      {grouping && <ControlGroups id={character.id} can={character.can_change} onClose={() => setGrouping(false)} />}
      <TopBar>
        <Box component={Link} to={`/productions/${character.production_id}`} sx={{ color: "inherit", opacity: 0.8 }}>
          Shots and characters
        </Box>
        <span aria-hidden style={{ opacity: 0.5 }}>
          ·
        </span>
        <Box component="h1" sx={{ fontSize: 14, m: 0 }}>
          {character.name}
        </Box>
      </TopBar>
      <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 460px" }}>
        <Box sx={{ position: "relative", bgcolor: ink.sheet }}>
          <SkeletonPicture
            character={turned}
            users={users}
            focus={focus ? (roles[focus] ?? null) : null}
            problems={new Set(Object.keys(problems).flatMap((r) => roles[r] ?? []))}
            from={side}
            onPick={(joint) => (focus && character.can_change ? set(focus, joint) : setFocus(users[joint] ?? null))}
          />
          <Box sx={{ position: "absolute", left: 12, top: 12, display: "flex", gap: 1 }}>
            <Choice
              label="Seen from"
              show
              value={side}
              options={[
                { value: "front", label: "the front" },
                { value: "side", label: "the left side" },
                { value: "top", label: "above" },
              ]}
              onChange={setSide}
            />
          </Box>
          <Box sx={{ position: "absolute", left: 12, bottom: 12, right: 12, color: ink.faint, fontSize: 12 }}>
            {counted(character.joints, "joint")}, {counted(character.triangles, "triangle")},{" "}
            {character.height.toFixed(2)} m.{" "}
            {focus
              ? `Click a joint to make it “${label(focus)}”.`
              : "Click a joint to see its role, or a role to see its joint."}
            {character.notes.map((note) => (
              <div key={note}>Note: {note}.</div>
            ))}
          </Box>
        </Box>
        <Box
          sx={{
            borderLeft: 1,
            borderColor: "divider",
            bgcolor: ink.paper,
            display: "flex",
            flexDirection: "column",
            minHeight: 0,
          }}
        >
          <Box sx={{ p: 2, pb: 1 }}>
            {character.problem && (
              <Alert severity="warning" sx={{ mb: 1 }}>
                This character has no rig yet: {character.problem}. It can play once its joints are mapped here.
              </Alert>
            )}
            <Facing
              facing={character.facing - turn}
              disabled={!character.can_change}
              onTurn={(by) => {
                setStored("");
                setTurn((turn + by) % 360);
              }}
            />
            <Box sx={{ display: "flex", alignItems: "center", gap: 1, mb: 0.5 }}>
              <Box component="h2" sx={{ fontSize: 16, m: 0, flex: 1 }}>
                {prop ? "Prop" : "Body plan"}
              </Box>
              <SmallButton
                disabled={changed || !!character.problem}
                onClick={() => setGrouping(true)}
                title="Controls that are hidden and shown together, such as hair or a coat"
              >
                Groups
              </SmallButton>
              <SmallButton
                disabled={changed || !!character.problem}
                onClick={() => setNumbers(true)}
                title={
                  prop
                    ? "What its parts weigh, and where that lies"
                    : "How far its joints turn while it is pulled, and what its parts weigh"
                }
              >
                {prop ? "Weight" : "Ranges and weights"}
              </SmallButton>
              <SmallButton
                disabled={!character.can_change}
                onClick={() => {
                  setStored("");
                  setFocus(null);
                  setRoles(prop ? {} : { base: character.skeleton.names[character.skeleton.parents.indexOf(-1)] });
                }}
                title={prop ? "Map its joints to the parts of a body" : "A thing without a body: its joints are parts"}
              >
                {prop ? "It has a body" : "It is a prop"}
              </SmallButton>
            </Box>
            <Box sx={{ color: ink.faint }}>
              {prop
                ? "A thing: one joint carries the whole of it, and every joint below is a part that moves."
                : "Which joint is which part. The rig is built from this; a joint without a role gets a plain control."}
            </Box>
          </Box>
          <Box sx={{ flex: 1, overflowY: "auto", px: 2, pb: 2 }}>
            {parts.map((part) => (
              <Box
                key={part.title}
                component="fieldset"
                disabled={!character.can_change}
                sx={{ border: 0, p: 0, m: 0, mb: 1.5 }}
              >
                <Box
                  component="legend"
                  sx={{
                    fontWeight: 700,
                    mb: 0.5,
                    color: part.title.startsWith("Left")
                      ? ink.left
                      : part.title.startsWith("Right")
                        ? ink.right
                        : ink.ink,
                  }}
                >
                  {part.title}
                </Box>
                {part.roles.map((role) => (
                  <Box key={role} sx={{ mb: 0.25 }}>
                    <Box sx={{ display: "grid", gridTemplateColumns: "118px 1fr 62px", alignItems: "center", gap: 1 }}>
                      <Box
                        component="label"
                        htmlFor={role}
                        sx={{ color: role === focus ? ink.blue : ink.ink, fontWeight: role === focus ? 700 : 400 }}
                      >
                        {label(role)}
                      </Box>
                      <Autocomplete
                        id={role}
                        size="small"
                        options={character.skeleton.names}
                        value={roles[role] ?? null}
                        disabled={!character.can_change}
                        onChange={(_, joint) => set(role, joint)}
                        onFocus={() => setFocus(role)}
                        sx={{ "& .MuiInputBase-root": { height: 28, fontSize: 13, py: "0 !important" } }}
                        renderInput={(p) => <TextField {...p} placeholder="none" error={role in problems} />}
                      />
                      <Box sx={{ fontSize: 11, color: ink.faint }}>
                        {roles[role]
                          ? { name: "by name", shape: "by shape", hand: "by hand" }[
                              roles[role] === character.roles[role] ? (character.found_by[role] ?? "name") : "hand"
                            ]
                          : ""}
                      </Box>
                    </Box>
                    {problems[role] && (
                      <Box role="alert" sx={{ color: ink.red, fontSize: 12, pl: "126px" }}>
                        {problems[role]}
                      </Box>
                    )}
                  </Box>
                ))}
              </Box>
            ))}
            {!prop && (
              <FaceZones
                character={character}
                taken={new Set(Object.values(roles))}
                face={face}
                problems={problems}
                onChange={(now) => {
                  setStored("");
                  setFace(now);
                }}
                onSquash={changed ? null : () => void squash()}
              />
            )}
          </Box>
          <Box sx={{ p: 2, borderTop: 1, borderColor: "divider", display: "grid", gap: 1 }}>
            {stored && <Alert severity={stored.startsWith("Stored") ? "success" : "error"}>{stored}</Alert>}
            {Object.keys(problems).length > 0 && (
              <Box sx={{ color: ink.red }}>
                {wrong === 1 ? "One thing keeps" : `${wrong} things keep`} the rig from being built: see the red lines.
              </Box>
            )}
            <Box sx={{ display: "flex", gap: 1 }}>
              <Button
                variant="contained"
                disabled={!changed || Object.keys(problems).length > 0 || !character.can_change}
                onClick={() => void store()}
              >
                Store and build the rig
              </Button>
              <Button
                disabled={!changed}
                onClick={() => {
                  setRoles(character.roles);
                  setFace(character.face);
                  setTurn(0);
                }}
              >
                Undo changes
              </Button>
              <Box sx={{ flex: 1 }} />
              <Button
                variant="outlined"
                disabled={changed || !character.can_change || !!character.problem}
                onClick={() => void tryIt()}
              >
                Pose in a new shot
              </Button>
            </Box>
          </Box>
        </Box>
      </Box>
    </Box>
  );
}
