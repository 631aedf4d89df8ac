// Typed calls to the server. Every failure becomes an ApiError with a sentence for the person.
import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];

export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly body: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

let csrf = "";
let person = "";
/** Who is signed in by what the server said last, and the token against forged requests that goes with it. */
export function rememberSession(session: Schemas["Session"]) {
  const before = person;
  csrf = session.csrf;
  person = session.person?.username ?? "";
  if (person !== before) tabs.postMessage(person);
}
/** Tabs of a browser share one sign-in: what is made in one is of who is signed in now, in whichever of them. */
const tabs = new BroadcastChannel("hame-sign-in");
tabs.onmessage = ({ data }) => {
  if (data !== person)
    void fetch("/api/session")
      .then((answer) => answer.json())
      .then(rememberSession)
      .catch(() => undefined); // found at the next step
};
/** The name of the account that is signed in; empty when nobody is. */
export const whoIsIn = () => person;

export const http = createClient<paths>({ baseUrl: "" });
http.use({
  onRequest({ request }) {
    if (csrf) request.headers.set("X-CSRFToken", csrf);
    return request;
  },
});

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer; throws ApiError with the server's sentence, or one of our own when it gave none. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError(0, "The server does not answer. Try it again in a moment.");
  }
  if (answer.response.ok) return answer.data as T;
  throw errorOf(answer.response.status, answer.error);
}

function errorOf(status: number, body: unknown): ApiError {
  const told = body && typeof body === "object" ? (body as Record<string, unknown>) : {};
  const message =
    typeof told.message === "string"
      ? told.message
      : status === 401
        ? "You are signed out. Sign in again; what was stored is there."
        : status >= 500
          ? "The server could not do this. What was stored is kept; try again."
          : "This was refused.";
  return new ApiError(status, message, told);
}

/** Bytes of a binary answer. */
export async function bytes(path: string): Promise<ArrayBuffer> {
  let response: Response;
  try {
    response = await fetch(path);
  } catch {
    throw new ApiError(0, "The server does not answer.");
  }
  if (!response.ok) throw errorOf(response.status, await response.json().catch(() => null));
  return response.arrayBuffer();
}

/** Sends a body that is not JSON (a picture, a form with a file). */
export async function send<T>(method: string, path: string, body: BodyInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, { method, body, headers: { "X-CSRFToken": csrf } });
  } catch {
    throw new ApiError(0, "The server does not answer. Nothing was sent.");
  }
  const told = response.status === 204 ? null : await response.json().catch(() => null);
  if (!response.ok) throw errorOf(response.status, told);
  return told as T;
}
