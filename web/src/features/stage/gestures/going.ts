// Ways on the ground: drawn, and taken hold of by their points, their soles and the handles of the whole.
import * as THREE from "three";
import { chooseOnWay, lay, letGo, placeOnWay, takeHold, tryWays, wayNow } from "../../../desk/goings";
import { go } from "../../../desk/playing";
import { active, desk } from "../../../desk/store";
import type { AnyEdit } from "../../../model/types";
import { changeOf, endOf, footfallSet, heightAt, pointsOf, type Way, widerAt } from "../../../model/goings";
import type { OnWay } from "../goings";
import { rayAt } from "../handle";
import { type Begin, type Gesture, TREMBLE } from "./gesture";

const APART = 0.55; // metres from a place to the next of a way that is drawn with the button down

export const takeWay: Begin = (hand, from, event) => {
  const { scene } = hand;
  if (desk().wayDrawn) return draw(hand, from);
  const meant = scene.goings.under(from);
  if (!meant || !active()) return undefined;
  const { way } = meant;
  if (meant.what === "point") chooseOnWay({ start: way.start, point: meant.n });
  if (meant.what === "footfall") {
    const { number, leg } = meant.footfall;
    chooseOnWay({ start: way.start, footfall: { number, leg } });
  }
  if (meant.what === "line") {
    chooseOnWay({ start: way.start, along: meant.along });
    return null;
  }
  if (meant.what === "footfall" && meant.footfall.number < 1) return null;
  const ground = groundAt(hand, heightOf(meant));
  const begun = ground(from);
  let edit: AnyEdit | null = null;
  let took = false;
  return {
    move(p, moved) {
      if (!took && from.distanceTo(p) <= TREMBLE) return;
      const now = ground(p);
      if (!now || !begun) return;
      if (!took && !takeHold()) return;
      took = true;
      const wish = editOf(meant, begun, now, moved.shiftKey || event.shiftKey);
      if (!wish) return;
      edit = wish.edit;
      tryWays(edit, wish.said);
    },
    up() {
      if (took && edit) void lay(edit);
      else if (took) letGo();
      else if (meant.what === "footfall") go(meant.footfall.first);
    },
    cancel: () => took && letGo(),
  };
};

const heightOf = (meant: OnWay): number => {
  if (meant.what === "footfall") return meant.footfall.y;
  if (meant.what === "wider") return widerAt(meant.way)[1];
  if (meant.what === "longer" || meant.what === "bend") return endOf(meant.way).high;
  if (meant.what === "line") return 0;
  const point = "n" in meant ? meant.way.points[meant.n] : meant.way.points[0];
  return heightAt(meant.way, point.x, point.z);
};

/** The place (x, z) under a pixel, on a level. */
function groundAt({ scene }: Parameters<Begin>[0], high: number) {
  const plane = new THREE.Plane(new THREE.Vector3(0, 1, 0), -high);
  return (p: THREE.Vector2): [number, number] | null => {
    const found = rayAt(p, scene.on).intersectPlane(plane, new THREE.Vector3());
    return found && found.length() < 400 ? [found.x, found.z] : null;
  };
}

type Place = [number, number];

/** What the hand has come to: the edit, and it in words. */
function editOf(meant: OnWay, begun: Place, now: Place, turning: boolean): { edit: AnyEdit; said: string } | null {
  const { way } = meant;
  const [dx, dz] = [now[0] - begun[0], now[1] - begun[1]];
  if (meant.what === "point") {
    const { x, z } = way.points[meant.n];
    const points = pointsOf(way, meant.n, { x: x + dx, z: z + dz });
    return { edit: changeOf(way, { points }), said: `${(x + dx).toFixed(2)}, ${(z + dz).toFixed(2)} m` };
  }
  if (meant.what === "into" || meant.what === "out") {
    const point = way.points[meant.n];
    const mine = point[meant.what];
    const led: Place = [mine[0] + dx, mine[1] + dz];
    // The other side goes in line with it, unless Shift says otherwise.
    const other = meant.what === "into" ? "out" : "into";
    const far = Math.hypot(...point[other]);
    const long = Math.max(Math.hypot(...led), 1e-6);
    const across: Place = [(-led[0] / long) * far, (-led[1] / long) * far];
    const handles = turning ? { [meant.what]: led } : { [meant.what]: led, ...(far ? { [other]: across } : {}) };
    return { edit: changeOf(way, { points: pointsOf(way, meant.n, handles) }), said: `${long.toFixed(2)} m` };
  }
  if (meant.what === "footfall") {
    const one = meant.footfall;
    if (turning) {
      const heading = Math.atan2(now[0] - one.x, now[1] - one.z);
      return {
        edit: footfallSet(way, one, { heading }),
        said: `footfall ${one.number} faces ${Math.round((heading * 180) / Math.PI)}°`,
      };
    }
    const [x, z] = [one.x + dx, one.z + dz];
    return {
      edit: footfallSet(way, one, { x, z }),
      said: `footfall ${one.number} at ${x.toFixed(2)}, ${z.toFixed(2)} m (Shift turns it)`,
    };
  }
  return whole(meant, way, now);
}

