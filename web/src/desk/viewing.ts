// Acts that set how the page looks at takes, and its tools.
import { type DeskState, desk, setDesk } from "./store";

type Looks = DeskState["looks"];

export const setLooks = (change: Partial<Looks>) => setDesk({ looks: { ...desk().looks, ...change } });
export const setPathLooks = (change: Partial<DeskState["pathLooks"]>) =>
  setDesk({ pathLooks: { ...desk().pathLooks, ...change } });
export const showPaths = (pathsShown: boolean) => setDesk({ pathsShown });
export const showCharts = (chartsShown: boolean) => setDesk({ chartsShown });
export const findFaultsIn = (faultsIn: DeskState["faultsIn"]) => setDesk({ faultsIn });

/** Opens the strip into its sheet or its graph. */
export const openStrip = (opened: DeskState["opened"]) => setDesk({ opened });
export const toggleStrip = (what: "sheet" | "graph") => openStrip(desk().opened === what ? "" : what);

export const lookFrom = (view: DeskState["view"]) => setDesk({ view });

export const takeTool = (tool: DeskState["tool"]) => setDesk({ tool });
/** How many frames a step of one's own goes: 1 to 100. */
export const stepBy = (frames: number) => setDesk({ step: Math.min(Math.max(Math.round(frames), 1), 100) });
/** The axes of the tool that is taken. */
export function chooseAxes(to: DeskState["axes"]["move"]) {
  const { tool, axes } = desk();
  if (tool !== "pull") setDesk({ axes: { ...axes, [tool]: to } }); // a pull goes where the hand goes
}
export const chooseSides = (sides: DeskState["sides"]) => setDesk({ sides });
/** What several controls turn about; a dropped pivot is taken away. */
export const choosePivot = (pivot: DeskState["pivot"]) => setDesk({ pivot, dropped: null });

/** What automatic keying takes in, how new keys go on, how poses are turned over. */
export const keyBy = (keying: DeskState["keying"]) => setDesk({ keying });
export const keyAs = (shape: DeskState["shape"]) => setDesk({ shape });
export const mirrorBy = (change: Partial<DeskState["mirrored"]>) =>
  setDesk({ mirrored: { ...desk().mirrored, ...change } });
export const keyKinds = (kinds: DeskState["kinds"]) => setDesk({ kinds });
export const actOnParts = (parts: DeskState["parts"]) => setDesk({ parts });
