// Making steps: an edit, an undo, a way through the history. Each belongs to the take and character it was made on.
import { ApiError, ask, http, rememberSession, type Schemas, whoIsIn } from "../api/client";
import type { Basis } from "../model/types";
import { arrived, basisOf, onItsWay, revisionOf } from "./basis";
import { showFrame } from "./frames";
import { inLayers, poseIn, withLayer } from "./layers";
import { freeNumber } from "../model/layers";
import { newId, Outbox, type Step, type Told } from "../model/outbox";
import { chooseNothing } from "./choosing";
import { active, canChange, desk, setDesk } from "./store";
import { catchUp, takeOver } from "./taking";
import type { AnyEdit } from "../model/types";
import { measureOf } from "../model/amounts";
import { message } from "../ui/messages";
import { type Stored, unpackStep } from "../model/along";

const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

export const say = (text: string, bad = false) =>
  message(sentence(text), { variant: bad ? "error" : "default", preventDuplicate: true });

/** A question that a step has to wait for: shown by the desk, answered by the person. */
export interface Question {
  title: string;
  text: string;
  yes: string;
  no: string;
  answer: (yes: boolean) => void;
}

const asking = (question: Omit<Question, "answer">) =>
  new Promise<boolean>((done) => {
    setDesk({
      question: {
        ...question,
        answer: (yes) => {
          setDesk({ question: null });
          done(yes);
        },
      },
    });
  });

/** A new sign-in brings a new token against forged requests with it, and perhaps somebody else. */
const renewSession = () =>
  ask(http.GET("/api/session"))
    .then(rememberSession)
    .catch(() => undefined);

type Sending = (told: Told) => Promise<Stored>;

/** The frame that is looked at: frames that a step changes come along with its answer. */
const looked = (takeId: number) => ({ looked: takeId === desk().takeId ? desk().frame : null });
const AS_BYTES = { parseAs: "arrayBuffer" } as const;
const stepOf = (takeId: number, what: string, send: Sending, basis = basisOf(takeId)): Step => ({
  id: newId(),
  takeId,
  by: whoIsIn(),
  basis,
  what,
  send,
});

const edits = new WeakMap<Step, { casting: number; edit: AnyEdit; read: number | null; instead: string | null }>();

function editStep(
  takeId: number,
  casting: number,
  edit: AnyEdit,
  what: string,
  { basis, read = null, instead = null }: MadeOn = {},
): Step {
  const params = { path: { take_id: takeId } };
  const send: Sending = (told) => {
    const body = { ...told, ...looked(takeId), casting, edit: edit as Schemas["EditIn"]["edit"], read, instead };
    return ask(http.POST("/api/takes/{take_id}/edits", { params, body, ...AS_BYTES })).then(unpackStep);
  };
  const step = stepOf(takeId, what, send, basis);
  edits.set(step, { casting, edit, read, instead });
  return step;
}

/**
 * What a step was made on where that is not what the page shows now, the frame of a pose that was read for it, and the
 * name of the last step where it takes the place of that.
 */
export interface MadeOn {
  basis?: Basis;
  read?: number | null;
  instead?: string | null;
}

export const outbox = new Outbox({
  revision: revisionOf,
  person: whoIsIn,
  async done({ id, takeId }, done) {
    arrived(id, done.revision);
    if (takeId === desk().takeId) for (const note of done.notes) say(note);
    await takeOver(takeId, done);
  },
  async clash(step, error) {
    await untilCaughtUp(step.takeId);
    const made = edits.get(step);
    await backToWhatIsStored();
    if (!made) {
      say(error.message, true);
      return null;
    }
    const yes = await asking({
      title: "This was changed meanwhile",
      text: `${sentence(error.message)}.`,
      yes: "Make my step on it all the same",
      no: "Leave it as it is now",
    });
    return yes ? instead(step, editStep(step.takeId, made.casting, made.edit, step.what)) : null;
  },
  async asks(step, error) {
    await backToWhatIsStored();
    const made = edits.get(step);
    const yes =
      made &&
      (await asking({
        title: "Something would move by this",
        text: `${sentence(error.message)}.`,
        yes: "Change it anyway",
        no: "Leave it as it is",
      }));
    if (!yes) return null;
    const anyway = { ...made.edit, anyway: true } as AnyEdit;
    return instead(step, editStep(step.takeId, made.casting, anyway, step.what, { ...made, basis: step.basis }));
  },
  lookUp: ({ id, takeId }) =>
    ask(
      http.GET("/api/takes/{take_id}/named/{key}", {
        params: { path: { take_id: takeId, key: id }, query: { since: revisionOf(takeId) } },
      }),
    ).catch((error: Error) => {
      if (error instanceof ApiError && error.status === 404) return null;
      throw error;
    }),
  elsewhere: (step, signedIn) =>
    say(
      signedIn
        ? `${signedIn} is signed in now. A step of ${step.by}'s waits (${step.what}): it is stored when ${step.by} ` +
            "signs in again in this browser, and for nobody else."
        : "You are signed out. Sign in again in another tab of this browser: this step waits and is then stored.",
      true,
    ),
  renew: renewSession,
  state: (waiting, since, whose) => setDesk({ waiting, unreachedSince: since, waitsFor: whose }),
  setAside(step, reason) {
    setDesk({ setAside: [...desk().setAside, { id: step.id, takeId: step.takeId, what: step.what, reason }] });
    keptAside.set(step.id, step);
    say(
      `Not stored: ${step.what}. ${reason} The step is set aside, and the next ones go on; ` +
        `it can be tried again from the bar.`,
      true,
    );
    void backToWhatIsStored();
  },
});

