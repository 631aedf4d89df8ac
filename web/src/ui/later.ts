// Parts of a page that are loaded when they are opened.
import { type ComponentType, lazy } from "react";

const AGAIN = 800; // milliseconds: a line that was lost for a moment

/** Loads a module, once more if that failed; a page whose server was renewed meanwhile has to be loaded anew. */
async function loaded<T>(load: () => Promise<T>): Promise<T> {
  try {
    return await load();
  } catch {
    await new Promise((done) => setTimeout(done, AGAIN));
    return load().catch(() => {
      throw new Error("this part cannot be loaded now; when the server answers, load the page anew");
    });
  }
}

/** A component out of a module of its own, which is asked for when it is drawn first: show it inside a Suspense. */
export const later = <P extends object>(load: () => Promise<ComponentType<P>>) =>
  lazy(async () => ({ default: await loaded(load) }));
