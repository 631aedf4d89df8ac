// How the values of channels are shown: degrees for radians, and so many digits.
import type { Channel } from "./types";

export const DEGREES = 180 / Math.PI;

/** By what a value is multiplied to be shown, its digits, what a pixel of a scrub is worth, and its unit. */
export const shownAs = (channel: Channel) =>
  channel.unit === "rad"
    ? { factor: DEGREES, digits: 1, step: 0.4, unit: "°" }
    : channel.unit === "m"
      ? { factor: 1, digits: 3, step: 0.002, unit: "m" }
      : { factor: 1, digits: 2, step: 0.01, unit: "" };