const keptAside = new Map<string, Step>();

/** Sends a step again that was set aside, or lets it go. */
export function resolveAside(id: string, again: boolean) {
  const step = keptAside.get(id);
  keptAside.delete(id);
  setDesk({ setAside: desk().setAside.filter((s) => s.id !== id) });
  if (!again || !step) return;
  // Made anew by the person, on what they see now.
  const anew = { ...step, basis: basisOf(step.takeId) };
  const made = edits.get(step);
  if (made) edits.set(anew, made);
  void put(anew);
}

async function untilCaughtUp(takeId: number) {
  for (let wait = 400; ; wait = Math.min(wait * 1.6, 10_000)) {
    try {
      return await catchUp(takeId);
    } catch (error) {
      const status = (error as ApiError).status;
      if (status && status < 500 && status !== 429 && status !== 401) return say((error as Error).message, true);
      setDesk({ unreachedSince: desk().unreachedSince ?? new Date() });
      await new Promise((done) => setTimeout(done, wait));
    }
  }
}

async function backToWhatIsStored() {
  setDesk({ dragged: null });
  await showFrame(desk().frame);
}

/** A step that is sent in place of another: to whatever was made after that, it is it. */
function instead(before: Step, step: Step): Step {
  onItsWay(step.takeId, step.id);
  arrived(before.id, null);
  return step;
}

/** Says why a step was not stored, with the ways on that there are. */
function refuse(step: Step, reason: string, error?: ApiError) {
  const made = edits.get(step);
  const shows = error?.body.shows as { source: number; begins: number; by: string } | undefined;
  if (!shows || !made) return say(reason, true);
  const place = { takeId: step.takeId, casting: made.casting, frame: desk().frame };
  const room: AnyEdit =
    shows.by === "way" ? { kind: "way keys", at: shows.begins } : { kind: "free", at: shows.begins };
  const ways = [
    { label: `Go to frame ${shows.source}`, act: () => void showFrame(shows.source) },
    {
      label: shows.by === "way" ? "Make the way into keys, and do it" : "Free it into keys, and do it",
      act: () => void afterFirst(room, made.edit, place),
    },
  ];
  if (inLayers(made.edit))
    ways.splice(1, 0, { label: "Do it in a layer", act: () => void doInLayer(made.edit, place) });
  message(sentence(reason), { variant: "error", preventDuplicate: true, ways });
}

/** An edit after what makes room for it: one step, and where it cannot be made nothing is. */
function afterFirst(room: AnyEdit, edit: AnyEdit, place: Place): Promise<boolean> {
  const member = desk().cast.find((one) => one.id === place.casting);
  const parts = [room, withLayer(edit, member)].map((one) => ({ casting: place.casting, edit: one }));
  return commit({ kind: "together", parts, whole: true, anyway: false }, place);
}

/** Makes an edit in a new layer, in which the character is posed from then on. */
async function doInLayer(edit: AnyEdit, place: Place) {
  const member = desk().cast.find((one) => one.id === place.casting);
  if (!member) return;
  const layer = freeNumber(member.clip);
  const room: AnyEdit = { kind: "add layer", name: "", controls: [], turned: true, layer: 0 };
  if (await afterFirst(room, { ...edit, layer } as AnyEdit, place)) poseIn(member, layer);
}

