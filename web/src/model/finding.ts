// Finding channels by words: those of the control and of the channel, and others that people bring along.

/** What a channel can be found by. */
export interface Findable {
  control: string;
  channel: string;
  kind: "place" | "turn" | "scale" | "extra";
  axis: string;
  side: string;
}

const KINDS: Record<Findable["kind"], string[]> = {
  place: ["place", "move", "position", "translate", "translation", "location"],
  turn: ["turn", "rotate", "rotation", "angle"],
  scale: ["size", "scale"],
  extra: [],
};
const SIDES: Record<string, string[]> = { L: ["left", "l"], R: ["right", "r"] };

const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** The words that it is called by, its side and its axis. */
const names = (one: Findable): string[] => [
  ...wordsOf(one.control),
  ...wordsOf(one.channel),
  ...(one.axis ? [one.axis] : []),
  ...(SIDES[one.side] ?? []),
];

/**
 * Which of some channels are meant by what is typed: those called by all of its words; where there are none, those of a
 * kind that the words say as well (a head's turn is one channel, what rotates a head are all three); and only then
 * those with words that begin so.
 */
export function foundBy<T>(typed: string, all: readonly T[], of: (one: T) => Findable): T[] {
  const words = wordsOf(typed);
  if (!words.length) return [...all];
  const called = all.map((one) => names(of(one)));
  const told = all.map((one, n) => [...called[n], ...KINDS[of(one).kind]]);
  for (const known of [called, told]) {
    const whole = all.filter((_, n) => words.every((word) => known[n].includes(word)));
    if (whole.length) return whole;
  }
  return all.filter((_, n) => words.every((word) => told[n].some((token) => token.startsWith(word))));
}
