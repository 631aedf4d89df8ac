// Where nothing bears a figure: looked up anew after each step.
import { ask, http } from "../api/client";
import { framesNear, useLookUp } from "./looking";
import { type Member, useDesk } from "./store";

/** The flights of a figure on the frames that are played. */
export function useFlights(member: Member) {
  const shot = useDesk((s) => s.shot);
  const frames = shot ? framesNear(shot) : { first: 1, last: 1 };
  return useLookUp({
    what: "flights",
    of: [member.id, frames.first, frames.last],
    ask: (take_id) =>
      ask(
        http.GET("/api/takes/{take_id}/flights", {
          params: { path: { take_id }, query: { casting: member.id, ...frames } },
        }),
      ),
    enabled: !!shot && !member.prop,
  });
}
