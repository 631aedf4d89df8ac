// Where nothing bears a figure: looked up anew after each step.
import { ask, http } from "../api/client";
import { framesNear, useLookUp } from "./looking";
import { type Member, useDesk } from "./store";
import type { AnyEdit, Flight } from "../model/types";

type Fly = Extract<AnyEdit, { kind: "fly" }>;
/** What makes a flight as it is wished, and else as it is; of several, the others by frames in them. */
export const flying = (flight: Flight, wished: Partial<Fly>): AnyEdit => ({
  kind: "fly",
  at: middleOf(flight),
  frames: null,
  height: null,
  gravity: 1,
  far: null,
  also: [],
  ...wished,
});
export const middleOf = ({ release, landing }: Flight) => Math.floor((release + landing) / 2);

/** The flights of a figure on the frames that are played. */
export function useFlights(member: Member) {
  const shot = useDesk((s) => s.shot);
  const frames = shot ? framesNear(shot) : { first: 1, last: 1 };
  return useLookUp({
    what: "flights",
    of: [member.id, frames.first, frames.last, shot?.gravity],
    ask: (take_id) =>
      ask(
        http.GET("/api/takes/{take_id}/flights", {
          params: { path: { take_id }, query: { casting: member.id, ...frames } },
        }),
      ),
    enabled: !!shot && !member.prop,
  });
}
