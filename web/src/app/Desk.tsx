import Box from "@mui/material/Box";
import useMediaQuery from "@mui/material/useMediaQuery";
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useParams } from "react-router-dom";
import { Group, Panel, Separator } from "react-resizable-panels";
import { send } from "../api/client";
import { Block } from "../features/block/Block";
import { BodyMap } from "../features/bodymap/BodyMap";
import { Channels } from "../features/channels/Channels";
import { History } from "../features/history/History";
import { PlantBench } from "../features/plant/PlantBench";
import { PlantRows } from "../features/plant/PlantRows";
import { BelongingRows } from "../features/props/BelongingRows";
import { PropsBench } from "../features/props/PropsBench";
import { PullPanel } from "../features/pull/PullPanel";
import { Reference } from "../features/reference/Reference";
import { HandOff } from "../features/shotbar/HandOff";
import { Cast } from "../features/shotbar/Cast";
import { Help } from "../features/shotbar/Help";
import { LABELS } from "../features/sheet/paint";
import { Sheet } from "../features/sheet/Sheet";
import { ShotBar } from "../features/shotbar/ShotBar";
import { Stage } from "../features/stage/Stage";
import { Strip } from "../features/strip/Strip";
import { BALANCE_HIGH, BalanceRow } from "../features/weight/BalanceRow";
import { WeightBench } from "../features/weight/WeightBench";
import { Boundary } from "../ui/Boundary";
import { Confirm } from "../ui/Confirm";
import { day } from "../theme";
import { useInks } from "../ui/look";
import { type RowsPlace, rowsHigh } from "../ui/SpanRows";
import { Waiting } from "../ui/Waiting";
import { belongingRows } from "../desk/belonging";
import { watchFaults } from "../desk/faults";
import { watchBalance } from "../desk/weight";
import { leaveTake, openTake } from "../desk/opening";
import { pressed, PRESSABLE } from "../desk/keys";
import { pictureAt, pictures } from "../desk/pictures";
import { setLooks } from "../desk/viewing";
import { active, canChange, desk, useDesk } from "../desk/store";

const CurvesBench = lazy(() => import("../features/curves/CurvesBench"));
const ArcsBench = lazy(() => import("../features/arcs/ArcsBench"));
const Graph = lazy(() => import("../features/graph/Graph"));

type Bench = "pose" | "block" | "plant" | "curves" | "arcs" | "weight" | "props" | "handoff";
const BENCHES: { name: Bench; label: string; path: string }[] = [
  // A figure with a raised arm; two poses and a breakdown between; a sole on the ground; a pair of scales; a can that a
  // hand holds; a sheet that leaves a tray.
  { name: "pose", label: "Pose", path: "M11 3.2a2 2 0 1 1-.01 0M11 8v6M11 14l-4 6M11 14l4 6M11 9l-5 3M11 9l6-4" },
  { name: "block", label: "Block", path: "M3.5 5h5v12h-5zM13.5 5h5v12h-5zM11 8v6M3 20h6M14 20h5" },
  { name: "plant", label: "Plant", path: "M8 2.5v8c0 2 1 3 3 3.4l6 1.1v2H5.5v-3M2 20h18M5 3h6" },
  // A curve between two keys with a handle; a swing of marks.
  { name: "curves", label: "Curves", path: "M3 18C8 18 9 5 19 5M3 18v.01M19 5v.01M9 5h10M17.5 3.5v3" },
  {
    name: "arcs",
    label: "Arcs",
    path: "M3 15C6 4 16 4 19 15M3 15v.01M6 9.5v.01M11 6.7v.01M16 9.5v.01M19 15v.01M3 19h16",
  },
  {
    name: "weight",
    label: "Weight",
    path: "M11 3v14M4 6h14M4 6l-2 6h4zM18 6l-2 6h4zM7 19h8",
  },
  { name: "props", label: "Props", path: "M7 9h8l1.5 11h-11zM8 9c0-6 6-6 6 0M11 2v2M9 14h4" },
  { name: "handoff", label: "Hand-off", path: "M4 13v6h14v-6M11 15V4M7 8l4-4 4 4" },
];

/** Where a laptop's browser leaves so little height, the body map stands beside the channels, not above them. */
const SHORT = "(max-height: 720px)";

