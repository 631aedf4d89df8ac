// What belongs to the person who is signed in, whatever is open.
import { type Keyed, usualKeys } from "../../model/bindings";
import { slice } from "./slice";

export interface PersonState {
  /** The keys of commands as the person has them. */
  keyed: Keyed;
}

export const person = slice<PersonState>("page", () => ({ keyed: usualKeys() }));
