// What keys and panels ask of the stage: to look at something, to drop a pivot, to say where its eye is.

/** The acts of the stage that is drawn. */
interface StageActs {
  frame: (what: "selection" | "figure" | "ground") => void;
  dropPivot: () => void;
  /** Where the eye stands and how it is turned, as a shot camera would: place and quaternion. */
  eye: () => number[];
}

export const onStage = { acts: null as StageActs | null };
