import Box from "@mui/material/Box";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { ask, http, type Schemas, send } from "../../api/client";
import { go } from "../../desk/playing";
import { say } from "../../desk/steps";
import { active, canChange, onShow, playhead, useDesk } from "../../desk/store";
import { Choice } from "../../ui/Choice";
import { Line, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Whole } from "../../ui/Whole";
import { useInks, useLook } from "../../ui/look";

type Kind = "walk" | "run" | "startle" | "pictures";
const STEPS = { walk: 12, run: 8, startle: 10, pictures: 0 };

/** Poses to work from, beside the stage: drawn in the character's own proportions, or pictures of one's own. */
export function Reference() {
  const ink = useInks();
  const member = useDesk((s) => active(s));
  const look = useLook();
  const [kind, setKind] = useState<Kind>("walk");
  const [start, setStart] = useState(1);
  const [step, setStep] = useState(12);
  if (!member) return null;
  return (
    <Box
      aria-label="Reference"
      sx={{ height: "100%", display: "flex", flexDirection: "column", minHeight: 0 }}
      data-testid="reference"
    >
      <Box sx={{ p: 0.75, display: "grid", gap: 0.5, borderBottom: 1, borderColor: "divider" }}>
        <Line>
          <Choice
            label="Reference"
            value={kind}
            options={[
              { value: "walk", label: "Walk sheet" },
              { value: "run", label: "Run sheet" },
              { value: "startle", label: "Startle" },
              { value: "pictures", label: "Pictures of your own" },
            ]}
            onChange={(k) => {
              setKind(k);
              if (STEPS[k]) setStep(STEPS[k]);
            }}
          />
          {kind !== "pictures" && (
            <SmallButton
              on={look.sheetRight}
              onClick={() => look.setSheetRight(!look.sheetRight)}
              title="The sheet faces to the left, as the side view does; turned round, to the right"
              sx={{ px: 0.5 }}
            >
              ⇄
            </SmallButton>
          )}
        </Line>
        {kind !== "pictures" && (
          <Line>
            <Word>from</Word>
            <Whole label="Sheet from frame" value={start} width={34} onChange={setStart} />
            <Word>{kind === "startle" ? "pose" : "step"}</Word>
            <Whole label="Sheet step" value={step} width={34} low={1} high={200} onChange={setStep} />
            <Word>frames</Word>
          </Line>
        )}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflowY: "auto", bgcolor: ink.sheet }}>
        {kind === "pictures" ? <Pictures /> : <Drawn casting={member.id} kind={kind} start={start} step={step} />}
      </Box>
    </Box>
  );
}

const WIDTHS: Record<string, [number, number]> = {
  trunk: [0.115, 0.085],
  leg: [0.075, 0.05],
  foot: [0.035, 0.03],
  arm: [0.05, 0.034],
  head: [0.11, 0.1],
};

function Drawn({ casting, kind, start, step }: { casting: number; kind: Kind; start: number; step: number }) {
  const ink = useInks();
  const frame = useDesk((s) => s.frame);
  const sheet = useQuery({
    queryKey: ["reference", casting, kind, start, step],
    queryFn: () =>
      ask(
        http.GET("/api/castings/{casting_id}/reference", {
          params: { path: { casting_id: casting }, query: { kind, start, step } },
        }),
      ),
    retry: false,
  });
  if (sheet.error) return <Box sx={{ p: 1, color: ink.red }}>{sheet.error.message}</Box>;
  return sheet.data?.map((pose) => (
    <Box
      component="button"
      key={pose.name}
      onClick={() => go(pose.frame)}
      aria-pressed={frame === pose.frame}
      sx={{
        width: "100%",
        display: "block",
        border: 0,
        borderBottom: 1,
        borderColor: "divider",
        borderLeft: 4,
        borderLeftColor: frame === pose.frame ? ink.blue : "transparent",
        bgcolor: "transparent",
        font: "inherit",
        color: ink.ink,
        cursor: "pointer",
        p: 0,
        pb: 0.5,
      }}
    >
      <Figure pose={pose} />
      <Box
        component="span"
        sx={
          pose.rank === "key"
            ? { border: 1.5, borderColor: ink.blue, borderRadius: 6, px: 0.75 }
            : { borderBottom: 2, borderColor: ink.red }
        }
      >
        {pose.frame}
      </Box>{" "}
      {pose.name}
    </Box>
  ));
}

