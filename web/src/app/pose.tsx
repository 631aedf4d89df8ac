import type { Bench } from "../desk/bench";
import { useDesk } from "../desk/store";
import { Channels } from "../features/channels/Channels";
import { later } from "../ui/later";

const PullPanel = later(() => import("../features/pull/PullPanel").then((m) => m.PullPanel));

/** What is posed by its channels, or pulled. */
function PosePanel() {
  return useDesk((s) => s.tool === "pull") ? <PullPanel /> : <Channels />;
}

// A figure with a raised arm.
export const pose: Bench = {
  name: "pose",
  label: "Pose",
  path: "M11 3.2a2 2 0 1 1-.01 0M11 8v6M11 14l-4 6M11 14l4 6M11 9l-5 3M11 9l6-4",
  panel: PosePanel,
  title: "The channels",
  map: 270,
};
