import { active, useDesk } from "../../desk/store";
import { Parts } from "../../desk/widgets/Parts";
import { Tabs } from "../../ui/Tabs";
import { useTab } from "../../ui/useTab";
import { Cycles } from "./Cycles";
import { Library } from "./Library";
import { Life } from "./Life";
import { Poses } from "./Poses";
import { Timing } from "./Timing";

const TABS = { Poses, Cycle: Cycles, Timing, Life, Library };
type Tab = keyof typeof TABS;

/** The Block bench: poses and breakdowns, mirrors and cycles, timing, and the pose library. */
export function Block() {
  const member = useDesk((s) => active(s));
  const [tab, setTab] = useTab<Tab>("block", "Poses");
  if (!member) return null;
  const Open = TABS[tab];
  return (
    <Tabs label="Blocking" tabs={Object.keys(TABS) as Tab[]} tab={tab} onTab={setTab} above={<Parts />} testId="block">
      <Open key={member.id} member={member} />
    </Tabs>
  );
}
