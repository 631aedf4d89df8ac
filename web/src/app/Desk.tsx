import Box from "@mui/material/Box";
import useMediaQuery from "@mui/material/useMediaQuery";
import { Suspense, useCallback, useEffect, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useParams } from "react-router-dom";
import { Group, Panel, Separator } from "react-resizable-panels";
import { send } from "../api/client";
import { ThinBar } from "../features/strip/ThinBar";
import { BodyMap } from "../features/bodymap/BodyMap";
import { LIST } from "../features/graph/list";
import { LABELS } from "../features/sheet/labels";
import { ShotBar } from "../features/shotbar/ShotBar";
import { Stage } from "../features/stage/Stage";
import { Strip } from "../features/strip/Strip";
import { Boundary } from "../ui/Boundary";
import { day } from "../theme";
import { useInks } from "../ui/look";
import { later } from "../ui/later";
import { Waiting } from "../ui/Waiting";
import { BENCHES } from "./benches";
import type { Bench } from "../desk/bench";
import { watchFaults } from "../desk/faults";
import { leaveTake, openTake } from "../desk/opening";
import { usePressable } from "../desk/bound";
import { leaveByEscape, pressed } from "../desk/keys";
import { pictureAt, pictures } from "../desk/pictures";
import { active, canChange, desk, useDesk } from "../desk/store";

// Loaded when they are opened: what a page needs first is the stage.
const Cast = later(() => import("../features/shotbar/Cast").then((m) => m.Cast));
const Confirm = later(() => import("../ui/Confirm").then((m) => m.Confirm));
const Graph = later(() => import("../features/graph/Graph").then((m) => m.Graph));
const Help = later(() => import("../features/shotbar/Help").then((m) => m.Help));
const History = later(() => import("../features/history/History").then((m) => m.History));
const Reference = later(() => import("../features/reference/Reference").then((m) => m.Reference));
const Sheet = later(() => import("../features/sheet/Sheet").then((m) => m.Sheet));

/** Where a laptop's browser leaves so little height, the body map stands beside the channels, not above them. */
const SHORT = "(max-height: 720px)";

export default function Desk() {
  const ink = useInks();
  const { shotId, takeId } = useParams();
  const [problem, setProblem] = useState("");
  const [open, setOpen] = useState(false);
  const [bench, setBench] = useState(BENCHES[0]);
  const [history, setHistory] = useState(false);
  const [help, setHelp] = useState(false);
  const [casting, setCasting] = useState(false);
  const short = useMediaQuery(SHORT);
  const wide = short && !history && bench.map !== 0;
  const closeHistory = useCallback(() => setHistory(false), []);
  const full = useDesk((s) => s.looks.full);
  const reference = useDesk((s) => s.looks.reference);
  const opened = useDesk((s) => s.opened);
  const member = useDesk((s) => active(s));
  useDesk((s) => s.cast); // of which rows tell
  const high = useDesk((s) => bench.rows?.(s)?.high ?? 0);

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
  useEffect(() => (open ? bench.enter?.() : undefined), [open, bench]);

  useHotkeys(usePressable(), (event, { hotkey }) => pressed(event, hotkey), { enableOnFormTags: true });
  useHotkeys("escape", leaveByEscape);
  useHotkeys("?", () => setHelp(true), { useKey: true });

  useThumbnail();

  if (problem) return <Waiting text={problem} stopped />;
  if (!open) return <Waiting text="Opening the shot" />;
  const rows = bench.rows?.(desk());
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
                aria-pressed={bench === b}
                onClick={() => setBench(b)}
                sx={{
                  border: 0,
                  borderLeft: 3,
                  borderColor: bench === b ? ink.blue : "transparent",
                  bgcolor: bench === b ? ink.sheet : "transparent",
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
                  stroke={bench === b ? ink.blue : ink.ink}
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
                    <Suspense>
                      <Reference />
                    </Suspense>
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
                      <Suspense>
                        <History onClose={closeHistory} />
                      </Suspense>
                    </Boundary>
                  ) : (
                    <Side bench={bench} short={short} />
                  )}
                </Panel>
              )}
            </Group>
          </Panel>
          {full && <ThinBar />}
          {!full && <Separator style={{ height: 4, background: ink.line }} />}
          {!full && (
            <Panel
              key={`${opened} ${high}`}
              defaultSize={(opened === "graph" ? 408 : opened ? 348 : 168) + high}
              minSize={opened ? 200 : 84}
              maxSize={560}
            >
              <Boundary name="The strip">
                <Strip
                  inset={opened === "sheet" ? LABELS : opened === "graph" ? LIST : high && rows ? rows.inset : 0}
                  between={high && rows ? { high, rows: (lies) => <Suspense>{rows.draw(lies)}</Suspense> } : undefined}
                  below={
                    opened && member
                      ? (lies) => (
                          <Boundary key={opened} name={opened === "graph" ? "The graph" : "The sheet"}>
                            <Suspense fallback={<Waiting text="It is opened." />}>
                              {opened === "graph" ? <Graph member={member} /> : <Sheet member={member} frame={lies} />}
                            </Suspense>
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
      <Suspense>
        <QuestionAsked />
        {casting && <Cast open onClose={() => setCasting(false)} />}
        {help && <Help open onClose={() => setHelp(false)} />}
      </Suspense>
    </Box>
  );
}

/** The panel of a bench, below the body map, or on a short screen beside it, where it shows one. */
function Side({ bench: { name, panel: Work, title, map = 226 }, short }: { bench: Bench; short: boolean }) {
  const ink = useInks();
  const opened = (
    <Boundary key={name} name={title ?? "The bench"}>
      <Suspense fallback={<Waiting text="The bench is opened." />}>
        <Work />
      </Suspense>
    </Boundary>
  );
  if (!map) return opened;
  return (
    <Group orientation={short ? "horizontal" : "vertical"} key={`${name} ${short}`}>
      <Panel defaultSize={short ? 216 : map} minSize={140}>
        <Boundary name="The body map">
          <BodyMap />
        </Boundary>
      </Panel>
      <Separator style={{ [short ? "width" : "height"]: 4, background: ink.line }} />
      <Panel minSize={short ? 280 : 150}>{opened}</Panel>
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
