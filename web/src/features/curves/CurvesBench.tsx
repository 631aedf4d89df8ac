import { active, useDesk } from "../../desk/store";
import { Tabs } from "../../ui/Tabs";
import { useTab } from "../../ui/useTab";
import { Gap } from "./Gap";
import { Keys } from "./Keys";
import { Layers } from "./Layers";

const TABS = { Gap, Layers, Keys };
type Tab = keyof typeof TABS;

/** The Curves bench: how gaps are gone through, layers over the motion, and keys made fewer. */
export function CurvesBench() {
  const member = useDesk((s) => active(s));
  const [tab, setTab] = useTab<Tab>("curves", "Gap");
  if (!member) return null;
  const Open = TABS[tab];
  return (
    <Tabs label="Curves" tabs={Object.keys(TABS) as Tab[]} tab={tab} onTab={setTab} testId="curves-bench">
      <Open key={member.id} member={member} />
    </Tabs>
  );
}
