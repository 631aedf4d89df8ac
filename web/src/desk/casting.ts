// What is kept of those who play: protection and sets; and the shot's frames.
import { ask, http } from "../api/client";
import { fetchSpans, freshen } from "./frames";
import { go } from "./playing";
import { say } from "./steps";
import { type Member, active, desk, setDesk } from "./store";

const changeMember = (id: number, change: Partial<Member>) =>
  setDesk({ cast: desk().cast.map((m) => (m.id === id ? { ...m, ...change } : m)) });

/** Keeps controls from every edit, or lets them go. */
export async function protect(member: Member, names: string[], on: boolean) {
  const kept = new Set(member.protect);
  for (const name of names)
    if (on) kept.add(name);
    else kept.delete(name);
  try {
    const now = await ask(
      http.PATCH("/api/castings/{casting_id}", {
        params: { path: { casting_id: member.id } },
        body: { protected: [...kept], was: member.protect },
      }),
    );
    changeMember(member.id, { protect: now.protected });
  } catch (error) {
    say((error as Error).message, true);
  }
}

/** Keeps controls as a set; one of the same name is replaced. Says whether it is kept. */
export async function keepSet(
  name: string,
  controls: string[],
  pivot: string,
  beside: Record<number, string[]> = {},
): Promise<boolean> {
  const member = active();
  if (!member) return false;
  try {
    const made = await ask(
      http.POST("/api/castings/{casting_id}/sets", {
        params: { path: { casting_id: member.id } },
        body: { name, controls, pivot, beside },
      }),
    );
    changeMember(member.id, {
      sets: [...member.sets.filter((s) => s.name !== made.name), made].sort((a, b) => a.name.localeCompare(b.name)),
    });
    say(`The set ${made.name} is kept.`);
    return true;
  } catch (error) {
    say((error as Error).message, true);
    return false;
  }
}

export async function dropSet(id: number) {
  const member = active();
  if (!member) return;
  try {
    await ask(
      http.DELETE("/api/castings/{casting_id}/sets/{set_id}", {
        params: { path: { casting_id: member.id, set_id: id } },
      }),
    );
    changeMember(member.id, { sets: member.sets.filter((s) => s.id !== id) });
  } catch (error) {
    say((error as Error).message, true);
  }
}

export async function changeShot(
  change: Partial<Record<"start" | "end" | "play_start" | "play_end" | "gravity", number>>,
) {
  const { shot, cast } = desk();
  if (!shot) return;
  // Who plays all of it goes on playing all of it.
  const all = shot.play_start === shot.start && shot.play_end === shot.end;
  const { start, end } = change;
  const along = all
    ? { ...(start === undefined ? {} : { play_start: start }), ...(end === undefined ? {} : { play_end: end }) }
    : {};
  const body = { ...change, ...along };
  try {
    const now = await ask(http.PATCH("/api/shots/{shot_id}", { params: { path: { shot_id: shot.id } }, body }));
    setDesk({ shot: now });
    if (now.start !== shot.start || now.end !== shot.end) {
      for (const member of cast) member.motion.resize(now.start, now.end);
      if (!(await fetchSpans(cast.map((member) => ({ member, first: now.start, last: now.end }))))) void freshen();
    }
    go(desk().frame);
  } catch (error) {
    say((error as Error).message, true);
  }
}