/** The whole of a way by one of its handles. */
function whole(meant: OnWay, way: Way, now: Place): { edit: AnyEdit; said: string } | null {
  const first = way.points[0];
  if (meant.what === "longer") {
    const { end, ahead } = endOf(way);
    const far = (now[0] - end[0]) * ahead[0] + (now[1] - end[1]) * ahead[1] - 0.5;
    const chord = Math.max(Math.hypot(end[0] - first.x, end[1] - first.z), 0.1);
    const factor = Math.min(Math.max(1 + far / chord, 0.1), 10);
    return {
      edit: { kind: "stretch way", at: way.start, factor } as AnyEdit,
      said: `${factor.toFixed(2)} times as long: ${(factor * way.length).toFixed(2)} m`,
    };
  }
  if (meant.what === "bend") {
    const { end } = endOf(way);
    const turned = (p: Place) => Math.atan2(p[0] - first.x, p[1] - first.z);
    const near = (a: number) => Math.atan2(Math.sin(a), Math.cos(a));
    const angle = 2 * near(turned(now) - turned([end[0], end[1]]));
    return {
      edit: { kind: "bend way", at: way.start, angle } as AnyEdit,
      said: `bent by ${Math.round((angle * 180) / Math.PI)}°`,
    };
  }
  if (meant.what === "wider") {
    const [x, , z] = widerAt(way);
    const n = Math.max(Math.floor(way.line.length / 2), 1);
    const middle = way.line[n];
    const was = Math.max(way.now.width ?? 0.14, 0.02);
    const far = (p: Place) => Math.hypot(p[0] - middle[0], p[1] - middle[2]);
    const factor = Math.min(Math.max((was + 2 * (far(now) - far([x, z]))) / was, 0), 10);
    return {
      edit: { kind: "widen way", at: way.start, factor } as AnyEdit,
      said: `feet ${(factor * was * 100).toFixed(0)} cm apart`,
    };
  }
  return null;
}

/** Places of a way that is drawn: one with each click, and more as long as the button is down. */
function draw({ scene }: Parameters<Begin>[0], from: THREE.Vector2): Gesture {
  const drawn = desk().wayDrawn!;
  const last = drawn.points[drawn.points.length - 1];
  const place = (p: THREE.Vector2): [number, number, number] | null => {
    const on = scene.surfaceUnder(p);
    if (on) return [on.x, on.y, on.z];
    const found = groundAt({ scene } as Parameters<Begin>[0], 0)(p);
    return found && [found[0], 0, found[1]];
  };
  const begun = place(from);
  if (begun && (!last || Math.hypot(begun[0] - last[0], begun[2] - last[2]) > 0.05)) placeOnWay(begun);
  return {
    move(p) {
      const points = desk().wayDrawn?.points;
      const now = place(p);
      const before = points?.[points.length - 1];
      if (now && before && Math.hypot(now[0] - before[0], now[2] - before[2]) >= APART) placeOnWay(now);
    },
    up() {},
  };
}

export const overWay = (scene: Parameters<Begin>[0]["scene"], p: THREE.Vector2): string => {
  const meant = scene.goings.under(p);
  scene.goings.over = meant;
  if (!meant) return "";
  if (meant.what === "footfall") {
    const { number, leg, first, last } = meant.footfall;
    return number > 0
      ? `Footfall ${number} ${leg}, ${first} to ${last}: drag, or turn with Shift`
      : `Stands there first`;
  }
  if (meant.what === "line") return `${meant.along.toFixed(2)} m along the way`;
  if (meant.what === "point") return `Point ${meant.n + 1} of the way${wayNow() ? ": drag" : ""}`;
  return SAID[meant.what];
};

const SAID = {
  into: "Handle: drag, alone with Shift",
  out: "Handle: drag, alone with Shift",
  longer: "Drag: longer or shorter",
  bend: "Drag: bend all of it",
  wider: "Drag: feet farther apart",
};
