// A reload comes back to the frame that was looked at.
import { desk } from "./store";

const KEPT = "hame-frame";

window.addEventListener("pagehide", () => {
  const { shot, frame } = desk();
  try {
    if (shot) sessionStorage.setItem(KEPT, JSON.stringify({ shot: shot.id, frame }));
  } catch {
    // A browser that keeps nothing begins where a shot begins.
  }
});

let reloaded = performance.getEntriesByType("navigation").some((one) => "type" in one && one.type === "reload");

/** The frame of a shot at which its page was reloaded just now; null where it is opened anew. */
export function frameBeforeReload(shot: number): number | null {
  if (!reloaded) return null;
  reloaded = false; // what is opened after that is opened anew
  try {
    const kept = JSON.parse(sessionStorage.getItem(KEPT) ?? "null") as { shot: number; frame: number } | null;
    return kept?.shot === shot && Number.isInteger(kept.frame) ? kept.frame : null;
  } catch {
    return null;
  }
}
