/** A number of things in words: 1 joint, 2 joints, 14,130 triangles. */
export const counted = (count: number, thing: string) =>
  `${count.toLocaleString("en")} ${thing}${count === 1 ? "" : "s"}`;
