import type { Member } from "../../desk/store";
import { active, useDesk } from "../../desk/store";
import { Tabs } from "../../ui/Tabs";
import { useTab } from "../../ui/useTab";
import { Alerts } from "./Alerts";
import { FindPlants } from "./FindPlants";
import { Plants } from "./Plants";
import { Steps } from "./Steps";

const TABS: Record<string, (p: { member: Member }) => React.ReactNode> = {
  Plants,
  Find: FindPlants,
  Alerts,
  Steps,
};

/** The Plant bench: feet and hands that stay, plants found in the motion, faults of contact, and steps. */
export function PlantBench() {
  const member = useDesk((s) => active(s));
  const alerts = useDesk((s) => s.faults.contacts?.length ?? 0);
  const [tab, setTab] = useTab<string>("plant", "Plants");
  if (!member) return null;
  const Tab = TABS[tab];
  return (
    <Tabs
      label="Planting"
      tabs={Object.keys(TABS)}
      tab={tab}
      onTab={setTab}
      counts={{ Alerts: alerts }}
      testId="plant-bench"
    >
      <Tab key={member.id} member={member} />
    </Tabs>
  );
}
