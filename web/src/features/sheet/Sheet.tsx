import Box from "@mui/material/Box";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { ask, http } from "../../api/client";
import { titled } from "../../desk/bound";
import { deleteChosen, keysChosenCount } from "../../desk/arranging";
import { copy, paste } from "../../desk/copying";
import { layerOf } from "../../desk/layers";
import { useLookUp } from "../../desk/looking";
import { commit } from "../../desk/steps";
import { canChange, desk, type Member, useDesk } from "../../desk/store";
import { placeNow, useTimeWheel } from "../../desk/time";
import type { Room } from "../../model/time";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";
import { useInks } from "../../ui/look";
import { useGestures } from "./gestures";
import { RowHead } from "./RowHead";
import { LABELS } from "./labels";
import { paint, ROW } from "./paint";
import { besideOf, type Marks, marksOf, rowsOf } from "./rows";

/** Keys by part of the body, opening to controls and channels; under the strip's ruler, on the same frames. */
export function Sheet({ member, frame: lies }: { member: Member; frame: Room }) {
  const ink = useInks();
  const { width } = lies;
  const canvas = useRef<HTMLCanvasElement>(null);
  const scroll = useRef<HTMLDivElement>(null);
  const [open, setOpen] = useState<Set<string>>(new Set());
  const [onlySelected, setOnly] = useState(false);
  const [top, setTop] = useState(0);
  const [height, setHeight] = useState(120);
  const chosen = useDesk((s) => s.keysChosen);
  const selection = useDesk((s) => s.selection);
  const shot = useDesk((s) => s.shot)!;
  const editable = useDesk((s) => canChange(s));
  const only = useMemo(() => (onlySelected && selection.length ? new Set(selection) : null), [onlySelected, selection]);
  const layer = useDesk((s) => layerOf(member, s));
  const company = useDesk((s) => s.company);
  const cast = useDesk((s) => s.cast);
  const beside = useDesk((s) => s.keysBeside);
  const rows = useMemo(() => {
    const others = cast.filter(({ id }) => id !== member.id && id in company);
    return [...besideOf(others, open), ...rowsOf(member, open, only, layer)];
  }, [member, open, only, layer, cast, company]);
  const marks = useMemo(() => new Map<string, Marks>(rows.map((row) => [row.key, marksOf(row)])), [rows]);
  const checks = useLookUp({
    what: "checks",
    of: [member.id, shot.play_start],
    ask: (take_id) => {
      const query = { casting: member.id, first: shot.play_start, last: shot.play_start };
      return ask(http.GET("/api/takes/{take_id}/checks", { params: { path: { take_id }, query } }));
    },
  });
  const missing = useMemo(() => {
    const found = new Map<number, Set<string>>();
    for (const [frame, names] of Object.entries(checks.data?.missing ?? {})) found.set(Number(frame), new Set(names));
    return found;
  }, [checks.data]);
  const late = useMemo(() => checks.data?.late ?? {}, [checks.data]);
  const held = { has: (own: Member, control: string) => own.protect.includes(control) };

  useLayoutEffect(() => {
    const box = scroll.current!;
    const watch = new ResizeObserver(() => setHeight(box.clientHeight));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  const at = (event: React.PointerEvent) => {
    const r = scroll.current!.getBoundingClientRect();
    return { left: event.clientX - r.left, y: event.clientY - r.top + top };
  };
  const { moving, area, handlers } = useGestures({ active: member, rows, marks, chosen, beside, editable, lies, at });

  // Painted as time is shifted and zoomed, without React.
  useEffect(() => {
    let asked = 0;
    const draw = () => {
      asked = 0;
      const place = placeNow(lies);
      paint(canvas.current!, {
        active: member,
        rows,
        marks,
        chosen,
        beside,
        moving,
        missing,
        late,
        area,
        place,
        height,
        top,
        ink,
      });
    };
    draw();
    const stop = useDesk.subscribe((now, before) => {
      if (now.time !== before.time) asked ||= requestAnimationFrame(draw);
    });
    return () => {
      stop();
      cancelAnimationFrame(asked);
    };
  }, [member, rows, marks, chosen, beside, moving, missing, late, area, lies, height, top, ink]);

  useTimeWheel(scroll, lies, true);

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
        userSelect: "none", // a box about keys is no choice of letters
      }}
      data-testid="sheet"
    >
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", px: 1, height: 32, flex: "none" }}>
        <Box sx={{ width: LABELS - 16, color: ink.faint, fontSize: 12 }}>
          {count ? `${count} ${count === 1 ? "key" : "keys"} chosen` : layer ? "Keys of the layer" : "Sheet"}
        </Box>
        <SmallButton disabled={!count} onClick={copy} title={titled("", "copy")}>
          Copy
        </SmallButton>
        <SmallButton onClick={() => void paste()} title={titled("At the playhead", "paste")}>
          Paste
        </SmallButton>
        <SmallButton onClick={() => void paste(true)} title={titled("At the playhead", "paste over")}>
          Paste turned over
        </SmallButton>
        <SmallButton disabled={!count} onClick={() => void deleteChosen()} title={titled("", "delete")}>
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
          title={titled("", "key")}
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
        {...handlers}
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
          {rows.map((row, n) => (
            <RowHead
              key={row.key}
              row={row}
              top={n * ROW}
              on={row.member === member && row.controls.every((c) => selection.includes(c))}
              kept={row.controls.every((c) => held.has(row.member, c))}
              open={open.has(row.key)}
              editable={editable}
              onToggle={() => toggle(row.key)}
            />
          ))}
        </Box>
        <canvas
          ref={canvas}
          style={{ position: "absolute", top, left: LABELS, width: width - LABELS, height, pointerEvents: "none" }}
        />
      </Box>
    </Box>
  );
}
