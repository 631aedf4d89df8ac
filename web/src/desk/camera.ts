// The shot camera: one of the cast whose control of that name has a lens and a gate.
import { CONTROL } from "../model/motion";
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
