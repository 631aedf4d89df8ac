// Acts on what is shown and not stored.
import { setDesk } from "./store";

/** Says how far a drag has gone, at the foot of the stage. */
export const readOut = (readout: string) => setDesk({ readout });
/** Values are shown as they are stored again. */
export const endTrial = () => setDesk({ dragged: null, readout: "" });
/** What gave in the last pull is let go. */
export const forgetPull = () => setDesk({ said: null });
