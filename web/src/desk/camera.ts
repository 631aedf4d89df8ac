// The shot camera: one of the cast whose control of that name has a lens and a gate.
import { CONTROL } from "../model/motion";
import { ask, http } from "../api/client";
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

/** Offers to move the shot camera where what was laid leaves its picture; one that moves is only told of. */
export async function offerFraming(of: Member, first: number, last: number): Promise<void> {
  const camera = cameraOf();
  const { takeId, keying } = desk();
  if (!camera || camera.id === of.id) return;
  const query = { camera: camera.id, casting: of.id, first, last };
  const found = await ask(http.GET("/api/takes/{take_id}/framing", { params: { path: { take_id: takeId }, query } }));
  if (found.inside || takeId !== desk().takeId) return;
  const frame = (camera.clip.curves[`${CAMERA}/tx`] ?? [])[0]?.[0] ?? first;
  const { place } = found;
  const act = () =>
    commit({ kind: "bring", frame, places: { [CAMERA]: place! }, keying }, { takeId, casting: camera.id, frame });
  message(`From ${first} to ${last} ${of.name} leaves the picture of the shot camera.`, {
    ways: place ? [{ label: "Move the camera back", act }] : [],
  });
}
