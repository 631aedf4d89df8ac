/** Pixels that the names of the rows take at the left of the sheet. */
export const LABELS = 196;
