import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import { ApiError, ask, bytes, http } from "../../api/client";
import { askAnew } from "../../api/jobs";
import { say } from "../../desk/steps";
import { actOn } from "../../desk/selecting";
import { active, useDesk } from "../../desk/store";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { useInks } from "../../ui/look";
import { Jobs } from "./Jobs";

/** So many poses, frames of all who are handed off, are a job. */
const LONG = 900;

/** The Hand-off bench: the take as a file that other programs read. */
export function HandOff() {
  const ink = useInks();
  const shot = useDesk((s) => s.shot)!;
  const cast = useDesk((s) => s.cast);
  const activeId = useDesk((s) => s.activeId);
  const takeId = useDesk((s) => s.takeId);
  const member = useDesk((s) => active(s));
  const [first, setFirst] = useState(shot.play_start);
  const [last, setLast] = useState(shot.play_end);
  const [busy, setBusy] = useState(false);
  const [all, setAll] = useState(cast.length > 1);
  if (!member) return null;
  const frames = last - first + 1;
  const handed = all ? cast : [member];
  const long = frames * handed.length > LONG;
  const joints = handed.reduce((sum, m) => sum + m.rig.joints.length, 0);

  /** A long one is made while one goes on working; a short one is there at once. */
  async function hand() {
    setBusy(true);
    try {
      if (long) {
        const body = { casting: handed.map((m) => m.id), first, last, suffix: "glb" };
        await ask(http.POST("/api/takes/{take_id}/handoffs", { params: { path: { take_id: takeId } }, body }));
        return await askAnew("hand-off");
      }
      const who = handed.map((m) => `casting=${m.id}`).join("&");
      const data = await bytes(`/api/takes/${takeId}/handoff.glb?${who}&first=${first}&last=${last}`);
      const link = document.createElement("a");
      link.href = URL.createObjectURL(new Blob([data], { type: "model/gltf-binary" }));
      link.download = `${shot.name}-${handed.length > 1 ? "all" : member!.name}.glb`
        .toLowerCase()
        .replace(/[^\w.-]+/g, "-");
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
      say(`${link.download} is handed off: ${frames} frames.`);
    } catch (error) {
      say(error instanceof ApiError ? error.message : "The file could not be made.", true);
    } finally {
      setBusy(false);
    }
  }
  return (
    <Box sx={{ p: 1.5, display: "grid", gap: 1.25, alignContent: "start" }}>
      <Box component="h2" sx={{ fontSize: 14, m: 0 }}>
        Hand-off as glTF
      </Box>
      <Box sx={{ color: ink.faint, fontSize: 12 }}>
        One .glb file with skeletons, skins and the motion sampled at every frame, plants and what is carried worked in.
        Pending poses are not in it; key them first.
      </Box>
      {cast.length > 1 && (
        <Choice
          label="Who"
          show
          value={all ? "all" : String(activeId)}
          options={[
            { value: "all", label: "All of the cast, in one file" },
            ...cast.map((m) => ({ value: String(m.id), label: m.name })),
          ]}
          onChange={(id) => {
            setAll(id === "all");
            if (id !== "all") actOn(Number(id));
          }}
        />
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "auto 60px auto 60px", gap: 1, alignItems: "center" }}>
        <span>Frames</span>
        <NumberField
          label="First frame"
          value={first}
          digits={0}
          step={0}
          onType={(v, by) => setFirst(Math.round(by ? first + v : v))}
        />
        <span>to</span>
        <NumberField
          label="Last frame"
          value={last}
          digits={0}
          step={0}
          onType={(v, by) => setLast(Math.round(by ? last + v : v))}
        />
      </Box>
      <Box sx={{ color: ink.faint, fontSize: 12 }}>
        {handed.map((m) => m.name).join(", ")}: {joints} joints, {frames > 0 ? frames : 0} frames at {shot.fps} frames a
        second: {(Math.max(frames - 1, 0) / shot.fps).toFixed(2)} s
      </Box>
      <Button variant="contained" disabled={busy || frames < 1} onClick={() => void hand()}>
        {busy ? "Making the file…" : "Hand off .glb"}
      </Button>
      {long && (
        <Box sx={{ color: ink.faint, fontSize: 12 }}>
          This takes a while: the file is made beside your work, and is kept below when it is ready.
        </Box>
      )}
      <Jobs />
    </Box>
  );
}
