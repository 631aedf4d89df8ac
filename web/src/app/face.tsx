import type { Bench } from "../desk/bench";
import { meanZones } from "../desk/selecting";
import { active, useDesk } from "../desk/store";
import { Channels } from "../features/channels/Channels";
import { facedRows } from "../features/face/rows";
import { later } from "../ui/later";
import { rowsHigh } from "../ui/SpanRows";
import { Tabs } from "../ui/Tabs";
import { useTab } from "../ui/useTab";

const FaceMap = later(() => import("../features/face/FaceMap").then((m) => m.FaceMap));
const Expressions = later(() => import("../features/face/Expressions").then((m) => m.Expressions));
const Gaze = later(() => import("../features/face/Gaze").then((m) => m.Gaze));
const FaceRows = later(() => import("../features/face/FaceRows").then((m) => m.FaceRows));
const TABS = ["Zones", "Expressions", "Gaze"] as const;

/** What a face is posed by: its map with the channels of what is taken hold of, and expressions that are mixed. */
function FacePanel() {
  const member = useDesk((s) => active(s));
  const [tab, setTab] = useTab<(typeof TABS)[number]>("face", "Zones");
  if (!member) return null;
  // A thing has no face, and can be aimed.
  const shown = member.prop ? "Gaze" : tab;
  return (
    <Tabs label="Face" tabs={member.prop ? ["Gaze"] : [...TABS]} tab={shown} onTab={setTab} testId="face-bench">
      {shown === "Gaze" ? (
        <Gaze key={member.id} member={member} />
      ) : shown === "Expressions" ? (
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
  enter: meanZones,
  rows: (s) => {
    const member = active(s);
    const count = member ? facedRows(member).length : 0;
    if (!member || !count) return null;
    return { high: rowsHigh(count), inset: 76, draw: (room) => <FaceRows member={member} room={room} /> };
  },
};
