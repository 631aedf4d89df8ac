/** Pixels of the list of curves beside the graph. */
export const LIST = 236;
