import { useEffect, useState } from "react";
import { watchFaults } from "../../desk/faults";
import { active, useDesk } from "../../desk/store";
import { AlertList } from "../../desk/widgets/AlertList";
import { Tabs } from "../../ui/Tabs";
import { Compare } from "./Compare";
import { PathsPanel } from "./PathsPanel";
import { Sides } from "./Sides";

type Tab = "Paths" | "Faults" | "Compare" | "Sides";
const TABS: Tab[] = ["Paths", "Faults", "Compare", "Sides"];

/** The Arcs bench: paths and their faults, before and after, and the two sides. */
export default function ArcsBench() {
  const member = useDesk((s) => active(s));
  const faults = useDesk((s) => s.faults);
  const [tab, setTab] = useState<Tab>("Paths");
  useEffect(() => watchFaults(), []);
  if (!member) return null;
  return (
    <Tabs
      label="Arcs"
      tabs={TABS}
      tab={tab}
      onTab={setTab}
      counts={{ Faults: faults?.length ?? 0 }}
      testId="arcs-bench"
    >
      {tab === "Paths" && <PathsPanel member={member} />}
      {tab === "Faults" && (
        <AlertList
          alerts={faults}
          of="paths and timing"
          none="No corner, jerk, pop or trembling; arcs open, speeds differ, and falls are quicker than rises."
        />
      )}
      {tab === "Compare" && <Compare member={member} />}
      {tab === "Sides" && <Sides member={member} />}
    </Tabs>
  );
}
