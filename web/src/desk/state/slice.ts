// The store is made of slices: what belongs together, how it begins, and how long it stays.

/** What a slice is of: the take that is open, or the page, whatever is open. */
export type Scope = "take" | "page";

export interface Slice<T> {
  scope: Scope;
  initial: () => T;
}

export const slice = <T>(scope: Scope, initial: () => T): Slice<T> => ({ scope, initial });
