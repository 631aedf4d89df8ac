import { Suspense, useState } from "react";
import { useNavigate } from "react-router-dom";
import { ask, http } from "../../api/client";
import { openTake } from "../../desk/opening";
import { say } from "../../desk/steps";
import { takeRenamed } from "../../desk/taking";
import { canChange, useDesk } from "../../desk/store";
import { SmallButton } from "../../ui/SmallButton";
import { MenuOf } from "../../ui/opened";
import { later } from "../../ui/later";

const Away = later(() => import("./TakesAsked").then((m) => m.Away));
const Name = later(() => import("./TakesAsked").then((m) => m.Name));

/** The takes of the shot: going to one, beginning and naming one, and putting one away. */
export function Takes() {
  const shot = useDesk((s) => s.shot);
  const takeId = useDesk((s) => s.takeId);
  const name = useDesk((s) => s.takeName);
  const editable = useDesk((s) => canChange(s));
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [asked, setAsked] = useState<"new" | "rename" | "away" | null>(null);
  const go = useNavigate();
  if (!shot) return null;

  async function finish(given: string) {
    const kind = asked;
    setAsked(null);
    try {
      if (kind === "rename") {
        await ask(http.PATCH("/api/takes/{take_id}", { params: { path: { take_id: takeId } }, body: { name: given } }));
        takeRenamed(takeId, given);
      } else {
        const made = await ask(
          http.POST("/api/shots/{shot_id}/takes", {
            params: { path: { shot_id: shot!.id } },
            body: { name: given, source: takeId },
          }),
        );
        go(`/shots/${shot!.id}/takes/${made.id}`);
        await openTake(shot!.id, made.id);
        say(`${given} goes on from ${name}, which stays as it is.`);
      }
    } catch (error) {
      say((error as Error).message, true);
    }
  }

  async function putAway() {
    try {
      await ask(
        http.PATCH("/api/takes/{take_id}", { params: { path: { take_id: takeId } }, body: { put_away: true } }),
      );
      const next = shot!.takes.filter((t) => t.id !== takeId).at(-1)!;
      go(`/shots/${shot!.id}/takes/${next.id}`);
      await openTake(shot!.id, next.id);
      say(`${name} is put away. It can be brought back from the menu of takes.`);
    } catch (error) {
      say((error as Error).message, true);
    }
  }

  const takes = shot.takes.map(({ id, name }) => ({
    key: String(id),
    label: name,
    selected: id === takeId,
    act: () => go(`/shots/${shot.id}/takes/${id}`),
  }));
  const acts = [
    { label: "Set aside, and go on in a new take…", apart: true, act: () => setAsked("new") },
    { label: "Rename this take…", act: () => setAsked("rename") },
    { label: "Put this take away", disabled: shot.takes.length < 2, act: () => void putAway() },
    { label: "Takes put away…", act: () => setAsked("away") },
  ];
  return (
    <>
      <SmallButton onClick={(e) => setAt(e.currentTarget)} aria-label={`Take: ${name}`}>
        {name} ▾
      </SmallButton>
      <MenuOf at={at} onClose={() => setAt(null)} items={editable ? [...takes, ...acts] : takes} />
      <Suspense>
        {(asked === "new" || asked === "rename") && (
          <Name
            title={asked === "new" ? "New take from this one" : "Rename this take"}
            first={asked === "new" ? `Take ${shot.takes.length + 1}` : name}
            onDone={(n) => void finish(n)}
            onClose={() => setAsked(null)}
          />
        )}
        {asked === "away" && <Away shot={shot} onClose={() => setAsked(null)} />}
      </Suspense>
    </>
  );
}
