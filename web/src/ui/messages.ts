// Messages to the person. What shows them is loaded with the first one; nothing that is said meanwhile is lost.
import type { OptionsObject } from "notistack";
import { create } from "zustand";

/** What can be done about what is said. */
export interface Way {
  label: string;
  act: () => unknown;
}
type Options = OptionsObject & { ways?: Way[] };
type Show = (text: string, options: Options) => unknown;

/** Whether there has been something to say. */
export const useMessages = create(() => ({ wanted: false }));

let show: Show | null = null;
const waiting: [string, Options][] = [];

export function message(text: string, options: Options) {
  if (show) return void show(text, options);
  waiting.push([text, options]);
  useMessages.setState({ wanted: true });
}

/** From now on messages are shown by this, those that waited first; hands back what ends it. */
export function showBy(how: Show): () => void {
  show = how;
  for (const [text, options] of waiting.splice(0)) how(text, options);
  return () => void (show = null);
}