/** Sends a step. Resolves to the name under which it is stored; empty where it is not. */
async function put(step: Step): Promise<string> {
  onItsWay(step.takeId, step.id);
  const sent = await outbox.put(step);
  if (sent.stored) return sent.id;
  arrived(step.id, null);
  if (!sent.told) refuse(step, sent.reason, sent.error);
  if (step.takeId === desk().takeId) await backToWhatIsStored();
  return "";
}

/** Where a step is made: it stays with that, whatever is opened before it is sent. */
export interface Place {
  takeId: number;
  casting: number;
  frame: number;
}

export const here = (): Place => ({ takeId: desk().takeId, casting: active()?.id ?? 0, frame: desk().frame });

/** Commits one edit, of the active character unless a place is given. Resolves to whether it was stored. */
export async function commit(edit: AnyEdit, place: Place = here(), on: MadeOn = {}, field = ""): Promise<boolean> {
  if (!place.casting) return false;
  if (!canChange()) {
    say("You look as a guest here: nothing was changed. Ask the lead to make you an animator.", true);
    return false;
  }
  settle();
  const member = desk().cast.find((m) => m.id === place.casting);
  return (await make(withLayer(edit, member) as AnyEdit, place, on, field)) !== "";
}

/** Makes a step, whose amount can be judged again once it is stored if it has one. Resolves to its name, or none. */
export async function make(edit: AnyEdit, place: Place, on: MadeOn, field: string): Promise<string> {
  const member = desk().cast.find((m) => m.id === place.casting);
  const kind = edit.kind === "by hand" ? "pose" : edit.kind;
  const what = `${kind}${"frame" in edit ? ` at ${edit.frame}` : ""}${member ? ` (${member.name})` : ""}`;
  const measure = on.instead ? null : measureOf(edit, field);
  const mine = settled;
  const id = await put(editStep(place.takeId, place.casting, edit, what, on));
  if (id && measure && mine === settled && place.takeId === desk().takeId)
    setDesk({
      judged: { id, revision: desk().revision, place, measure, field, flipped: false, going: false },
    });
  return id;
}

/** Raised whenever something else is begun: the amount of the step before is what it is, then. */
let settled = 0;
export function settle() {
  settled++;
  if (desk().judged) setDesk({ judged: null });
}

function back(path: "/api/takes/{take_id}/undo" | "/api/takes/{take_id}/redo", what: string) {
  const { takeId } = desk();
  const params = { path: { take_id: takeId } };
  const send: Sending = (told) =>
    ask(http.POST(path, { params, body: { ...told, ...looked(takeId) }, ...AS_BYTES })).then(unpackStep);
  return put(stepOf(takeId, what, send));
}
export function undo() {
  // A step that is on its way can be undone as well: it comes first.
  if (!desk().canUndo && !desk().waiting) return say("There is nothing to undo.");
  chooseNothing(); // columns and keys may not be there any more
  settle();
  return back("/api/takes/{take_id}/undo", "undo");
}
export function redo() {
  if (!desk().canRedo) return say("There is nothing to redo.");
  chooseNothing(); // columns and keys may not be there any more
  settle();
  return back("/api/takes/{take_id}/redo", "redo");
}
export function goTo(step: number | null) {
  settle();
  const { takeId } = desk();
  const params = { path: { take_id: takeId } };
  const send: Sending = (told) => {
    const body = { ...told, ...looked(takeId), step };
    return ask(http.POST("/api/takes/{take_id}/goto", { params, body, ...AS_BYTES })).then(unpackStep);
  };
  return put(stepOf(takeId, "a way through the history", send));
}

/** Sets the frames a second of the shot, a step of each of its takes: each key keeps its frame, or its time. */
export function setRate(fps: number, keep: "frames" | "seconds") {
  const { takeId } = desk();
  const params = { path: { take_id: takeId } };
  if (keep === "seconds") chooseNothing(); // columns and keys will lie elsewhere
  const send: Sending = (told) => ask(http.POST("/api/takes/{take_id}/rate", { params, body: { ...told, fps, keep } }));
  return put(stepOf(takeId, `${fps} frames a second`, send));
}

/** A page with steps on the way is not closed without a word. */
window.addEventListener("beforeunload", (event) => {
  if (outbox.waiting || desk().setAside.length) event.preventDefault();
});
