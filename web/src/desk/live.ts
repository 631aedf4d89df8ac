// The socket of an open take: drags go up, poses come back as bytes; announcements come down. It may drop at any time.
import { FACTS } from "../api/facts.gen";
import type { Down, Message, Said } from "../model/types";

/** Blocks that a drag answers with. */
export const DRAGGED = FACTS.blocks.filter((block) => block.dragged);
type Dragged = (typeof DRAGGED)[number]["name"];

/** How one figure stands now. */
export interface LiveFigure extends Record<Dragged, Float32Array> {
  /** Channels that differ from the start of the drag, by number. */
  changed: [number, number][];
}

/** The figures that move, by casting. */
export type LivePose = Map<number, LiveFigure> & { said?: Said };

export type LiveState = "open" | "lost" | "refused";

/** The server closes with this when the person may not look (any more). */
const REFUSED = 4403;

interface Handlers {
  state: (state: LiveState) => void;
  told: (message: Down) => void;
  /** Whether the person may look at the take; asked where the socket does not open, which says no reason. */
  mayLook: () => Promise<boolean>;
  /** Milliseconds that pass at least between two states of a drag that are asked for. */
  pace: () => number;
}

/** A newer state of the drag took the place of one that was asked for: it has no answer of its own. */
export class Passed extends Error {
  constructor() {
    super("A newer state of the drag took its place.");
  }
}

export class Live {
  private socket: WebSocket | null = null;
  private closed = false;
  private wait = 300;
  private timer = 0;
  private seq = 0;
  private busy = false;
  private next: { message: Message; done: (pose: LivePose) => void } | null = null;
  private waiting = new Map<number, { done: (pose: LivePose) => void; fail: (e: Error) => void }>();
  /** What paths become by a state of a drag comes after its pose, and for the latest one alone. */
  private traced: { from: number; take: (paths: Said["paths"]) => void } | null = null;

  constructor(
    private readonly takeId: number,
    private readonly handlers: Handlers,
  ) {
    this.connect();
  }

  get open() {
    return this.socket?.readyState === WebSocket.OPEN;
  }

  private connect() {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/live/takes/${this.takeId}`);
    socket.binaryType = "arraybuffer";
    let opened = false;
    socket.onopen = () => {
      opened = true;
      this.wait = 300;
      this.handlers.state("open");
    };
    socket.onmessage = (event) => (typeof event.data === "string" ? this.told(event.data) : this.posed(event.data));
    socket.onclose = async (event) => {
      if (this.closed) return;
      this.busy = false;
      this.next = null;
      for (const { fail } of this.waiting.values()) fail(new Error("The connection was lost."));
      this.waiting.clear();
      if (event.code === REFUSED || (!opened && !(await this.handlers.mayLook()))) {
        if (!this.closed) this.handlers.state("refused");
        return;
      }
      if (this.closed) return;
      this.handlers.state("lost");
      this.timer = window.setTimeout(() => this.connect(), this.wait);
      this.wait = Math.min(this.wait * 1.7, 5000);
    };
    this.socket = socket;
  }

  close() {
    this.closed = true;
    clearTimeout(this.timer);
    this.socket?.close();
  }

  /** Asks and waits for the pose. */
  ask(message: Message): Promise<LivePose> {
    return new Promise((done, fail) => {
      if (!this.open) return fail(new Error("The connection is lost; the page reconnects by itself."));
      const seq = ++this.seq;
      this.waiting.set(seq, { done, fail });
      this.socket!.send(JSON.stringify({ ...message, seq }));
    });
  }

  /** Asks as fast as answers come; of several wishes in between only the latest is sent. */
  stream(message: Message, done: (pose: LivePose) => void) {
    if (this.busy) {
      this.next = { message, done };
      return;
    }
    this.busy = true;
    this.ask(message)
      .then(done)
      .catch(() => undefined)
      .then(
        () => new Promise((rested) => (this.handlers.pace() ? setTimeout(rested, this.handlers.pace()) : rested(0))),
      )
      .finally(() => {
        this.busy = false;
        const next = this.next;
        this.next = null;
        if (next) this.stream(next.message, next.done);
      });
  }

  /** From now on, what is asked for tells of its paths here; null: nobody wants to know any more. */
  trace(take: ((paths: Said["paths"]) => void) | null) {
    this.traced = take && { from: this.seq + 1, take };
  }

  private told(text: string) {
    const message = JSON.parse(text) as Down;
    if (message.type === "traced") {
      if (this.traced && message.seq >= this.traced.from) this.traced.take(message.paths);
      return;
    }
    if (message.type === "passed") {
      // A newer state of the drag took its place: nothing is to be shown for it, and the next may be asked for.
      this.waiting.get(message.seq)?.fail(new Passed());
      this.waiting.delete(message.seq);
      return;
    }
    if (message.type === "error") {
      const waiting = this.waiting.get(message.seq);
      this.waiting.delete(message.seq);
      waiting?.fail(new Error(message.message));
    }
    this.handlers.told(message);
  }

  private posed(buffer: ArrayBuffer) {
    const head = new DataView(buffer);
    const word = (n: number) => head.getUint32(4 * n, true);
    const [seq, figures] = [word(0), word(1)];
    const pose: LivePose = new Map();
    const words = 2 + DRAGGED.length;
    let at = 4 * (2 + words * figures);
    for (let m = 0; m < figures; m++) {
      const own = 2 + words * m;
      const n = word(own + 1 + DRAGGED.length);
      const changed: [number, number][] = [];
      for (let i = 0; i < n; i++)
        changed.push([head.getFloat64(at + 16 * i, true), head.getFloat64(at + 16 * i + 8, true)]);
      at += 16 * n;
      const figure = { changed } as LiveFigure;
      DRAGGED.forEach(({ name, width }, i) => {
        const length = word(own + 1 + i) * width;
        figure[name] = new Float32Array(buffer, at, length);
        at += 4 * length;
      });
      pose.set(word(own), figure);
    }
    if (at < buffer.byteLength) pose.said = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, at)));
    this.waiting.get(seq)?.done(pose);
    this.waiting.delete(seq);
  }
}
