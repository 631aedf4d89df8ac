// How the figure stands: its mass over what bears it, by frame and while it is posed; and where it points.
import { ask, http } from "../api/client";
import { keep } from "./keeping";
import { watch } from "./looking";
import { CONTROL } from "../model/motion";
import type { Weighing } from "../model/weighing";
import { active, desk, type DeskState, type Member, setDesk } from "./store";
import type { Balance } from "../model/types";

/** Keeps what is known of the balance up to date while the hand rests. Returns what stops it. */
export const watchBalance = () =>
  watch({
    what: "balance",
    ask: async (take_id, { first, last }) => {
      const member = active();
      if (!member || member.prop) return null;
      const query = { casting: member.id, first, last };
      const rows = await ask(http.GET("/api/takes/{take_id}/balance", { params: { path: { take_id }, query } }));
      return { casting: member.id, first, rows };
    },
    keep: (balance) => ({ balance }),
    also: (s) => [s.activeId, s.shot?.gravity],
    first: 100,
    rest: 250,
  });

/** Shows the weight in another way from now on, for this person. */
export function weigh(now: Partial<Weighing>) {
  const weighing = { ...desk().weighing, ...now };
  setDesk({ weighing });
  void keep("weight", weighing);
}

/** How the figure stands as it is shown: in the hand, or at the playhead. */
export function balanceNow(s: DeskState = desk()): Balance | null {
  if (s.dragged && s.said?.balance) return s.said.balance;
  const { balance } = s;
  if (!balance || balance.casting !== s.activeId) return null;
  return balance.rows[s.frame - balance.first] ?? null;
}

/** The transform of a control as it is shown: place, quaternion. */
function controlAt(member: Member, name: string): Float32Array | null {
  const n = member.rig.controls.findIndex((c) => c.name === name);
  return n < 0 ? null : member.pose.controls.subarray(n * CONTROL, n * CONTROL + 8);
}

/** A vector in a control's axes, in the world. */
export function turned(at: Float32Array, [x, y, z]: [number, number, number]): [number, number, number] {
  const [qx, qy, qz, qw] = [at[3], at[4], at[5], at[6]];
  const [tx, ty, tz] = [2 * (qy * z - qz * y), 2 * (qz * x - qx * z), 2 * (qx * y - qy * x)];
  return [x + qw * tx + qy * tz - qz * ty, y + qw * ty + qz * tx - qx * tz, z + qw * tz + qx * ty - qy * tx];
}

export const faceOf = (member: Member) => controlAt(member, "head");
export const eyesOf = (member: Member) =>
  (["eye.L", "eye.R"] as const).map((name) => controlAt(member, name)).filter((at) => !!at);
export const chestOf = (member: Member) =>
  controlAt(member, "chest") ?? controlAt(member, "spine.2") ?? controlAt(member, "spine");
export const hipsOf = (member: Member) => controlAt(member, "hips");
