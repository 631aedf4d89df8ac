import Box from "@mui/material/Box";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { ask, http } from "../../api/client";
import { deleteChosen, keysChosenCount, moveKeys } from "../../desk/arranging";
import { protect } from "../../desk/casting";
import { copy, paste } from "../../desk/copying";
import { howOf, select } from "../../desk/selecting";
import { commit } from "../../desk/steps";
import { canChange, desk, type Member, setDesk, useDesk } from "../../desk/store";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { type Marks, marksOf, type Row, rowsOf, storedFrames } from "./rows";

const ROW = 20;
export const LABELS = 196;

type Gesture =
  | { kind: "keys"; from: number; by: number; moved: boolean; at: { row: Row; frame: number } }
  | { kind: "box"; x: number; y: number; x2: number; y2: number };

/** Keys by part of the body, opening to controls and channels; under the strip's ruler, on the same frames. */
export function Sheet({
  member,
  x,
  frameAt,
  width,
}: {
  member: Member;
  x: (frame: number) => number;
  frameAt: (left: number) => number;
  width: number;
}) {
  const ink = useInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const scroll = useRef<HTMLDivElement>(null);
  const [open, setOpen] = useState<Set<string>>(new Set());
  const [onlySelected, setOnly] = useState(false);
  const [gesture, setGesture] = useState<Gesture | null>(null);
  const [top, setTop] = useState(0);
  const [height, setHeight] = useState(120);
  const chosen = useDesk((s) => s.keysChosen);
  const selection = useDesk((s) => s.selection);
  const revision = useDesk((s) => s.revision);
  const takeId = useDesk((s) => s.takeId);
  const shot = useDesk((s) => s.shot)!;
  const editable = useDesk((s) => canChange(s));
  const only = useMemo(() => (onlySelected && selection.length ? new Set(selection) : null), [onlySelected, selection]);
  const rows = useMemo(() => rowsOf(member, open, only), [member, open, only]);
  const marks = useMemo(
    () => new Map<string, Marks>(rows.map((row) => [row.key, marksOf(member, row)])),
    [member, rows],
  );
  const checks = useQuery({
    queryKey: ["checks", takeId, member.id, revision],
    queryFn: () =>
      ask(
        http.GET("/api/takes/{take_id}/checks", {
          params: {
            path: { take_id: takeId },
            query: { casting: member.id, first: shot.play_start, last: shot.play_start },
          },
        }),
      ),
    placeholderData: (before) => before,
  });
  const missing = useMemo(() => {
    const found = new Map<number, Set<string>>();
    for (const [frame, names] of Object.entries(checks.data?.missing ?? {})) found.set(Number(frame), new Set(names));
    return found;
  }, [checks.data]);
  const late = checks.data?.late ?? {};
  const held = new Set(member.protect);

  useLayoutEffect(() => {
    const box = scroll.current!;
    const watch = new ResizeObserver(() => setHeight(box.clientHeight));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    const scale = Math.min(devicePixelRatio, 2);
    const wide = width - LABELS;
    canvas.current!.width = wide * scale;
    canvas.current!.height = height * scale;
    pen.setTransform(scale, 0, 0, scale, -LABELS * scale, 0);
    pen.clearRect(LABELS, 0, wide, height);
    const moving = gesture?.kind === "keys" ? gesture.by : 0;
    const sets = new Map(Object.entries(chosen).map(([a, frames]) => [a, new Set(frames)]));
    const frames = storedFrames(member.clip);
    rows.forEach((row, n) => {
      const y = n * ROW - top;
      if (y < -ROW || y > height) return;
      pen.strokeStyle = ink.line;
      pen.lineWidth = row.depth === 0 ? 1 : 0.5;
      pen.beginPath();
      pen.moveTo(LABELS, y + ROW - 0.5);
      pen.lineTo(width, y + ROW - 0.5);
      pen.stroke();
      const { own, derived } = marks.get(row.key)!;
      const middle = y + ROW / 2;
      const radius = row.depth === 0 ? 4.5 : 3.5;
      pen.setLineDash([2, 2]);
      pen.strokeStyle = ink.faint;
      pen.lineWidth = 1.2;
      for (const f of derived) {
        if (own.has(f)) continue;
        pen.beginPath();
        pen.arc(x(f), middle, radius, 0, 7);
        pen.stroke();
      }
      pen.setLineDash([]);
      for (const f of own) {
        const picked = row.addresses.some((a) => sets.get(a)?.has(f) && frames.get(a)?.includes(f));
        pen.beginPath();
        pen.arc(x(picked ? f + moving : f), middle, radius, 0, 7);
        pen.fillStyle = picked ? ink.blue : ink.sheet;
        pen.strokeStyle = ink.blue;
        pen.lineWidth = 1.6;
        pen.fill();
        pen.stroke();
      }
      // No key where the pose has them: a dash; first keyed in the middle: a bar before its first key.
      pen.strokeStyle = ink.red;
      pen.lineWidth = 2;
      for (const [f, names] of missing)
        if (row.depth < 2 && row.controls.some((c) => names.has(c))) {
          pen.beginPath();
          pen.moveTo(x(f) - 4, middle + (own.has(f) ? 7 : 0));
          pen.lineTo(x(f) + 4, middle + (own.has(f) ? 7 : 0));
          pen.stroke();
        }
      if (row.depth === 1 && late[row.key] !== undefined) {
        pen.beginPath();
        pen.moveTo(x(late[row.key]) - 7, middle - 5);
        pen.lineTo(x(late[row.key]) - 7, middle + 5);
        pen.stroke();
      }
    });
    if (gesture?.kind === "box") {
      pen.fillStyle = ink.blue;
      pen.globalAlpha = 0.14;
      pen.fillRect(
        Math.min(gesture.x, gesture.x2),
        Math.min(gesture.y, gesture.y2) - top,
        Math.abs(gesture.x2 - gesture.x),
        Math.abs(gesture.y2 - gesture.y),
      );
      pen.globalAlpha = 1;
    }
  });

  const at = (event: React.PointerEvent) => {
    const r = scroll.current!.getBoundingClientRect();
    return { left: event.clientX - r.left, y: event.clientY - r.top + top };
  };
  const keyAt = (left: number, y: number) => {
    const row = rows[Math.floor(y / ROW)];
    const frame = frameAt(left);
    return row && Math.abs(x(frame) - left) <= 7 && marks.get(row.key)!.own.has(frame) ? { row, frame } : null;
  };
  const framesWith = (row: Row, test: (f: number) => boolean) => {
    const frames = storedFrames(member.clip);
    return row.addresses.flatMap((a) => {
      const found = (frames.get(a) ?? []).filter(test);
      return found.length ? [[a, found] as const] : [];
    });
  };
  const isChosen = (row: Row, frame: number) =>
    framesWith(row, (f) => f === frame).every(([a]) => chosen[a]?.includes(frame));

  function choose(found: (readonly [string, number[]])[], how: "set" | "add" | "remove" | "toggle") {
    const next: Record<string, number[]> = how === "set" ? {} : { ...chosen };
    for (const [address, frames] of found) {
      const now = new Set(next[address] ?? []);
      for (const f of frames)
        if (how === "remove") now.delete(f);
        else now.add(f);
      if (now.size) next[address] = [...now].sort((a, b) => a - b);
      else delete next[address];
    }
    setDesk({ keysChosen: next, columns: [] });
  }

  function down(event: React.PointerEvent) {
    if (event.button !== 0) return;
    const { left, y } = at(event);
    if (left < LABELS) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const hit = keyAt(left, y);
    if (!hit) return setGesture({ kind: "box", x: left, y, x2: left, y2: y });
    const found = framesWith(hit.row, (f) => f === hit.frame);
    if (event.shiftKey) choose(found, isChosen(hit.row, hit.frame) ? "remove" : "add");
    else if (!isChosen(hit.row, hit.frame)) choose(found, "set");
    setGesture({ kind: "keys", from: hit.frame, by: 0, moved: false, at: hit });
  }
  function move(event: React.PointerEvent) {
    if (!gesture) return;
    const { left, y } = at(event);
    if (gesture.kind === "keys") {
      const by = frameAt(left) - gesture.from;
      if (by !== gesture.by) setGesture({ ...gesture, by, moved: true });
    } else setGesture({ ...gesture, x2: left, y2: y });
  }
  function up(event: React.PointerEvent) {
    if (!gesture) return;
    setGesture(null);
    if (gesture.kind === "keys") {
      if (gesture.by && editable) void moveKeys(gesture.by, event.ctrlKey || event.metaKey);
      else if (!gesture.moved && !event.shiftKey)
        choose(
          framesWith(gesture.at.row, (f) => f === gesture.at.frame),
          "set",
        );
      return;
    }
    const [a, b] = [Math.min(gesture.x, gesture.x2), Math.max(gesture.x, gesture.x2)];
    const [c, d] = [Math.min(gesture.y, gesture.y2), Math.max(gesture.y, gesture.y2)];
    const inside = rows.filter((_, n) => (n + 0.5) * ROW >= c && (n + 0.5) * ROW <= d);
    const found = inside.flatMap((row) => framesWith(row, (f) => x(f) >= a && x(f) <= b));
    choose(found, howOf(event));
  }

  const toggle = (key: string) => {
    const next = new Set(open);
    if (!next.delete(key)) next.add(key);
    setOpen(next);
  };
  const count = keysChosenCount();
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
      data-testid="sheet"
    >
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", px: 1, height: 32, flex: "none" }}>
        <Box sx={{ width: LABELS - 16, color: ink.faint, fontSize: 12 }}>
          {count ? `${count} ${count === 1 ? "key" : "keys"} chosen` : "Sheet"}
        </Box>
        <SmallButton disabled={!count} onClick={copy} title="Ctrl+C">
          Copy
        </SmallButton>
        <SmallButton onClick={() => void paste()} title="Ctrl+V, at the playhead">
          Paste
        </SmallButton>
        <SmallButton onClick={() => void paste(true)} title="Ctrl+Shift+V, at the playhead">
          Paste mirrored
        </SmallButton>
        <SmallButton disabled={!count} onClick={() => void deleteChosen()} title="Delete">
          Delete
        </SmallButton>
        <SmallButton
          disabled={!selection.length}
          onClick={() =>
            void commit({
              kind: "key",
              frame: desk().frame,
              controls: selection,
              kinds: desk().kinds,
              shape: desk().shape,
            })
          }
          title="K"
        >
          Key selection
        </SmallButton>
        <Box sx={{ ml: 1 }}>
          <Tick label="Selected controls only" on={onlySelected} onChange={setOnly} />
        </Box>
        <Box sx={{ flex: 1 }} />
        <Box
          sx={{ color: ink.faint, fontSize: 12, whiteSpace: "nowrap", overflow: "hidden", textOverflow: "ellipsis" }}
        >
          {missing.size || Object.keys(late).length ? (
            <>
              <Box component="b" sx={{ color: ink.red }}>
                –
              </Box>{" "}
              no key on a key pose{" "}
              <Box component="b" sx={{ color: ink.red, ml: 1 }}>
                |
              </Box>{" "}
              first keyed in the middle
            </>
          ) : (
            "Drag keys to move, Ctrl-drag to duplicate, drag beside them to choose many"
          )}
        </Box>
      </Box>
      <Box
        ref={scroll}
        onScroll={(e) => setTop(e.currentTarget.scrollTop)}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        sx={{
          position: "relative",
          flex: 1,
          minHeight: 0,
          overflowY: "auto",
          overflowX: "hidden",
          touchAction: "none",
        }}
      >
        <Box sx={{ height: rows.length * ROW, position: "relative" }}>
          {rows.map((row, n) => {
            const on = row.controls.every((c) => selection.includes(c));
            const kept = row.controls.every((c) => held.has(c));
            return (
              <Box
                key={row.key}
                data-row={row.key}
                sx={{
                  position: "absolute",
                  top: n * ROW,
                  left: 0,
                  width: LABELS,
                  height: ROW,
                  display: "flex",
                  alignItems: "center",
                  pl: 0.75 + row.depth,
                  bgcolor: ink.paper,
                  borderBottom: 1,
                  borderColor: "divider",
                  boxSizing: "border-box",
                  zIndex: 1,
                }}
              >
                {row.depth < 2 ? (
                  <Box
                    component="button"
                    aria-label={`${open.has(row.key) ? "Close" : "Open"} ${row.label}`}
                    aria-expanded={open.has(row.key)}
                    onClick={() => toggle(row.key)}
                    sx={{
                      border: 0,
                      background: "none",
                      p: 0,
                      width: 16,
                      color: ink.faint,
                      cursor: "pointer",
                      font: "inherit",
                      fontSize: 10,
                    }}
                  >
                    {open.has(row.key) ? "▼" : "▶"}
                  </Box>
                ) : (
                  <Box sx={{ width: 16 }} />
                )}
                <Box
                  component="button"
                  onClick={(e) => select(row.controls, howOf(e))}
                  sx={{
                    flex: 1,
                    minWidth: 0,
                    border: 0,
                    background: "none",
                    p: 0,
                    font: "inherit",
                    fontSize: 12,
                    textAlign: "left",
                    cursor: "pointer",
                    color: on ? ink.blue : ink.ink,
                    fontWeight: on || row.depth === 0 ? 700 : 400,
                    overflow: "hidden",
                    textOverflow: "ellipsis",
                    whiteSpace: "nowrap",
                    "&::first-letter": { textTransform: "uppercase" },
                  }}
                >
                  {row.label}
                  {row.side && row.depth === 1 && (
                    <Box component="b" sx={{ color: row.side === "L" ? ink.left : ink.right, ml: 0.5 }}>
                      {row.side}
                    </Box>
                  )}
                </Box>
                {row.depth < 2 && (
                  <Box
                    component="button"
                    aria-pressed={kept}
                    aria-label={`${kept ? "Protected" : "Protect"}: ${row.label}`}
                    title={
                      kept
                        ? "Protected: no edit touches it. Click to take the protection off"
                        : "Protect from every edit"
                    }
                    disabled={!editable}
                    onClick={() => void protect(row.controls, !kept)}
                    sx={{
                      border: 0,
                      background: "none",
                      p: 0,
                      width: 22,
                      cursor: "pointer",
                      color: kept ? ink.red : ink.line,
                      "&:hover": { color: ink.ink },
                    }}
                  >
                    <svg width="12" height="13" viewBox="0 0 12 13" aria-hidden>
                      <path
                        d="M6 0.8 L11 2.6 V6.2 C11 9.4 8.8 11.4 6 12.4 C3.2 11.4 1 9.4 1 6.2 V2.6 Z"
                        fill={kept ? "currentColor" : "none"}
                        stroke="currentColor"
                        strokeWidth="1.3"
                      />
                    </svg>
                  </Box>
                )}
              </Box>
            );
          })}
        </Box>
        <canvas
          ref={canvas}
          style={{ position: "absolute", top, left: LABELS, width: width - LABELS, height, pointerEvents: "none" }}
        />
      </Box>
    </Box>
  );
}