/** A pose seen from the side: the far limbs lighter, the trunk over them, the near limbs over all. */
function Figure({ pose }: { pose: Schemas["DrawnPoseOut"] }) {
  const ink = useInks();
  const right = useLook((s) => s.sheetRight);
  // Turned to the left, the right side is the near one.
  const far = (s: { side: string }) => s.side === "R";
  const order = [...pose.strokes].sort((a, b) => depth(a) - depth(b));
  const path = (points: number[][]) =>
    points.map(([z, y], n) => `${n ? "L" : "M"}${(z * 100).toFixed(2)} ${(-y * 100).toFixed(2)}`).join("");
  return (
    <svg
      viewBox="-62 -113 124 118"
      width="100%"
      style={{ display: "block", maxHeight: 150 }}
      aria-label={`${pose.name}, from the side`}
    >
      <g transform={right ? undefined : "scale(-1 1)"}>
        <line x1={-62} x2={62} y1={0.6} y2={0.6} stroke={ink.line} strokeWidth={0.8} />
        {order.map((stroke, n) => {
          const tone = far(stroke) ? ink.shade : stroke.side === "L" ? ink.left : ink.ink;
          const [wide, thin] = WIDTHS[stroke.part] ?? [0.05, 0.04];
          if (stroke.part === "head") {
            const [[ax, ay], [bx, by]] = stroke.points;
            const turned = (Math.atan2(-(by - ay), bx - ax) * 180) / Math.PI + 90;
            const [x, y] = [100 * (ax + 0.55 * (bx - ax)), -100 * (ay + 0.55 * (by - ay))];
            return (
              <g key={n} transform={`translate(${x} ${y}) rotate(${turned})`}>
                <ellipse rx={6.2} ry={7.6} fill={ink.ink} />
                <path d="M5.4 -1.5 L9 1.6 L5.2 2.6 Z" fill={ink.ink} />
              </g>
            );
          }
          // Limbs taper: each piece is a stroke of its own width.
          return (
            <g key={n}>
              {stroke.points.slice(1).map((p, k) => (
                <path
                  key={k}
                  d={path([stroke.points[k], p])}
                  stroke={tone}
                  strokeWidth={100 * (wide + ((thin - wide) * k) / Math.max(stroke.points.length - 2, 1))}
                  strokeLinecap="round"
                  fill="none"
                />
              ))}
            </g>
          );
        })}
      </g>
    </svg>
  );
}

const depth = (s: { part: string; side: string }) =>
  (s.side === "R" ? 0 : s.part === "trunk" ? 2 : s.part === "head" ? 3 : s.part === "arm" ? 5 : 4) +
  (s.part === "foot" ? 0.5 : 0);

