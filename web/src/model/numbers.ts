// What is typed into a number: itself, a sum, or by how much it changes.

/** A typed number, in the unit of the field: absolute, or by so much (`+=`, `-=`). */
export interface Typed {
  value: number;
  by: boolean;
}

const UNITS: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, "°": 1, deg: 1, f: 1, "%": 1 };

/** Reads what was typed; nothing where it is no number. Sums, products and brackets are worked out: `12+3*2`. */
export function typed(text: string): Typed | null {
  const clean = text.replaceAll("−", "-").replaceAll(",", ".").replace(/\s+/g, "");
  const change = /^([+\-*/])=(.+)$/.exec(clean);
  const value = sum(change ? change[2] : clean);
  if (value === null) return null;
  if (!change) return { value, by: false };
  if (change[1] === "+" || change[1] === "-") return { value: change[1] === "-" ? -value : value, by: true };
  return null;
}

/** The value of a sum; null for what is none. */
function sum(text: string): number | null {
  let at = 0;
  const peek = () => text[at];
  function atom(): number {
    if (peek() === "-") {
      at++;
      return -atom();
    }
    if (peek() === "+") {
      at++;
      return atom();
    }
    if (peek() === "(") {
      at++;
      const inside = terms();
      if (text[at++] !== ")") throw new Error();
      return inside;
    }
    const match = /^(\d+(?:\.\d*)?|\.\d+)(cm|mm|m|°|deg|f|%)?/.exec(text.slice(at));
    if (!match) throw new Error();
    at += match[0].length;
    return Number(match[1]) * (match[2] ? UNITS[match[2]] : 1);
  }
  function factors(): number {
    let value = atom();
    while (peek() === "*" || peek() === "/") value = text[at++] === "*" ? value * atom() : value / atom();
    return value;
  }
  function terms(): number {
    let value = factors();
    while (peek() === "+" || peek() === "-") value = text[at++] === "+" ? value + factors() : value - factors();
    return value;
  }
  try {
    const value = terms();
    return at === text.length && Number.isFinite(value) ? value : null;
  } catch {
    return null;
  }
}
