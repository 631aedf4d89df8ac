// What is pressed becomes a command, by the keys as the person has them.
import { closeAmount, judgedNow } from "./amounts";
import { keysNow } from "./bound";
import { COMMANDS } from "./commands";
import { askAgain, dragging } from "./dragging";
import { stop } from "./playing";
import { dropGrip } from "./pulling";
import { desk } from "./store";
import { setLooks } from "./viewing";
import { commandOf } from "../model/bindings";

const BY_ID = new Map(COMMANDS.map((command) => [command.id, command]));
export const commandNamed = (id: string) => BY_ID.get(id);

const SLIDES = /^(arrow|home|end|pageup|pagedown)/;

/** Whether an element makes something of a key itself: what is written in does of all, a slider and a box of some. */
function taken(target: EventTarget | null, hotkey: string): boolean {
  const element = target as HTMLElement;
  if (element.isContentEditable || element.matches("textarea, select")) return true;
  if (!(element instanceof HTMLInputElement)) return false;
  if (element.type === "range") return SLIDES.test(hotkey);
  if (element.type === "checkbox" || element.type === "radio") return hotkey === "space";
  return true;
}

/** Runs the act of a pressed key. Keys mean the same wherever the pointer is; in a field or a dialog they write. */
export function pressed(event: KeyboardEvent, hotkey: string) {
  if (taken(event.target, hotkey)) return;
  const id = commandOf(keysNow(), hotkey);
  if (dragging() && desk().tool === "pull" && id === "grip") {
    if (dropGrip()) askAgain();
    return event.preventDefault();
  }
  if ((event.target as HTMLElement).closest("[role=dialog], [role=menu]") || dragging() || !desk().shot) return;
  event.preventDefault();
  if (id) BY_ID.get(id)?.act();
}

/**
 * Escape stops playing, or else lets the amount of the last step be, or leaves the full stage; what is held by a hand
 * is let go before any of that.
 */
export function leaveByEscape(event: KeyboardEvent) {
  const inside = (event.target as HTMLElement).closest("[role=dialog], [role=menu]");
  if (event.defaultPrevented || inside || dragging()) return;
  const { playing, looks } = desk();
  if (playing) stop();
  else if (judgedNow()) closeAmount();
  else if (looks.full) setLooks({ full: false });
}
