import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { ask, http, type Schemas } from "../api/client";
import { Confirm } from "../ui/Confirm";
import { useInks } from "../ui/look";
import { Waiting } from "../ui/Waiting";
import { counted } from "../ui/counted";
import { BringIn } from "./BringIn";
import { Invitations } from "./Invitations";
import { Members } from "./Members";
import { NewProduction } from "./NewProduction";
import { NewShot } from "./NewShot";
import { AwayList, CardMenu, PutAway, setAway } from "./PutAway";
import { TopBar } from "./TopBar";

/** Productions, and of one of them the shots and characters. */
export default function Shots() {
  const ink = useInks();
  const { productionId } = useParams();
  const productions = useQuery({ queryKey: ["productions"], queryFn: () => ask(http.GET("/api/productions")) });
  const [asked, setAsked] = useState<"production" | "shot" | "members" | null>(null);
  if (productions.isPending) return <Waiting text="Opening the productions" />;
  if (productions.isError)
    return <Waiting text={productions.error.message} stopped onRetry={() => void productions.refetch()} />;
  const chosen = productions.data.find((p) => String(p.id) === productionId) ?? productions.data[0];
  return (
    <Box sx={{ minHeight: "100%", display: "flex", flexDirection: "column", bgcolor: ink.paper }}>
      <TopBar />
      <Box sx={{ display: "flex", flex: 1 }}>
        <Box
          component="nav"
          aria-label="Productions"
          sx={{
            width: 220,
            borderRight: 1,
            borderColor: "divider",
            p: 1.5,
            display: "grid",
            gap: 0.5,
            alignContent: "start",
          }}
        >
          <Box component="h2" sx={{ fontSize: 12, m: 0, mb: 0.5, color: ink.faint }}>
            Productions
          </Box>
          {productions.data.map((p) => (
            <Box
              key={p.id}
              component={Link}
              to={`/productions/${p.id}`}
              aria-current={p.id === chosen?.id ? "page" : undefined}
              sx={{
                px: 1,
                py: 0.75,
                borderRadius: 1,
                textDecoration: "none",
                color: ink.ink,
                bgcolor: p.id === chosen?.id ? ink.sheet : "transparent",
                fontWeight: p.id === chosen?.id ? 700 : 400,
                borderLeft: 3,
                borderColor: p.id === chosen?.id ? ink.blue : "transparent",
              }}
            >
              {p.name}
              <Box sx={{ fontSize: 12, color: ink.faint, fontWeight: 400 }}>{p.role}</Box>
            </Box>
          ))}
          <Button onClick={() => setAsked("production")} sx={{ justifyContent: "flex-start" }}>
            New production…
          </Button>
          <ProductionsAway />
        </Box>
        {chosen ? (
          <Production
            key={chosen.id}
            production={chosen}
            onShot={() => setAsked("shot")}
            onMembers={() => setAsked("members")}
          />
        ) : (
          <Box sx={{ p: 4, color: ink.faint, flex: 1 }}>
            <Invitations />
            You have no production yet. Begin one with “New production…”, or ask a lead to ask you into theirs.
          </Box>
        )}
      </Box>
      {asked === "production" && <NewProduction onClose={() => setAsked(null)} />}
      {asked === "shot" && chosen && <NewShot production={chosen} onClose={() => setAsked(null)} />}
      {asked === "members" && chosen && <Members production={chosen} onClose={() => setAsked(null)} />}
    </Box>
  );
}

