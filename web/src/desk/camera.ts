// The shot camera: one of the cast whose control of that name has a lens and a gate.
import { CONTROL } from "../model/motion";
import { inPicture, placeFor } from "../model/framing";
import { message } from "../ui/messages";
import { commit, say } from "./steps";
import { onStage } from "./onStage";
import { desk, type DeskState, type Member } from "./store";

export const CAMERA = "camera";
/** The channel by which a camera is told. */
export const CAMERA_LENS = `${CAMERA}/lens`;

export const cameraOf = (s: DeskState = desk()): Member | undefined => s.cast.find((m) => m.channels.has(CAMERA_LENS));

/** Where the camera is and how it looks: place and quaternion, lens and gate in millimetres. */
export function cameraNow(member: Member): { spot: Float32Array; lens: number; wide: number; high: number } {
  const at = member.rig.controls.findIndex((c) => c.name === CAMERA) * CONTROL;
  const value = (name: string) => {
    const number = member.channels.get(`${CAMERA}/${name}`)!;
    return desk().activeId === member.id
      ? (desk().dragged?.get(number) ?? member.pose.values[number])
      : member.pose.values[number];
  };
  return {
    spot: member.pose.controls.subarray(at, at + 7),
    lens: value("lens"),
    wide: value("gate_wide"),
    high: value("gate_high"),
  };
}

/** Puts the camera where the stage is looked at from, and keys it there. */
export function putCamera() {
  const member = cameraOf();
  const place = onStage.acts?.eye();
  if (!member) return say("There is no camera in this shot: cast the Shot camera from the shelf first.");
  if (!place) return;
  const { takeId, frame, keying } = desk();
  return commit({ kind: "bring", frame, places: { [CAMERA]: place }, keying }, { takeId, casting: member.id, frame });
}

/** Offers to move the shot camera where what was laid leaves its picture. */
export async function offerFraming(of: Member, start: number, end: number): Promise<void> {
  const now = () => desk().cast.find((member) => member.id === of.id);
  // Frames of a long change come a little after the step.
  for (let n = 0; n < 40 && now()?.motion.stale(start, Math.min(end, of.motion.last)).length; n++)
    await new Promise((done) => setTimeout(done, 100));
  const camera = cameraOf();
  const shown = now();
  const body = shown?.rig.controls.findIndex((control) => control.kind === "body") ?? -1;
  if (!camera || !shown || body < 0) return;
  const last = Math.min(end, shown.motion.last);
  if (last < start || shown.motion.stale(start, last).length) return; // frames that are not known yet
  const spheres = Array.from({ length: last - start + 1 }, (_, n) => {
    const [x, y, z] = shown.motion.controlAt(start + n, body);
    return { middle: [x, y, z] as [number, number, number], radius: shown.rig.height * 0.56 };
  });
  const filmed = cameraNow(camera);
  if (inPicture(filmed, spheres)) return;
  const { takeId, keying } = desk();
  const place = [...placeFor(filmed, spheres), ...Array.from(filmed.spot).slice(3, 7)];
  const frame = (camera.clip.curves[`${CAMERA}/tx`] ?? [])[0]?.[0] ?? start;
  const act = () =>
    commit({ kind: "bring", frame, places: { [CAMERA]: place }, keying }, { takeId, casting: camera.id, frame });
  message(`From ${start} to ${last} ${shown.name} leaves the picture of the shot camera.`, {
    ways: [{ label: "Move the camera back", act }],
  });
}
