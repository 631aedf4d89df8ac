import Box from "@mui/material/Box";
import { useEffect, useMemo, useRef, useState } from "react";
import { valueAt } from "../../model/curves";
import { keySaid } from "../../desk/bound";
import { layerOf } from "../../desk/layers";
import { chooseKeys, keepKeysOf, pointAt } from "../../desk/choosing";
import { desk, type Member, useDesk } from "../../desk/store";
import { Acts } from "../../ui/Acts";
import { Choice } from "../../ui/Choice";
import { lineField, useInks } from "../../ui/look";
import { SmallButton } from "../../ui/SmallButton";
import { type About, Board } from "./board";
import { LIST } from "./list";
import { axesSaid, type Shown, shownOf, told } from "./shown";
import { Tools } from "./Tools";

/** Curves of what is selected, on frames of their own: keys and handles are dragged, regions reshaped. */
export function Graph({ member }: { member: Member }) {
  const ink = useInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const needle = useRef<HTMLDivElement>(null);
  const board = useRef<Board | null>(null);
  const selection = useDesk((s) => s.selection);
  const chosen = useDesk((s) => s.keysChosen);
  const frame = useDesk((s) => s.frame);
  const layer = useDesk((s) => layerOf(member, s));
  const pointed = useDesk((s) => s.pointed);
  const [filter, setFilter] = useState("");
  const [normal, setNormal] = useState(false);
  const [about, setAbout] = useState<About>("across");
  const [side, setSide] = useState<"both" | "before" | "after">("both");
  const [readout, setReadout] = useState("");
  const curves = useMemo(
    () => shownOf(member, selection, layer, filter, normal, ink),
    [member, selection, layer, filter, normal, ink],
  );
  const shownKey = `${member.id} ${selection.join()} ${layer} ${filter} ${normal}`;
  const shownBefore = useRef("");

  useEffect(() => {
    const made = new Board(canvas.current!, needle.current!, setReadout);
    board.current = made;
    Object.assign(window, { hameGraph: made }); // for the measurements under bench/
    const escape = (event: KeyboardEvent) => {
      if (event.key === "Escape" && made.cancel()) event.stopPropagation();
    };
    window.addEventListener("keydown", escape, true);
    return () => {
      window.removeEventListener("keydown", escape, true);
      made.dispose();
      pointAt("");
    };
  }, []);
  useEffect(() => {
    board.current?.show(curves, ink, shownBefore.current !== shownKey);
    shownBefore.current = shownKey;
  }, [curves, ink, shownKey]);
  useEffect(() => {
    // What is not shown is not chosen: nothing is changed that nobody sees.
    keepKeysOf(new Set(curves.map((curve) => curve.address)));
  }, [curves]);
  useEffect(() => board.current?.draw(), [chosen, frame, pointed]);
  // Shifting time draws the curves, and renders nothing of the list.
  useEffect(() => useDesk.subscribe((s, before) => s.time !== before.time && board.current?.draw()), []);
  useEffect(() => {
    if (board.current) board.current.about = about;
  }, [about]);

  const fit = (what: "all" | "chosen" | "range") => board.current?.fit(what);
  return (
    <Box
      sx={{
        height: "100%",
        display: "flex",
        flexDirection: "column",
        minHeight: 0,
        borderTop: 1,
        borderColor: "divider",
      }}
      data-testid="graph"
    >
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", px: 1, py: 0.375, flexWrap: "wrap", flex: "none" }}>
        <Acts
          label="Fit"
          acts={[
            { label: "All curves", act: () => fit("all") },
            { label: "The chosen keys", act: () => fit("chosen") },
            { label: "What is played", act: () => fit("range") },
          ]}
        />
        <SmallButton on={normal} onClick={() => setNormal(!normal)} title="Each curve from 0 to 100 of its own reach">
          Each to its own height
        </SmallButton>
        <Choice
          label="About"
          show
          value={about}
          options={[
            { value: "across", label: "the side across" },
            { value: "key", label: "the key last clicked" },
            { value: "middle", label: "the middle" },
            { value: "playhead", label: "the playhead and zero" },
          ]}
          onChange={setAbout}
        />
        <Tools curves={curves} side={side} setSide={setSide} />
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        <List curves={curves} member={member} frame={frame} filter={filter} setFilter={setFilter} />
        <Box sx={{ flex: 1, minWidth: 0, position: "relative", overflow: "hidden", bgcolor: ink.paper }}>
          <canvas
            ref={canvas}
            data-testid="graph-canvas"
            aria-label="Curves"
            style={{ position: "absolute", inset: 0, width: "100%", height: "100%", touchAction: "none" }}
            onPointerDown={(e) => board.current?.down(e)}
            onPointerMove={(e) => board.current?.move(e)}
            onPointerUp={(e) => board.current?.up(e)}
            onContextMenu={(e) => e.preventDefault()}
          />
          <Box
            ref={needle}
            sx={{
              position: "absolute",
              left: -0.5,
              top: 0,
              bottom: 0,
              width: 1.5,
              bgcolor: ink.red,
              pointerEvents: "none",
            }}
          />
          {curves.length === 0 && (
            <Box sx={{ position: "absolute", inset: 0, display: "grid", placeItems: "center", color: ink.faint }}>
              {filter
                ? "No curve of what is selected is called so."
                : layer
                  ? "This layer has no keys yet of what is selected: pose it, and its curves stand here."
                  : selection.length
                    ? "What is selected has no keys yet: pose it and key it with K."
                    : `No keys yet. Pose the figure and press ${keySaid("key whole")}.`}
            </Box>
          )}
          <Box
            role="status"
            sx={{
              position: "absolute",
              right: 44,
              bottom: 4,
              color: ink.ink,
              bgcolor: ink.sheet,
              px: 0.5,
              fontSize: 12,
            }}
          >
            {pointed && !desk().readout ? axesSaid(member, pointed) : readout}
          </Box>
        </Box>
      </Box>
    </Box>
  );
}

