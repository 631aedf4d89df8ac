// Who of the cast is seen on the stage, and in the sights.
import { desk, setDesk } from "./store";

export type Sight = "shown" | "dim" | "hidden";
const NEXT: Record<Sight, Sight> = { shown: "dim", dim: "hidden", hidden: "shown" };

export const sightOf = (id: number, seen = desk().seen): Sight => seen[id] ?? "shown";

export function see(id: number, sight: Sight) {
  const seen = { ...desk().seen };
  if (sight === "shown") delete seen[id];
  else seen[id] = sight;
  setDesk({ seen });
}
/** Shown, dimmed, hidden, and shown again. */
export const seeNext = (id: number) => see(id, NEXT[sightOf(id)]);

/** One alone; all again where it is alone already. */
export function seeAlone(id: number) {
  const { cast, seen } = desk();
  const others = cast.filter((member) => member.id !== id);
  const alone = !seen[id] && others.every((member) => seen[member.id] === "hidden");
  setDesk({ seen: alone ? {} : Object.fromEntries(others.map((member) => [member.id, "hidden" as const])) });
}
export const seeAll = () => setDesk({ seen: {} });
