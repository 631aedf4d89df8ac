import type { Member } from "../../desk/store";
import { blinksOf, gazesOf } from "../../model/types";

/** More rows than these would push the strip off the page. */
const MOST = 4;

/** What has a row on the strip: gazes, by the control that is aimed, and blinks. */
export const facedRows = (member: Member): string[] =>
  [
    ...new Set(gazesOf(member.clip).map(({ control }) => `gaze/${control}`)),
    ...(blinksOf(member.clip).length ? ["blink"] : []),
  ].slice(0, MOST);
