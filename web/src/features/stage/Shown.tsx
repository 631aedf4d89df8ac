import Box from "@mui/material/Box";
import { useState } from "react";
import { dropGroup, groupSelected, hideGroup, hideSelected, hideSuggested, showPutAway } from "../../desk/grouping";
import { beginGuide, dropGuide, shareGuide } from "../../desk/guides";
import { pictures } from "../../desk/pictures";
import { active, canChange, GROUPS, groupOf, type Member, useDesk } from "../../desk/store";
import { setLooks } from "../../desk/viewing";
import { type GuideKind, NEEDED } from "../../model/guides";
import { suggestedHidden } from "../../model/groups";
import { lineField, useInks, useLook } from "../../ui/look";
import { Choice } from "../../ui/Choice";
import { Line } from "../../ui/Section";
import { SmallButton } from "../../ui/SmallButton";
import { Tick } from "../../ui/Tick";

/** What is to be seen on the stage: parts of the figure, groups of its controls, ghosts, sights. */
export function Shown({ onClose }: { onClose: () => void }) {
  const ink = useInks();
  const looks = useDesk((s) => s.looks);
  const member = useDesk((s) => active(s));
  // What a suggested group holds goes by that.
  const grouped = new Set(member?.rig.groups.flatMap((group) => group.controls));
  const parts = new Set(member?.rig.controls.filter((control) => !grouped.has(control.name)).map(groupOf));
  return (
    <Box sx={{ p: 1.5, display: "grid", gridTemplateColumns: "auto auto auto", columnGap: 2 }}>
      <Box sx={{ display: "grid", alignContent: "start" }} role="group" aria-label="Parts of the body">
        {GROUPS.filter(([group]) => parts.has(group)).map(([group, label]) => (
          <Tick
            key={group}
            label={label}
            on={!looks.hidden[group]}
            onChange={(on) => setLooks({ hidden: { ...looks.hidden, [group]: !on } })}
          />
        ))}
        <Tick apart label="Skin can be clicked" on={looks.pickSkin} onChange={(on) => setLooks({ pickSkin: on })} />
        <Tick
          label="Ghosts of the keys before and after"
          on={looks.ghosts > 0}
          onChange={(on) => setLooks({ ghosts: on ? 1 : 0 })}
        />
        <Tick label="Stage follows a travelling figure" on={looks.follow} onChange={(on) => setLooks({ follow: on })} />
        <Tick label="Sights beside the stage" on={looks.sights} onChange={(on) => setLooks({ sights: on })} />
      </Box>
      <Box sx={{ display: "grid", alignContent: "start", borderLeft: 1, borderColor: "divider", pl: 2, gap: 0.5 }}>
        {member && <Groups member={member} />}
        <Drawn />
      </Box>
      <GuideList onBegin={onClose} />
      <Box sx={{ fontSize: 12, color: ink.faint, mt: 0.5, gridColumn: "1 / 4" }}>
        What is hidden is still keyed and copied with the whole.
      </Box>
    </Box>
  );
}

/** Groups of controls: those that the character suggests, and the person's own, of this shot. */
function Groups({ member }: { member: Member }) {
  const ink = useInks();
  const own = useDesk((s) => s.groups[member.id]);
  const selection = useDesk((s) => s.selection);
  const [name, setName] = useState("");
  const away = own?.away.length ?? 0;
  const keep = () => groupSelected(name) && setName("");
  return (
    <Box
      sx={{ display: "grid", alignContent: "start", width: 240, gap: 0.5 }}
      role="group"
      aria-label={`Groups of ${member.name}`}
    >
      <Box sx={{ fontSize: 12, color: ink.faint, overflow: "hidden", textOverflow: "ellipsis" }}>
        Groups of {member.name}
      </Box>
      <Box sx={{ maxHeight: 260, overflowY: "auto", display: "grid" }}>
        {member.rig.groups.map((group) => (
          <Tick
            key={group.name}
            label={group.name}
            on={!suggestedHidden(group, member.rig.controls, own)}
            onChange={(on) => hideSuggested(member, group, !on)}
          />
        ))}
        {own?.groups.map((group) => (
          <Box key={`own ${group.name}`} sx={{ display: "flex", alignItems: "center" }}>
            <Box
              sx={{ flex: 1, minWidth: 0, "& .MuiTypography-root": { overflow: "hidden", textOverflow: "ellipsis" } }}
            >
              <Tick
                label={`${group.name} (${group.controls.length})`}
                on={!group.hidden}
                onChange={(on) => hideGroup(member, group.name, !on)}
              />
            </Box>
            <SmallButton
              aria-label={`Drop the group ${group.name}`}
              title="The group goes; its controls stay"
              onClick={() => dropGroup(member, group.name)}
              sx={{ px: 0.75, height: 22 }}
            >
              ✕
            </SmallButton>
          </Box>
        ))}
      </Box>
      <Line>
        <input
          aria-label="Name of a new group"
          placeholder="Name of a new group"
          value={name}
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") keep();
          }}
          style={{ ...lineField(ink), flex: 1, minWidth: 90 }}
        />
        <SmallButton disabled={!selection.length || !name.trim()} onClick={keep} title="Of what is selected">
          Group
        </SmallButton>
      </Line>
      <Line>
        <SmallButton disabled={!selection.length} onClick={hideSelected}>
          Hide the selected
        </SmallButton>
        <SmallButton disabled={!away} onClick={() => showPutAway(member)}>
          {away ? `Show ${away} again` : "None put away"}
        </SmallButton>
      </Line>
    </Box>
  );
}

