// Steps on their way to the server: one after the other, each until it is stored or refused. Nothing is dropped unsaid.
import { ApiError } from "../api/client";
import type { Stored } from "./along";
import type { Basis } from "./types";

/** A step from the moment it is made: it belongs to its take, whichever is open when it is sent, and to its maker. */
export interface Step {
  id: string;
  takeId: number;
  /** Whose it is, by account: it is stored for nobody else. */
  by: string;
  /** What it was made on, however long it waits. */
  basis: Basis;
  /** What it is, in a few words, for the person. */
  what: string;
  send: (told: Told) => Promise<Stored>;
}

/** What every step tells the server of itself. */
export interface Told extends Basis {
  id: string;
  by: string;
  /** The revision that the page shows as it sends it: the answer says what has changed since. */
  shown: number;
}

/**
 * `id`: the name under which it is stored, not its first one where the person had to be asked. "told": the person knows
 * already why it was not stored.
 */
export type Sent = { stored: true; id: string } | { stored: false; reason: string; told: boolean; error?: ApiError };

interface Handlers {
  /** The revision of a take that the page knows. */
  revision: (takeId: number) => number;
  /** Who is signed in; empty for nobody. */
  person: () => string;
  /** A step was stored: what it changed. Whatever fails in here does not send the step again. */
  done: (step: Step, done: Stored) => Promise<void>;
  /** Others changed what it has to do with: brings the page up to date and asks. Resolves to one to send instead. */
  clash: (step: Step, error: ApiError) => Promise<Step | null>;
  /** It needs the person's word first. Resolves to a step to send instead. */
  asks: (step: Step, error: ApiError) => Promise<Step | null>;
  /** What the server stored under the name of a step whose answer it failed at; null for nothing. */
  lookUp: (step: Step) => Promise<Stored | null>;
  /** Nobody is signed in, or somebody else is: the step waits for whose it is. */
  elsewhere: (step: Step, signedIn: string) => void;
  /** Takes up the sign-in that there may be by now. */
  renew: () => Promise<void>;
  /** What waits, since when the server does not take it (null: it does), and whose sign-in it waits for, if any. */
  state: (waiting: number, since: Date | null, whose: string) => void;
  /** The server fails at this step every time: it is set aside, with the reason, and the next ones go on. */
  setAside: (step: Step, reason: string) => void;
}

const FIRST_WAIT = 400;
const LONGEST_WAIT = 20_000;
const LOOK_AGAIN = 2000;
/** So often a step is sent that the server itself breaks on, while it answers other things. */
const TRIES = 3;

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** A name for a step. crypto.randomUUID is there on secure pages only, and a studio's own network may have none. */
export function newId(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))].map((n) => n.toString(16).padStart(2, "0")).join("");
}

export class Outbox {
  /** One queue a person: what waits for somebody's sign-in holds nobody else up. */
  private readonly queues = new Map<string, Promise<unknown>>();
  private count = 0;
  private since: Date | null = null;
  private whose = "";

  constructor(private readonly handlers: Handlers) {}

  /** How many steps are not stored yet. */
  get waiting() {
    return this.count;
  }

  /** Resolves when all that the person has made until now is stored or refused. */
  async settled(): Promise<void> {
    await this.queues.get(this.handlers.person());
  }

  /** Sends a step after those of its maker before it. */
  put(step: Step): Promise<Sent> {
    this.count++;
    this.tell();
    const sent = (this.queues.get(step.by) ?? Promise.resolve())
      .then(() => this.deliver(step))
      .finally(() => {
        this.count--;
        this.tell();
      });
    this.queues.set(
      step.by,
      sent.catch(() => undefined),
    );
    return sent;
  }

  private tell() {
    this.handlers.state(this.count, this.since, this.whose);
  }

  private away(is: boolean, whose = "") {
    if (is === (this.since !== null) && whose === this.whose) return;
    this.since = is ? (this.since ?? new Date()) : null;
    this.whose = whose;
    this.tell();
  }

  /** Waits until the one is signed in whose step it is. */
  private async itsMaker(step: Step) {
    for (let told = ""; this.handlers.person() !== step.by;) {
      await this.handlers.renew();
      const now = this.handlers.person();
      if (now === step.by) return;
      this.away(true, step.by);
      if (told !== `in: ${now}`) this.handlers.elsewhere(step, now);
      told = `in: ${now}`;
      await pause(LOOK_AGAIN);
    }
  }

  private async deliver(given: Step): Promise<Sent> {
    let step = given;
    let broken = 0;
    let renewed = false;
    for (let wait = FIRST_WAIT; ; wait = Math.min(wait * 1.6, LONGEST_WAIT)) {
      await this.itsMaker(step);
      let done: Stored | null = null;
      try {
        const { id, by, basis } = step;
        done = await step.send({ ...basis, id, by, shown: this.handlers.revision(step.takeId) });
      } catch (error) {
        if (!(error instanceof ApiError)) {
          this.handlers.setAside(step, String(error));
          return { stored: false, reason: String(error), told: true };
        }
        if (error.status === 500 && ++broken >= TRIES) {
          // It may be stored all the same, and only its answer have failed: its name tells.
          try {
            done = await this.handlers.lookUp(step);
          } catch {
            this.away(true);
            await pause(wait);
            continue; // that cannot be known now
          }
          this.away(false);
          if (!done) {
            this.handlers.setAside(step, error.message);
            return { stored: false, reason: error.message, told: true };
          }
        } else if (error.status === 0 || error.status >= 500 || error.status === 429) {
          this.away(true);
          await pause(wait);
          continue;
        } else if (error.status === 401 || error.body.whose || (error.status === 403 && !renewed)) {
          // Signed out, or somebody may have signed in elsewhere in this browser: the token is old then.
          renewed = !error.body.whose && error.status === 403;
          await this.handlers.renew();
          await pause(FIRST_WAIT);
          continue;
        } else {
          this.away(false);
          const asked = error.status === 409 || Boolean(error.body.asks);
          const instead = !asked
            ? null
            : error.status === 409
              ? await this.handlers.clash(step, error)
              : await this.handlers.asks(step, error);
          if (!instead) return { stored: false, reason: error.message, told: asked, ...(asked ? {} : { error }) };
          step = instead;
          continue;
        }
      }
      this.away(false);
      await this.handlers.done(step, done).catch(() => undefined);
      return { stored: true, id: step.id };
    }
  }
}
