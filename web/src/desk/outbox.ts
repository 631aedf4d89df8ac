// Steps on their way to the server: one after the other, each until it is stored or refused. Nothing is dropped unsaid.
import { ApiError } from "../api/client";
import type { StepDone } from "./types";

/** A step from the moment it is made: it belongs to its take, whichever is open when it is sent. */
export interface Step {
  id: string;
  takeId: number;
  /** What it is, in a few words, for the person. */
  what: string;
  send: (revision: number, id: string) => Promise<StepDone>;
}

/** "told": the person knows already why it was not stored. */
export type Sent = { stored: true } | { stored: false; reason: string; told: boolean };

interface Handlers {
  /** The revision of a take that the page knows. */
  revision: (takeId: number) => number;
  /** A step was stored: what it changed. Whatever fails in here does not send the step again. */
  done: (takeId: number, done: StepDone) => Promise<void>;
  /** It was made on too old a take: brings the page up to date and asks the person. Resolves to one to send instead. */
  clash: (step: Step, error: ApiError) => Promise<Step | null>;
  /** It needs the person's word first. Resolves to a step to send instead. */
  asks: (step: Step, error: ApiError) => Promise<Step | null>;
  signedOut: () => void;
  /** Takes up the sign-in that there may be by now. */
  renew: () => Promise<void>;
  /** What waits, and since when the server does not take it (null: it does). */
  state: (waiting: number, since: Date | null) => void;
  /** The server fails at this step every time: it is set aside, with the reason, and the next ones go on. */
  setAside: (step: Step, reason: string) => void;
}

const FIRST_WAIT = 400;
const LONGEST_WAIT = 20_000;
/** So often a step is sent that the server itself breaks on, while it answers other things. */
const TRIES = 3;

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** A name for a step. crypto.randomUUID is there on secure pages only, and a studio's own network may have none. */
export function newId(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))].map((n) => n.toString(16).padStart(2, "0")).join("");
}

export class Outbox {
  private queue: Promise<unknown> = Promise.resolve();
  private count = 0;
  private since: Date | null = null;

  constructor(private readonly handlers: Handlers) {}

  /** How many steps are not stored yet. */
  get waiting() {
    return this.count;
  }

  /** Sends a step after those before it. */
  put(step: Step): Promise<Sent> {
    this.count++;
    this.tell();
    const sent = this.queue
      .then(() => this.deliver(step))
      .finally(() => {
        this.count--;
        this.tell();
      });
    this.queue = sent.catch(() => undefined);
    return sent;
  }

  private tell() {
    this.handlers.state(this.count, this.since);
  }

  private away(is: boolean) {
    if (is === (this.since !== null)) return;
    this.since = is ? new Date() : null;
    this.tell();
  }

  private async deliver(given: Step): Promise<Sent> {
    let step = given;
    let broken = 0;
    let renewed = false;
    for (let wait = FIRST_WAIT; ; wait = Math.min(wait * 1.6, LONGEST_WAIT)) {
      let done: StepDone;
      try {
        done = await step.send(this.handlers.revision(step.takeId), step.id);
      } catch (error) {
        if (!(error instanceof ApiError)) {
          this.handlers.setAside(step, String(error));
          return { stored: false, reason: String(error), told: true };
        }
        if (error.status === 500 && ++broken >= TRIES) {
          this.away(false);
          this.handlers.setAside(step, error.message);
          return { stored: false, reason: error.message, told: true };
        }
        if (error.status === 0 || error.status >= 500 || error.status === 429) {
          this.away(true);
          await pause(wait);
          continue;
        }
        this.away(false);
        if (error.status === 401) {
          this.away(true);
          this.handlers.signedOut();
          await pause(2000);
          await this.handlers.renew();
          continue;
        }
        if (error.status === 403 && !renewed) {
          // Somebody may have signed in elsewhere in this browser: the token against forged requests is old then.
          renewed = true;
          await this.handlers.renew();
          continue;
        }
        const asked = error.status === 409 || Boolean(error.body.asks);
        const instead = !asked
          ? null
          : error.status === 409
            ? await this.handlers.clash(step, error)
            : await this.handlers.asks(step, error);
        if (!instead) return { stored: false, reason: error.message, told: asked };
        step = instead;
        continue;
      }
      this.away(false);
      await this.handlers.done(step.takeId, done).catch(() => undefined);
      return { stored: true };
    }
  }
}
