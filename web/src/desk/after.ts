// What follows a step in the hand: where the playhead goes, what is selected.
import { desk } from "./store";

/**
 * Does what follows a step once it is stored, unless the hand has gone on meanwhile: to another frame, figure or
 * selection. To be made before the answer is waited for.
 */
export function unlessGone(then: () => void): (ok: boolean) => boolean {
  const { activeId, frame, selection } = desk();
  return (ok) => {
    const now = desk();
    if (ok && now.activeId === activeId && now.frame === frame && now.selection === selection) then();
    return ok;
  };
}
