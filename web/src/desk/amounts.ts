// The amount of the step that was made last, judged again: it is remade, and what stood before can be flipped to.
import type { AnyEdit } from "../model/types";
import { showFrame, showPose } from "./frames";
import type { LivePose } from "./live";
import { socket } from "./opening";
import { leaveTry, tryEdit } from "./posing";
import { commit, here, make, type Place, say } from "./steps";
import { canChange, desk, type DeskState, setDesk } from "./store";

type Judged = NonNullable<DeskState["judged"]>;

/** The step whose amount can be judged: the last one, and nothing has come after it. */
export const judgedNow = (s: DeskState = desk()): Judged | null =>
  s.judged && canChange(s) && (s.judged.going || s.judged.revision === s.revision) ? s.judged : null;

const change = (now: Partial<Judged>) => {
  const { judged } = desk();
  if (judged) setDesk({ judged: { ...judged, ...now } });
};

/** Shows another amount, which is not made yet. */
export function tryAmount(value: number) {
  const judged = judgedNow();
  if (!judged) return;
  if (judged.flipped) change({ flipped: false });
  tryEdit(judged.measure.at(value), judged.id, judged.place.casting);
}

let wanted: number | null = null;
let making: Promise<boolean> = Promise.resolve(false);
/** Remakes the step with another amount; of several in a hurry the last one counts. Resolves to whether it was made. */
export function makeAmount(value: number): Promise<boolean> {
  wanted = value;
  const judged = judgedNow();
  if (judged && !judged.going) making = remade();
  return making;
}

async function remade(): Promise<boolean> {
  for (let judged = judgedNow(); judged && wanted !== null; judged = judgedNow()) {
    const to = wanted;
    wanted = null;
    const measure = { ...judged.measure, value: to };
    change({ going: true, flipped: false, measure });
    const id = await make(judged.measure.at(to), judged.place, { instead: judged.id }, judged.field);
    if (!id) {
      wanted = null;
      if (desk().judged?.id === judged.id) setDesk({ judged: { ...judged, going: false } });
      return false; // which was said
    }
    if (desk().judged?.id !== judged.id) break; // something else was begun meanwhile
    change({ id, revision: desk().revision, going: false });
  }
  wanted = null;
  return true;
}

/**
 * Makes a change of one number of something that has several: in place of the last step where that was the same one,
 * so that a slider that is moved again and again makes a single step.
 */
export function commitNumber(edit: AnyEdit, field: string, value: number, place: Place = here()): Promise<boolean> {
  const judged = judgedNow();
  if (judged && !judged.going && judged.field === field && same(judged, edit, place)) return makeAmount(value);
  return commit(edit, place, {}, field);
}

function same({ measure, place }: Judged, edit: AnyEdit, now: Place): boolean {
  const before = measure.at(measure.value);
  const of = (one: AnyEdit) => [
    one.kind,
    "at" in one ? (one.at ?? ("start" in one ? one.start : null)) : null,
    "control" in one ? one.control : "",
    "number" in one ? one.number : 0,
    "frame" in one ? one.frame : null,
  ];
  return place.casting === now.casting && place.takeId === now.takeId && `${of(before)}` === `${of(edit)}`;
}

// Before and after

let before: { key: string; pose: LivePose } | null = null;
const keyOf = ({ id }: Judged, frame: number) => `${id} ${frame}`;

/** Has how the frame stood before the step ready, so that flipping waits for nothing. */
export async function readyBefore(): Promise<LivePose | null> {
  const judged = judgedNow();
  const { frame, playing } = desk();
  if (!judged || judged.going || playing || !socket()?.open) return null;
  const key = keyOf(judged, frame);
  if (before?.key === key) return before.pose;
  try {
    const { casting } = judged.place;
    const pose = await socket()!.ask({ do: "try", casting, frame, edit: null, instead: judged.id });
    before = { key, pose };
    return pose;
  } catch {
    return null; // it is asked for again when it is wanted
  }
}

/** Shows what stood before the step, and back. */
export async function flipAmount() {
  const judged = judgedNow();
  if (!judged) return;
  if (judged.flipped) {
    change({ flipped: false });
    return leaveTry();
  }
  const pose = await readyBefore();
  if (!pose) return say("What stood before cannot be shown now; it is there again when the server answers.");
  if (judgedNow()?.id !== judged.id) return;
  change({ flipped: true });
  showPose(pose, judged.place.casting);
}

/** What stands now is shown again: what stood before is of the frame on which it was asked for. */
export function leaveFlip() {
  if (!desk().judged?.flipped) return;
  change({ flipped: false });
  void showFrame(desk().frame);
}

export function closeAmount() {
  leaveFlip();
  setDesk({ judged: null });
}
