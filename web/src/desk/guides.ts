// Guides of the open shot: drawn, shared and taken away, and the one that is being drawn.
import { ask, http } from "../api/client";
import { type Guide, type GuideKind, NEEDED } from "../model/guides";
import { say } from "./steps";
import { desk, setDesk } from "./store";

/** Views in which a guide can lie on the picture: those without perspective, and what the shot camera films. */
const PICTURES = ["front", "side", "top", "back", "camera"] as const;
type OnPicture = (typeof PICTURES)[number];

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

/** Shows a guide elsewhere, which is not kept yet. */
export const liftGuide = (id: number, points: Guide["points"]) =>
  setDesk({ guides: desk().guides.map((guide) => (guide.id === id ? { ...guide, points } : guide)) });

/** Keeps a guide where it was moved to. */
export async function layGuide(id: number, points: Guide["points"]): Promise<void> {
  liftGuide(id, points);
  const body = { points: points as [number, number, number][] };
  try {
    await ask(http.PATCH("/api/guides/{guide_id}", { params: { path: { guide_id: id } }, body }));
  } catch (error) {
    say((error as Error).message, true);
  }
  reload();
}

const reload = () => void (desk().shot && loadGuides(desk().shot!.id));

export async function shareGuide(id: number, shared: boolean): Promise<void> {
  try {
    await ask(http.PATCH("/api/guides/{guide_id}", { params: { path: { guide_id: id } }, body: { shared } }));
  } catch (error) {
    say((error as Error).message, true);
  }
  reload();
}

export async function dropGuide(id: number): Promise<void> {
  try {
    await ask(http.DELETE("/api/guides/{guide_id}", { params: { path: { guide_id: id } } }));
  } catch (error) {
    say((error as Error).message, true);
  }
  reload();
}