function Production({
  production,
  onShot,
  onMembers,
}: {
  production: Schemas["ProductionOut"];
  onShot: () => void;
  onMembers: () => void;
}) {
  const ink = useInks();
  const at = { params: { path: { production_id: production.id } } };
  const shots = useQuery({
    queryKey: ["shots", production.id],
    queryFn: () => ask(http.GET("/api/productions/{production_id}/shots", at)),
    refetchOnMount: "always",
  });
  const characters = useQuery({
    queryKey: ["characters", production.id],
    queryFn: () => ask(http.GET("/api/productions/{production_id}/characters", at)),
  });
  const changes = production.role !== "guest";
  const queries = useQueryClient();
  const go = useNavigate();
  const [problem, setProblem] = useState("");
  const [leaving, setLeaving] = useState(false);
  const again = () => {
    setProblem("");
    void queries.invalidateQueries({ queryKey: ["shots", production.id] });
    void queries.invalidateQueries({ queryKey: ["characters", production.id] });
  };
  const able = characters.data?.filter((c) => !c.problem) ?? [];
  return (
    <Box component="main" sx={{ flex: 1, p: 3, minWidth: 0 }}>
      <Invitations />
      {problem && (
        <Alert severity="error" sx={{ mb: 1 }} onClose={() => setProblem("")}>
          {problem}
        </Alert>
      )}
      {characters.isError && (
        <Alert severity="error" sx={{ mb: 1 }}>
          The characters cannot be listed: {characters.error.message}
        </Alert>
      )}
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, mb: 2 }}>
        <Box component="h1" sx={{ fontSize: 22, m: 0, flex: 1 }}>
          {production.name}
        </Box>
        <Button variant="outlined" onClick={onMembers}>
          People
        </Button>
        {changes && (
          <Button variant="outlined" onClick={() => setLeaving(true)}>
            Put away…
          </Button>
        )}
        {changes && (
          <Button variant="contained" onClick={onShot} disabled={!able.length}>
            New shot…
          </Button>
        )}
      </Box>
      {leaving && (
        <Confirm
          title={`Put ${production.name} away?`}
          yes="Put it away"
          no="Leave it"
          onAnswer={(yes) => {
            setLeaving(false);
            if (yes)
              setAway({ kind: "production", id: production.id, name: production.name }, true).then(
                () => {
                  void queries.invalidateQueries({ queryKey: ["productions"] });
                  go("/");
                },
                (error: Error) => setProblem(error.message),
              );
          }}
        >
          Nobody sees it then, and nothing of it is lost: an animator or lead of it brings it back from the list on the
          left.
        </Confirm>
      )}
      <Heading>Shots</Heading>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "repeat(auto-fill, minmax(208px, 1fr))",
          gap: 2,
          mb: 4,
          maxWidth: 1000,
        }}
      >
        {shots.data?.map((shot) => (
          <ShotCard
            key={shot.id}
            shot={shot}
            menu={
              changes && (
                <CardMenu
                  what={{ kind: "shot", id: shot.id, name: shot.name }}
                  onDone={again}
                  onError={(e) => setProblem(e.message)}
                />
              )
            }
          />
        ))}
        {shots.data?.length === 0 && (
          <Box sx={{ color: ink.faint, gridColumn: "1 / -1" }}>
            No shots yet.{" "}
            {characters.data?.length
              ? "Begin one with “New shot…”."
              : "Bring in a character first: every shot has a cast."}
          </Box>
        )}
      </Box>
      <Heading>Characters and props</Heading>
      <Box
        sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(208px, 1fr))", gap: 2, maxWidth: 1000 }}
      >
        {characters.data?.map((c) => (
          <Box
            key={c.id}
            component={Link}
            to={`/characters/${c.id}`}
            sx={{
              p: 1.5,
              border: 1,
              borderColor: "divider",
              borderRadius: 1,
              bgcolor: ink.sheet,
              textDecoration: "none",
              color: ink.ink,
              "&:hover": { borderColor: ink.blue },
            }}
          >
            <Box sx={{ display: "flex", alignItems: "start", gap: 1 }}>
              <Box component="b" sx={{ flex: 1 }}>
                {c.name}
              </Box>
              {changes && (
                <CardMenu
                  what={{ kind: "character", id: c.id, name: c.name }}
                  onDone={again}
                  onError={(e) => setProblem(e.message)}
                />
              )}
            </Box>
            <Box sx={{ color: ink.faint, fontSize: 12, mt: 0.5 }}>
              {c.problem ? (
                <Box component="span" sx={{ color: ink.red }}>
                  No rig yet: map its joints.{" "}
                </Box>
              ) : null}
              {c.prop ? "Prop: " : ""}
              {counted(c.joints, "joint")}, {counted(c.controls, "control")}, {counted(c.triangles, "triangle")},{" "}
              {c.height.toFixed(2)} m{c.version > 1 ? `, version ${c.version}` : ""}
            </Box>
          </Box>
        ))}
        {changes && <BringIn productionId={production.id} />}
      </Box>
      {changes && <PutAway production={production} />}
    </Box>
  );
}

