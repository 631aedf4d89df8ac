import Box from "@mui/material/Box";
import type { Bench } from "../desk/bench";
import { active, useDesk } from "../desk/store";
import { Channels } from "../features/channels/Channels";
import { later } from "../ui/later";
import { Tabs } from "../ui/Tabs";
import { useTab } from "../ui/useTab";

const FaceMap = later(() => import("../features/face/FaceMap").then((m) => m.FaceMap));
const Expressions = later(() => import("../features/face/Expressions").then((m) => m.Expressions));
const TABS = ["Zones", "Expressions"] as const;

/** What a face is posed by: its map with the channels of what is taken hold of, and expressions that are mixed. */
function FacePanel() {
  const member = useDesk((s) => active(s));
  const [tab, setTab] = useTab<(typeof TABS)[number]>("face", "Zones");
  if (!member) return null;
  if (member.prop) return <Box sx={{ p: 1.5 }}>A thing has no face: choose a figure.</Box>;
  return (
    <Tabs label="Face" tabs={[...TABS]} tab={tab} onTab={setTab} testId="face-bench">
      {tab === "Expressions" ? (
        <Expressions key={member.id} member={member} />
      ) : (
        <>
          <FaceMap member={member} />
          <Channels />
        </>
      )}
    </Tabs>
  );
}

// A face with two eyes and a mouth.
export const face: Bench = {
  name: "face",
  label: "Face",
  path: "M11 3a7 8 0 1 1-.01 0M8 9v1.5M14 9v1.5M8 14.5q3 2 6 0",
  panel: FacePanel,
  title: "The face",
  map: 0,
};
