import { cameraOf } from "../../desk/camera";
import { findFaultsIn } from "../../desk/viewing";
import { active, useDesk } from "../../desk/store";
import { Choice } from "../../ui/Choice";
import { Section } from "../../ui/Section";
import { AlertList } from "../../desk/widgets/AlertList";
import { Tabs } from "../../ui/Tabs";
import { useTab } from "../../ui/useTab";
import { Compare } from "./Compare";
import { PathsPanel } from "./PathsPanel";
import { Sides } from "./Sides";

type Tab = "Paths" | "Faults" | "Compare" | "Sides";
const TABS: Tab[] = ["Paths", "Faults", "Compare", "Sides"];

/** The Arcs bench: paths and their faults, before and after, and the two sides. */
export function ArcsBench() {
  const member = useDesk((s) => active(s));
  const faults = useDesk((s) => s.faults.paths ?? null);
  const camera = useDesk((s) => cameraOf(s) !== undefined);
  const faultsIn = useDesk((s) => s.faultsIn);
  const [tab, setTab] = useTab<Tab>("arcs", "Paths");
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
        <>
          {camera && (
            <Section title="Looked for">
              <Choice
                label="Looked for"
                value={faultsIn}
                options={[
                  { value: "world", label: "in the world" },
                  { value: "camera", label: "in the camera's picture" },
                ]}
                onChange={findFaultsIn}
              />
            </Section>
          )}
          <AlertList
            alerts={faults}
            of="paths and timing"
            none="No corner, jerk, pop or trembling; arcs open, speeds differ, and falls are quicker than rises."
          />
        </>
      )}
      {tab === "Compare" && <Compare member={member} />}
      {tab === "Sides" && <Sides member={member} />}
    </Tabs>
  );
}