/** Productions that were put away; folded up until asked for. */
function ProductionsAway() {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const away = useQuery({
    queryKey: ["productions", "away"],
    queryFn: () => ask(http.GET("/api/productions", { params: { query: { away: true } } })),
    enabled: open,
  });
  return (
    <>
      <Button onClick={() => setOpen(!open)} aria-expanded={open} sx={{ justifyContent: "flex-start" }}>
        Put away
      </Button>
      {open && away.data?.length === 0 && <Box sx={{ px: 1, fontSize: 12 }}>None.</Box>}
      {open && (
        <AwayList
          title=""
          things={(away.data ?? []).map((p) => ({ kind: "production", id: p.id, name: p.name }))}
          role={(what) => away.data?.find((p) => p.id === what.id)?.role ?? "guest"}
          onChanged={() => void queries.invalidateQueries({ queryKey: ["productions"] })}
        />
      )}
    </>
  );
}

const Heading = ({ children }: { children: ReactNode }) => (
  <Box component="h2" sx={{ fontSize: 14, m: 0, mb: 1 }}>
    {children}
  </Box>
);

function ShotCard({ shot, menu }: { shot: Schemas["ShotSummary"]; menu: ReactNode }) {
  const ink = useInks();
  const seconds = ((shot.end - shot.start + 1) / shot.fps).toFixed(1);
  return (
    <Box
      component={Link}
      to={`/shots/${shot.id}`}
      sx={{
        border: 1,
        borderColor: "divider",
        borderRadius: 1,
        overflow: "hidden",
        bgcolor: ink.sheet,
        textDecoration: "none",
        color: ink.ink,
        "&:hover, &:focus-visible": { borderColor: ink.blue },
      }}
    >
      {shot.thumbnail ? (
        <Box
          sx={{
            aspectRatio: "4 / 3",
            backgroundImage: `url(/api/shots/${shot.id}/thumbnail.png?${encodeURIComponent(shot.changed_at)})`,
            backgroundSize: "800% 100%",
            animation: "hame-moving 1.2s steps(8) infinite",
            "@keyframes hame-moving": {
              from: { backgroundPosition: "0% 0" },
              to: { backgroundPosition: "114.2857% 0" },
            },
            "@media (prefers-reduced-motion: reduce)": { animation: "none" },
          }}
        />
      ) : (
        <Box
          sx={{
            aspectRatio: "4 / 3",
            display: "grid",
            placeContent: "center",
            color: ink.faint,
            fontSize: 12,
            bgcolor: ink.floor,
          }}
        >
          Not opened yet
        </Box>
      )}
      <Box sx={{ p: 1.25, borderTop: 1, borderColor: "divider" }}>
        <Box sx={{ display: "flex", alignItems: "start", gap: 1 }}>
          <Box component="b" sx={{ flex: 1 }}>
            {shot.name}
          </Box>
          {menu}
        </Box>
        <Box sx={{ color: ink.faint, fontSize: 12 }}>
          {shot.cast.join(", ")} · {shot.end - shot.start + 1} frames at {shot.fps}, {seconds} s ·{" "}
          {counted(shot.takes, "take")}
        </Box>
      </Box>
    </Box>
  );
}
