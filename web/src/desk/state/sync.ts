// Where the page stands with the server: steps belong to their own takes, whatever is open.
import type { Question } from "../steps";
import { slice } from "./slice";

/** A step that the server could not store. */
export interface Aside {
  id: string;
  takeId: number;
  what: string;
  reason: string;
}

export interface SyncState {
  /** Steps that are not stored yet, and since when the server does not take them. */
  waiting: number;
  unreachedSince: Date | null;
  /** Whose sign-in a step waits for; empty when none does. */
  waitsFor: string;
  setAside: Aside[];
  question: Question | null;
}

export const sync = slice<SyncState>("page", () => ({
  waiting: 0,
  unreachedSince: null,
  waitsFor: "",
  setAside: [],
  question: null,
}));
