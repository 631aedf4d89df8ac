// What a person keeps of the desk, on the server: everywhere, or of one shot.
import { ask, http } from "../api/client";
import { say } from "./steps";

/** Keeps a value; null lets it go. What it was before stays where it could not be kept, which is said. */
export async function keep(name: string, value: unknown, shot = 0): Promise<boolean> {
  try {
    await ask(http.PUT("/api/kept/{name}", { params: { path: { name } }, body: { value, shot } }));
    return true;
  } catch (error) {
    say(`This is not kept for the next time: ${(error as Error).message}`, true);
    return false;
  }
}

/** All that is kept, by name; null where it cannot be asked for now. */
export const keptFor = (shot = 0): Promise<Record<string, unknown> | null> =>
  ask(http.GET("/api/kept", { params: { query: { shot } } })).catch(() => null);