export default function Desk() {
  const ink = useInks();
  const { shotId, takeId } = useParams();
  const [problem, setProblem] = useState("");
  const [open, setOpen] = useState(false);
  const [bench, setBench] = useState<Bench>("pose");
  const [history, setHistory] = useState(false);
  const [help, setHelp] = useState(false);
  const [casting, setCasting] = useState(false);
  const short = useMediaQuery(SHORT);
  const wide = short && !history && bench !== "handoff";
  const closeHistory = useCallback(() => setHistory(false), []);
  const full = useDesk((s) => s.looks.full);
  const reference = useDesk((s) => s.looks.reference);
  const opened = useDesk((s) => s.opened);
  const cast = useDesk((s) => s.cast);
  const member = useDesk((s) => active(s));

  useEffect(() => {
    let current = true;
    openTake(Number(shotId), takeId ? Number(takeId) : undefined).then(
      () => {
        if (!current) return;
        setProblem("");
        setOpen(true);
      },
      (error: Error) => current && setProblem(error.message),
    );
    return () => {
      current = false;
    };
  }, [shotId, takeId]);

  useEffect(() => () => leaveTake(), []);
  useEffect(() => (open ? watchFaults("contacts") : undefined), [open]);
  useEffect(() => {
    // The bench shows the weight on the stage; leaving it takes it away again.
    if (!open) return;
    const weight = bench === "weight";
    setLooks({ weight, rays: weight, across: weight });
    return bench === "weight" ? watchBalance() : undefined;
  }, [open, bench]);

  useHotkeys(PRESSABLE, (event, { hotkey }) => pressed(event, hotkey));
  useHotkeys("?", () => setHelp(true), { useKey: true });

  useThumbnail();

  if (problem) return <Waiting text={problem} stopped />;
  if (!open) return <Waiting text="Opening the shot" />;
  // What the bench shows in rows of the strip.
  const carried = bench === "props" ? belongingRows(cast).length : 0;
  const weighed = bench === "weight" && member && !member.prop;
  const high = weighed
    ? BALANCE_HIGH
    : rowsHigh(bench === "plant" ? (member?.rig.limbs.length ?? 0) : Math.min(carried, 8));
  const rows = (place: RowsPlace) =>
    weighed ? (
      <BalanceRow member={member} {...place} />
    ) : bench === "plant" && member ? (
      <PlantRows member={member} {...place} />
    ) : (
      <BelongingRows cast={cast} {...place} />
    );
  const bar = <Separator style={{ width: 4, background: ink.line }} />;
  return (
    <Box sx={{ height: "100%", display: "flex", flexDirection: "column", overflow: "hidden" }}>
      <Boundary name="The bar">
        <ShotBar onCast={() => setCasting(true)} onHistory={() => setHistory(!history)} onHelp={() => setHelp(true)} />
      </Boundary>
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        {!full && (
          <Box
            component="nav"
            aria-label="Benches"
            sx={{
              width: 60,
              flex: "none",
              bgcolor: ink.paper,
              borderRight: 1,
              borderColor: "divider",
              display: "flex",
              flexDirection: "column",
              pt: 0.5,
            }}
          >
            {BENCHES.map((b) => (
              <Box
                component="button"
                key={b.name}
                aria-pressed={bench === b.name}
                onClick={() => setBench(b.name)}
                sx={{
                  border: 0,
                  borderLeft: 3,
                  borderColor: bench === b.name ? ink.blue : "transparent",
                  bgcolor: bench === b.name ? ink.sheet : "transparent",
                  color: ink.ink,
                  py: 0.75,
                  font: "inherit",
                  fontSize: 11,
                  cursor: "pointer",
                  display: "grid",
                  justifyItems: "center",
                  gap: 0.25,
                  "&:focus-visible": { outline: `2px solid ${ink.blue}` },
                }}
              >
                <svg
                  width="22"
                  height="22"
                  viewBox="0 0 22 22"
                  fill="none"
                  stroke={bench === b.name ? ink.blue : ink.ink}
                  strokeWidth="1.8"
                  strokeLinecap="round"
                  strokeLinejoin="round"
                  aria-hidden
                >
                  <path d={b.path} />
                </svg>
                {b.label}
              </Box>
            ))}
          </Box>
        )}
        <Group orientation="vertical" style={{ flex: 1 }}>
          <Panel minSize={200}>
            <Group orientation="horizontal">
              {!full && reference && (
                <Panel defaultSize={196} minSize={150} maxSize={520} style={{ background: ink.paper }}>
                  <Boundary name="The reference">
                    <Reference />
                  </Boundary>
                </Panel>
              )}
              {!full && reference && bar}
              <Panel minSize={400}>
                <Boundary name="The stage">
                  <Stage />
                </Boundary>
              </Panel>
              {(!full || history) && bar}
              {(!full || history) && (
                <Panel
                  key={wide ? "wide" : "narrow"}
                  defaultSize={wide ? 500 : 288}
                  minSize={240}
                  maxSize={640}
                  style={{ background: ink.paper, display: "flex", flexDirection: "column", minHeight: 0 }}
                >
                  {history ? (
                    <Boundary name="The history">
                      <History onClose={closeHistory} />
                    </Boundary>
                  ) : (
                    <Side bench={bench} short={short} />
                  )}
                </Panel>
              )}
            </Group>
          </Panel>
          {!full && <Separator style={{ height: 4, background: ink.line }} />}
          {!full && (
            <Panel
              key={`${opened} ${high}`}
              defaultSize={(opened === "graph" ? 400 : opened ? 340 : 160) + high}
              minSize={opened ? 200 : 84}
              maxSize={560}
            >
              <Boundary name="The strip">
                <Strip
                  inset={
                    opened === "sheet" ? LABELS : high ? (bench === "props" ? 110 : bench === "weight" ? 56 : 44) : 0
                  }
                  between={high ? { high, rows } : undefined}
                  below={
                    opened && member
                      ? (place) => (
                          <Boundary key={opened} name={opened === "graph" ? "The graph" : "The sheet"}>
                            {opened === "graph" ? (
                              <Suspense fallback={<Waiting text="The graph is opened." />}>
                                <Graph member={member} />
                              </Suspense>
                            ) : (
                              <Sheet member={member} {...place} />
                            )}
                          </Boundary>
                        )
                      : undefined
                  }
                />
              </Boundary>
            </Panel>
          )}
        </Group>
      </Box>
      <QuestionAsked />
      <Cast open={casting} onClose={() => setCasting(false)} />
      <Help open={help} onClose={() => setHelp(false)} />
    </Box>
  );
}

