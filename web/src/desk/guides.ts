// Guides of the open shot: drawn, shared and taken away, and the one that is being drawn.
import { ask, http } from "../api/client";
import { type Guide, type GuideKind, NEEDED } from "../model/guides";
import { say } from "./steps";
import { desk, setDesk } from "./store";

/** Views in which a guide can lie on the picture: those without perspective, and what the shot camera films. */
const PICTURES = ["front", "side", "top", "back", "camera"] as const;
type OnPicture = (typeof PICTURES)[number];
type Points = [number, number, number][];

export async function loadGuides(shot: number): Promise<void> {
  const found = await ask(http.GET("/api/shots/{shot_id}/guides", { params: { path: { shot_id: shot } } })).catch(
    () => null,
  );
  if (found && desk().shot?.id === shot) setDesk({ guides: found });
}

/** The next clicks on the stage place a guide. */
export function beginGuide(kind: GuideKind, inView: boolean, shared: boolean) {
  const { view } = desk();
  if (inView && !PICTURES.includes(view as OnPicture))
    return say(
      "A guide lies on the picture of the front, side, top or back view or of the shot camera: look so first.",
    );
  setDesk({ drawing: { kind, view: inView ? view : "", shared, points: [] }, readout: wanted(kind, 0) });
}

const WANTED: Record<GuideKind, string[]> = {
  point: ["where it shall lie"],
  line: ["one end of it", "its other end"],
  arc: ["one end of it", "a place on it", "its other end"],
};
const wanted = (kind: GuideKind, placed: number) => `Click ${WANTED[kind][placed]} (Escape leaves it)`;

export function leaveGuide(): boolean {
  if (!desk().drawing) return false;
  setDesk({ drawing: null, readout: "" });
  return true;
}

/** One place more of the guide that is being drawn; with the last one it is kept. */
export async function placeGuide(place: [number, number, number]): Promise<void> {
  const { drawing, shot, guides } = desk();
  if (!drawing || !shot) return;
  const points = [...drawing.points, place];
  if (points.length < NEEDED[drawing.kind]) {
    setDesk({ drawing: { ...drawing, points }, readout: wanted(drawing.kind, points.length) });
    return;
  }
  setDesk({ drawing: null, readout: "" });
  try {
    const body = { kind: drawing.kind, view: drawing.view as "" | OnPicture, shared: drawing.shared, points };
    const made = await ask(http.POST("/api/shots/{shot_id}/guides", { params: { path: { shot_id: shot.id } }, body }));
    if (desk().shot?.id === shot.id) setDesk({ guides: [...guides.filter(({ id }) => id !== made.id), made] });
  } catch (error) {
    say((error as Error).message, true);
  }
}

/** A guide of the shot as it is shown from now on; what is kept comes when the server has answered. */
const shown = (id: number, now: Partial<Guide>) =>
  setDesk({ guides: desk().guides.map((guide) => (guide.id === id ? { ...guide, ...now } : guide)) });

/** Shows a guide elsewhere, which is not kept yet. */
export const liftGuide = (id: number, points: Guide["points"]) => shown(id, { points });

const place = (id: number) => ({ params: { path: { guide_id: id } } });

/** Keeps a guide where it was moved to. */
export const layGuide = (id: number, points: Guide["points"], before: Guide["points"]) => {
  shown(id, { points });
  const call = http.PATCH("/api/guides/{guide_id}", { ...place(id), body: { points: points as Points } });
  return kept(ask(call), () => shown(id, { points: before }));
};

export const shareGuide = (id: number, shared: boolean) => {
  shown(id, { shared });
  const call = http.PATCH("/api/guides/{guide_id}", { ...place(id), body: { shared } });
  return kept(ask(call), () => shown(id, { shared: !shared }));
};

export const dropGuide = (id: number) => {
  const { guides } = desk();
  setDesk({ guides: guides.filter((guide) => guide.id !== id) });
  return kept(ask(http.DELETE("/api/guides/{guide_id}", place(id))), () => setDesk({ guides }));
};

let last = 0;
/** Waits for a change to be kept, or says why it is not; then shows what is stored, unless more has been changed. */
async function kept(change: Promise<unknown>, back: () => void): Promise<void> {
  const mine = ++last;
  const { shot } = desk();
  await change.catch((error: Error) => {
    if (mine === last && shot?.id === desk().shot?.id) back();
    say(error.message, true);
  });
  if (shot && mine === last && shot.id === desk().shot?.id) await loadGuides(shot.id);
}