/** The shown curves with their values at the playhead; pointing at one draws it thick, and its axis on the stage. */
function List(p: {
  curves: Shown[];
  member: Member;
  frame: number;
  filter: string;
  setFilter: (text: string) => void;
}) {
  const ink = useInks();
  const pointed = useDesk((s) => s.pointed);
  const chosen = useDesk((s) => s.keysChosen);
  const all = (curve: Shown) => {
    chooseKeys({ [curve.address]: [...keysOf(curve)] });
    pointAt(curve.address);
  };
  return (
    <Box
      sx={{
        width: LIST,
        flex: "none",
        borderRight: 1,
        borderColor: "divider",
        display: "flex",
        flexDirection: "column",
      }}
    >
      <Box sx={{ p: 0.5, flex: "none" }}>
        <input
          aria-label="Only curves named"
          placeholder={`${p.curves.length} curves; type to find some`}
          value={p.filter}
          onChange={(e) => p.setFilter(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
          style={{ ...lineField(ink), width: "100%" }}
        />
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflowY: "auto" }}>
        {p.curves.slice(0, 300).map((curve) => (
          <Box
            key={curve.address}
            component="button"
            data-curve={curve.address}
            title={`${curve.name} ${curve.channel} ${axesSaid(p.member, curve.address)}. Click chooses all of its keys`}
            onPointerEnter={() => pointAt(curve.address)}
            onPointerLeave={() => pointAt("")}
            onClick={() => all(curve)}
            sx={{
              display: "flex",
              alignItems: "center",
              gap: 0.75,
              width: "100%",
              height: 22,
              border: 0,
              px: 0.75,
              font: "inherit",
              fontSize: 12,
              textAlign: "left",
              cursor: "pointer",
              color: ink.ink,
              bgcolor: pointed === curve.address ? ink.sheet : "transparent",
              fontWeight: chosen[curve.address]?.length ? 700 : 400,
              "&:focus-visible": { outline: `2px solid ${ink.blue}`, outlineOffset: -2 },
            }}
          >
            <svg width="22" height="6" aria-hidden style={{ flex: "none" }}>
              <line
                x2="22"
                y1="3"
                y2="3"
                stroke={curve.colour}
                strokeWidth={curve.width}
                strokeDasharray={curve.dash.join(" ")}
              />
            </svg>
            <Box
              component="span"
              sx={{ flex: 1, minWidth: 0, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}
            >
              {curve.name}
              {curve.side && (
                <Box component="b" sx={{ color: curve.side === "L" ? ink.left : ink.right, ml: 0.5 }}>
                  {curve.side}
                </Box>
              )}{" "}
              <span style={{ color: ink.faint }}>{curve.channel}</span>
              {curve.liesOn && (
                <span title="The curves of both sides lie on each other all along">{` = ${curve.liesOn}`}</span>
              )}
            </Box>
            <Box component="span" sx={{ fontVariantNumeric: "tabular-nums", flex: "none" }} data-value>
              {told(curve, valueAt(curve.table, p.frame))}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function* keysOf(curve: Shown) {
  for (let i = 0; i < curve.table.length; i += 9) yield curve.table[i];
}
