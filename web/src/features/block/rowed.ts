import type { Member } from "../../desk/store";
import { livingsOf, shakesOf } from "../../model/types";

/** More rows than these would push the strip off the page. */
const MOST = 4;

/** What has a row on the strip: the living holds (""), and each control with shakes. */
export const rowed = (member: Member): string[] =>
  [
    ...(livingsOf(member.clip).length ? [""] : []),
    ...new Set(shakesOf(member.clip).map(({ control }) => control)),
  ].slice(0, MOST);