/** How finely the stage is drawn, and how often what is computed follows the hand: this person's choice, by browser. */
function Drawn() {
  const look = useLook();
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", pt: 0.5 }} role="group" aria-label="How the stage is drawn">
      <Line>
        <Choice
          label="Drawn"
          show
          value={look.drawing}
          options={[
            { value: "itself", label: "as the machine lets it" },
            { value: "whole", label: "always whole" },
            { value: "quick", label: "quick until it rests" },
          ]}
          onChange={look.setDrawing}
        />
      </Line>
      <Tick label="Shadows" on={look.shadow} onChange={look.setShadow} />
      {pictures.source?.slow && <Tick label="Smooth edges when at rest" on={look.smooth} onChange={look.setSmooth} />}
      <Line>
        <Choice
          label="Follows the hand"
          show
          value={String(look.pace) as "0" | "100" | "500"}
          options={[
            { value: "0", label: "at once" },
            { value: "100", label: "ten times a second" },
            { value: "500", label: "twice a second" },
          ]}
          onChange={(pace) => look.setPace(Number(pace))}
        />
      </Line>
    </Box>
  );
}

/** Guides of the shot: drawn by clicks on the stage, snapped to, shared or one's own. */
function GuideList({ onBegin }: { onBegin: () => void }) {
  const ink = useInks();
  const guides = useDesk((s) => s.guides);
  const shown = useDesk((s) => s.looks.guides);
  const editable = useDesk((s) => canChange(s));
  const [inView, setInView] = useState(false);
  const begin = (kind: GuideKind) => {
    onBegin();
    beginGuide(kind, inView, false);
  };
  return (
    <Box
      role="group"
      aria-label="Guides"
      sx={{
        display: "grid",
        alignContent: "start",
        borderLeft: 1,
        borderColor: "divider",
        pl: 2,
        gap: 0.5,
        width: 210,
      }}
    >
      <Box sx={{ fontSize: 12, color: ink.faint }}>Guides, drawn by clicks on the stage</Box>
      <Line>
        {(Object.keys(NEEDED) as GuideKind[]).map((kind) => (
          <SmallButton key={kind} onClick={() => begin(kind)}>
            {kind[0].toUpperCase() + kind.slice(1)}
          </SmallButton>
        ))}
      </Line>
      <Tick label="On the picture of this view" on={inView} onChange={setInView} />
      <Tick label="Shown, and snapped to" on={shown} onChange={(on) => setLooks({ guides: on })} />
      <Box sx={{ maxHeight: 220, overflowY: "auto", display: "grid" }}>
        {guides.map((guide, n) => (
          <Box key={guide.id} sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
            <Box sx={{ flex: 1, fontSize: 12.5 }}>
              {n + 1}. {guide.kind}
              <span style={{ color: ink.faint }}>{guide.view ? `, ${guide.view}` : ""}</span>
            </Box>
            {guide.mine ? (
              <Tick label="shared" on={guide.shared} onChange={(on) => editable && void shareGuide(guide.id, on)} />
            ) : (
              <span style={{ color: ink.faint, fontSize: 12 }}>shared by others</span>
            )}
            <SmallButton
              aria-label={`Take away guide ${n + 1}`}
              onClick={() => void dropGuide(guide.id)}
              sx={{ px: 0.75, height: 22 }}
            >
              ✕
            </SmallButton>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