/** The panels of a bench: the hand-off, or the body map above what the bench is for, on a short screen beside it. */
function Side({ bench, short }: { bench: Bench; short: boolean }) {
  const ink = useInks();
  const pulling = useDesk((s) => s.tool === "pull");
  if (bench === "handoff")
    return (
      <Boundary name="The hand-off">
        <HandOff />
      </Boundary>
    );
  return (
    <Group orientation={short ? "horizontal" : "vertical"} key={`${bench} ${short}`}>
      <Panel
        defaultSize={short ? 216 : bench === "pose" ? 270 : bench === "curves" || bench === "arcs" ? 176 : 226}
        minSize={140}
      >
        <Boundary name="The body map">
          <BodyMap />
        </Boundary>
      </Panel>
      <Separator style={{ [short ? "width" : "height"]: 4, background: ink.line }} />
      <Panel minSize={short ? 280 : 150}>
        <Boundary key={bench} name={bench === "pose" ? "The channels" : "The bench"}>
          {bench === "pose" ? (
            pulling ? (
              <PullPanel />
            ) : (
              <Channels />
            )
          ) : bench === "block" ? (
            <Block />
          ) : bench === "plant" ? (
            <PlantBench />
          ) : bench === "curves" || bench === "arcs" ? (
            <Suspense fallback={<Waiting text="The bench is opened." />}>
              {bench === "curves" ? <CurvesBench /> : <ArcsBench />}
            </Suspense>
          ) : bench === "weight" ? (
            <WeightBench />
          ) : (
            <PropsBench />
          )}
        </Boundary>
      </Panel>
    </Group>
  );
}

/** What a step has to be asked about before it is made. */
function QuestionAsked() {
  const question = useDesk((s) => s.question);
  if (!question) return null;
  return (
    <Confirm title={question.title} yes={question.yes} no={question.no} onAnswer={question.answer}>
      {question.text}
    </Confirm>
  );
}

/** As large as the cards of the shots show it, twice as fine. */
const THUMBNAIL = { width: 240, height: 180 };

/** While the hand rests after a change, the shot's moving thumbnail is drawn anew and stored. */
function useThumbnail() {
  const revision = useDesk((s) => s.revision);
  const takeId = useDesk((s) => s.takeId);
  const opened = useRef({ takeId: 0, revision: 0 });
  useEffect(() => {
    // A mere visit changes nothing, the card of the shot included.
    if (opened.current.takeId !== takeId) opened.current = { takeId, revision };
    const anyway = (window as { hame?: { thumbnails?: boolean } }).hame?.thumbnails;
    if (opened.current.revision === revision && !anyway) return;
    const timer = setTimeout(
      () => {
        const { shot, playing, dragged } = desk();
        if (!shot || !canChange() || playing || dragged) return;
        const count = 8;
        const length = shot.play_end - shot.play_start;
        const strip = document.createElement("canvas");
        const { width, height } = THUMBNAIL;
        [strip.width, strip.height] = [2 * width * count, 2 * height];
        const pen = strip.getContext("2d")!;
        for (let n = 0; n < count; n++) {
          const frame = shot.play_start + Math.round((length * n) / count);
          const picture = pictureAt(frame, { width, height, sheet: day.sheet, view: "quarter", ground: true });
          if (!picture) return;
          pen.drawImage(picture, 2 * width * n, 0);
        }
        strip.toBlob(
          (blob) => blob && send("PUT", `/api/shots/${shot.id}/thumbnail`, blob).catch(() => undefined),
          "image/png",
        );
      },
      pictures.source?.slow ? 12_000 : 2500,
    );
    return () => clearTimeout(timer);
  }, [revision, takeId]);
}
