import type { Member } from "../../desk/store";
import { livingsOf, shakesOf, springsOf } from "../../model/types";

/** More rows than these would push the strip off the page. */
const MOST = 4;

/** Before the name of a control with springs. */
export const SPRING = "spring/";

/** What has a row on the strip: the living holds (""), each control with springs, and each with shakes. */
export const rowed = (member: Member): string[] =>
  [
    ...(livingsOf(member.clip).length ? [""] : []),
    ...new Set(springsOf(member.clip).map(({ control }) => SPRING + control)),
    ...new Set(shakesOf(member.clip).map(({ control }) => control)),
  ].slice(0, MOST);