/** Pictures put in by hand, each tied to a frame if wished; many at once lie on frames in a row. */
function Pictures() {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const editable = useDesk((s) => canChange(s));
  const frame = useDesk((s) => s.frame);
  const client = useQueryClient();
  const pick = useRef<HTMLInputElement>(null);
  const [film, setFilm] = useState(false);
  const images = useQuery({
    queryKey: ["sheet", shot.id],
    queryFn: () => ask(http.GET("/api/shots/{shot_id}/sheet", { params: { path: { shot_id: shot.id } } })),
  });
  const renew = () => client.invalidateQueries({ queryKey: ["sheet", shot.id] });
  const put = useMutation({
    mutationFn: async (files: File[]) => {
      let at = frame;
      for (const file of files.sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }))) {
        const form = new FormData();
        form.append("file", file);
        if (film) form.append("frame", String(at++));
        await send("POST", `/api/shots/${shot.id}/sheet`, form);
      }
    },
    onError: (error) => say(error.message, true),
    onSettled: () => void renew(),
  });
  const tie = (id: number, to: number | null) =>
    ask(http.PATCH("/api/sheet/{image_id}", { params: { path: { image_id: id } }, body: { frame: to } })).then(
      renew,
      (e: Error) => say(e.message, true),
    );
  const drop = (id: number) =>
    ask(http.DELETE("/api/sheet/{image_id}", { params: { path: { image_id: id } } })).then(renew, (e: Error) =>
      say(e.message, true),
    );
  const tied = (images.data ?? []).filter((i) => i.frame !== null).sort((a, b) => a.frame! - b.frame!);
  return (
    <Box sx={{ p: 0.75, display: "grid", gap: 0.75 }}>
      {editable && (
        <Line>
          <input
            ref={pick}
            type="file"
            accept="image/png,image/jpeg,image/webp"
            multiple
            hidden
            aria-label="Pictures for the sheet"
            onChange={(e) => {
              if (e.target.files?.length) put.mutate([...e.target.files]);
              e.target.value = "";
            }}
          />
          <SmallButton
            disabled={put.isPending}
            onClick={() => {
              setFilm(false);
              pick.current?.click();
            }}
          >
            {put.isPending ? "Putting in…" : "Put pictures in"}
          </SmallButton>
          <SmallButton
            disabled={put.isPending}
            title={`A picture a frame, from frame ${frame} on, in the order of their names`}
            onClick={() => {
              setFilm(true);
              pick.current?.click();
            }}
          >
            As a film
          </SmallButton>
        </Line>
      )}
      {tied.length > 1 && <Film images={tied} />}
      {images.data?.length === 0 && (
        <Box sx={{ color: ink.faint }}>No pictures yet. PNG, JPEG and WebP are taken; each can be tied to a frame.</Box>
      )}
      {images.data?.slice(0, 60).map((image) => (
        <Box
          key={image.id}
          sx={{
            border: 1,
            borderColor: image.frame === frame ? ink.blue : ink.line,
            borderRadius: 1,
            overflow: "hidden",
          }}
        >
          <img
            src={`/api/sheet/${image.id}/picture`}
            alt={image.name}
            loading="lazy"
            onClick={() => image.frame !== null && go(image.frame)}
            style={{ width: "100%", display: "block", cursor: image.frame === null ? "default" : "pointer" }}
          />
          <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", px: 0.5, py: 0.25 }}>
            <Box
              component="span"
              sx={{ flex: 1, fontSize: 12, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}
              title={image.name}
            >
              {image.name}
            </Box>
            {image.frame === null ? (
              <SmallButton disabled={!editable} onClick={() => void tie(image.id, frame)} sx={{ height: 22 }}>
                Tie to {frame}
              </SmallButton>
            ) : (
              <>
                <Whole
                  label={`Frame of ${image.name}`}
                  value={image.frame}
                  width={36}
                  onChange={(f) => void tie(image.id, f)}
                />
                <SmallButton
                  disabled={!editable}
                  aria-label={`Untie ${image.name}`}
                  onClick={() => void tie(image.id, null)}
                  sx={{ height: 22, px: 0.5 }}
                >
                  Untie
                </SmallButton>
              </>
            )}
            <SmallButton
              disabled={!editable}
              aria-label={`Take ${image.name} away`}
              onClick={() => void drop(image.id)}
              sx={{ height: 22, px: 0.5 }}
            >
              ✕
            </SmallButton>
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** The tied picture that belongs to the playhead, also while playing, without React. */
function Film({ images }: { images: Schemas["SheetImageOut"][] }) {
  const shown = useRef<HTMLImageElement>(null);
  useEffect(() => {
    const loaded = images.map((i) => Object.assign(new Image(), { src: `/api/sheet/${i.id}/picture` }));
    const show = () => {
      let n = 0;
      while (n + 1 < images.length && images[n + 1].frame! <= playhead.frame) n++;
      if (shown.current && shown.current.src !== loaded[n].src) shown.current.src = loaded[n].src;
    };
    show();
    return onShow(show);
  }, [images]);
  return (
    <img ref={shown} alt="The picture of this frame" style={{ width: "100%", display: "block", borderRadius: 4 }} />
  );
}
