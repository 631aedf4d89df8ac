import Box from "@mui/material/Box";
import { useEffect } from "react";
import { beginWay, layWay, leaveWay, takeBackPlace, turnOnSpot, useWay, wayNow } from "../../desk/goings";
import { pathLength } from "../../model/goings";
import { commit, here } from "../../desk/steps";
import { active, canChange, type Member, useDesk } from "../../desk/store";
import { Line, Said, Section, Word } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tabs } from "../../ui/Tabs";
import { useTab } from "../../ui/useTab";
import { Footfalls } from "./Footfalls";
import { Manner } from "./Manner";
import { PaceTab } from "./PaceTab";
import { OneWay } from "./OneWay";

const TABS = { Way: WayTab, Footfalls, Pace: PaceTab, Manner };

/** The Ways bench: where somebody goes, where the feet stand, how fast, and how it looks. */
export function GoBench() {
  const member = useDesk((s) => active(s));
  const short = useDesk((s) => wayNow(s)?.footfalls.filter((one) => one.short > 0).length ?? 0);
  const [tab, setTab] = useTab<keyof typeof TABS>("go", "Way");
  const able = useDesk((s) => (s.ways?.casting === s.activeId ? s.ways.told.able : ""));
  if (!member) return null;
  if (member.prop || able)
    return (
      <Box sx={{ p: 1.5 }}>{member.prop ? "A thing is carried along a way: choose a figure that goes." : able}</Box>
    );
  const Tab = TABS[tab];
  return (
    <Tabs
      label="Ways"
      tabs={Object.keys(TABS) as (keyof typeof TABS)[]}
      tab={tab}
      onTab={setTab}
      counts={{ Footfalls: short }}
      testId="go-bench"
    >
      <Drawing />
      <Tab member={member} />
    </Tabs>
  );
}

/** What is being drawn, and how it is ended. */
function Drawing() {
  const drawn = useDesk((s) => s.wayDrawn);
  useEffect(() => {
    if (!drawn) return;
    const key = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLInputElement) return;
      const act = { Enter: () => void layWay(), Backspace: takeBackPlace }[event.key];
      if (!act) return;
      event.preventDefault();
      event.stopPropagation();
      act();
    };
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [drawn]);
  if (!drawn) return null;
  const places = drawn.points.length;
  return (
    <Section title="A way is drawn" hint={`${places} places, ${pathLength(drawn.points).toFixed(1)} m`}>
      <Said>Click along the ground, or draw with the button down. Backspace takes the last place back.</Said>
      <Line>
        <SmallButton disabled={places < (drawn.here ? 1 : 2)} onClick={() => void layWay()}>
          Lay it (Enter)
        </SmallButton>
        <SmallButton disabled={!places} onClick={takeBackPlace}>
          Last place back
        </SmallButton>
        <SmallButton onClick={leaveWay}>Leave it</SmallButton>
      </Line>
    </Section>
  );
}

function WayTab({ member }: { member: Member }) {
  const way = useWay();
  const editable = useDesk((s) => canChange(s));
  const drawn = useDesk((s) => s.wayDrawn);
  const frame = useDesk((s) => s.frame);
  const shot = useDesk((s) => s.shot)!;
  const columns = useDesk((s) => s.columns);
  const [first, last] =
    columns.length > 1 ? [Math.min(...columns), Math.max(...columns)] : [shot.play_start, shot.play_end];
  return (
    <>
      {way && <OneWay key={way.start} way={way} editable={editable} />}
      {!drawn && (
        <Section title={way ? "Another way" : "A way"} hint={`from ${frame} on`}>
          <Line>
            <SmallButton disabled={!editable} onClick={() => beginWay(true)}>
              Draw from where it stands
            </SmallButton>
            <SmallButton
              disabled={!editable}
              title="The first place is where the figure is put"
              onClick={() => beginWay(false)}
            >
              Draw and put it there
            </SmallButton>
          </Line>
          <Line>
            <Word>Turn on the spot</Word>
            {[90, 180, -90].map((angle) => (
              <SmallButton
                key={angle}
                disabled={!editable}
                title={angle > 0 ? "To its left" : "To its right"}
                onClick={() => void turnOnSpot((angle * Math.PI) / 180)}
              >
                {`${angle}°`.replace("-", "−")}
              </SmallButton>
            ))}
          </Line>
        </Section>
      )}
      {!drawn && (
        <Section title="Steps that are keyed" hint={columns.length > 1 ? "on the chosen columns" : "on what plays"}>
          <Line>
            <SmallButton
              disabled={!editable}
              title="Its steps become footfalls; how it differs from a plain gait stays, in a layer"
              onClick={() => void commit({ kind: "give way", first, last }, { ...here(), casting: member.id })}
            >
              {`Give ${first} to ${last} a way`}
            </SmallButton>
          </Line>
        </Section>
      )}
      {!way && !drawn && (
        <Section title="How it works">
          <Said>
            A figure goes along a way by itself, feet, weight and arms, from how fast it is gone. Footfalls lie on the
            ground and on the strip: drag them. Layers over it are yours.
          </Said>
        </Section>
      )}
      {way?.wrong && (
        <Section title="It cannot be gone so">
          <Said>{way.wrong}</Said>
        </Section>
      )}
    </>
  );
}
