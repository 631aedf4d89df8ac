// What a step is made on: the revision that the page shows then, and one's own steps that are on their way.
import { desk } from "./store";
import type { Basis } from "../model/types";

/** Own steps of takes, in the order in which they were made; `stored` is a revision that holds one, once known. */
interface Mine {
  id: string;
  takeId: number;
  stored: number | null;
}
let mine: Mine[] = [];
/** So far back a drag may have begun behind what the page shows. */
const KEPT = 100;
/** As many as the server takes. */
const MOST = 2000;

/** Revisions of takes that were open, so that a step of one that is not any more still finds its place. */
const revisions = new Map<number, number>();
export const revisionOf = (takeId: number) =>
  takeId === desk().takeId ? desk().revision : (revisions.get(takeId) ?? 0);
export const rememberRevision = (takeId: number, revision: number) => revisions.set(takeId, revision);
export const heardOf = (takeId: number, revision: number) => {
  if (revision > (revisions.get(takeId) ?? 0)) revisions.set(takeId, revision);
};

/** What a step that is made now is made on, or one on a pose that was read at an earlier revision. */
export function basisOf(takeId: number, revision = revisionOf(takeId)): Basis {
  const after = mine.filter((own) => own.takeId === takeId && (own.stored === null || own.stored > revision));
  return { revision, after: after.slice(-MOST).map((own) => own.id) };
}

export function onItsWay(takeId: number, id: string) {
  if (!mine.some((own) => own.id === id)) mine.push({ id, takeId, stored: null });
}

/** A step is stored (at a revision, or before it), or will not be (null). */
export function arrived(id: string, stored: number | null) {
  const own = mine.find((one) => one.id === id);
  if (own && stored !== null) own.stored = stored;
  mine = mine.filter((one) =>
    one.id === id && stored === null ? false : one.stored === null || one.stored > revisionOf(one.takeId) - KEPT,
  );
}
