// Groups of controls, hidden and shown by the person: kept for them, with the shot.
import { nothingOwn, type Own, readOwn, suggestedHidden, type Suggested, withGroup } from "../model/groups";
import { keep, keptFor } from "./keeping";
import { say } from "./steps";
import { active, desk, type Member, setDesk } from "./store";

const ownOf = (member: Member): Own => desk().groups[member.id] ?? nothingOwn();

function have(member: Member, own: Own) {
  const groups = { ...desk().groups, [member.id]: own };
  setDesk({ groups });
  void keep("groups", groups, desk().shot?.id);
}

/** Takes up what was kept of a shot; where that is not known now, all is as it is at first. */
export async function readGroups(shot: number): Promise<void> {
  const kept = await keptFor(shot);
  if (kept && desk().shot?.id === shot) setDesk({ groups: readOwn(kept["groups"]) });
}

export function hideGroup(member: Member, name: string, hidden: boolean) {
  const own = ownOf(member);
  have(member, { ...own, groups: own.groups.map((one) => (one.name === name ? { ...one, hidden } : one)) });
}

export function hideSuggested(member: Member, group: Suggested, hidden: boolean) {
  const own = ownOf(member);
  if (suggestedHidden(group, member.rig.controls, own) === hidden) return;
  have(member, { ...own, suggested: { ...own.suggested, [group.name]: hidden } });
}

export function dropGroup(member: Member, name: string) {
  const own = ownOf(member);
  have(member, { ...own, groups: own.groups.filter((one) => one.name !== name) });
}

/** Keeps what is selected as a group of its own. */
export function groupSelected(name: string): boolean {
  const member = active();
  const { selection } = desk();
  if (!member || !name.trim()) return false;
  if (!selection.length) {
    say("Select the controls that shall be a group.");
    return false;
  }
  have(member, withGroup(ownOf(member), name, selection));
  return true;
}

/** Puts the selected controls away one by one; they are keyed and copied with the whole all the same. */
export function hideSelected() {
  const member = active();
  const { selection } = desk();
  if (!member || !selection.length) return say("Select the controls that shall be hidden.");
  const own = ownOf(member);
  have(member, { ...own, away: [...new Set([...own.away, ...selection])] });
  setDesk({ selection: [] });
}

export function showPutAway(member: Member) {
  have(member, { ...ownOf(member), away: [] });
}
