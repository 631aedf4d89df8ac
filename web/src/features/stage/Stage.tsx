import Box from "@mui/material/Box";
import { useEffect, useRef, useState } from "react";
import * as THREE from "three";
import { choosePlant, standsAt } from "../../desk/contacts";
import { showFrame } from "../../desk/frames";
import { labelOf } from "../../desk/paths";
import { go, stop } from "../../desk/playing";
import { actOn, howOf, select } from "../../desk/selecting";
import { say } from "../../desk/steps";
import { beginDrag, cancelDrag, dragTo, endDrag } from "../../desk/dragging";
import { allDrawn, pictures } from "../../desk/pictures";
import { gaveInWords, holdOf, keepPlaced, partOf, plantedParts, pullName } from "../../desk/pulling";
import { chooseNothing, markPath, markPlant, pivotAt } from "../../desk/choosing";
import { lookFrom, takeTool } from "../../desk/viewing";
import { forgetPull } from "../../desk/trying";
import { onStage } from "../../desk/onStage";
import { active, canChange, desk, useDesk } from "../../desk/store";
import type { ViewName } from "../../model/types";
import { useInks } from "../../ui/look";
import { Grasp, placeBeside, type Stand, toPixels } from "./handle";
import { selectedPart } from "./parts";
import { StageScene } from "./scene";
import { Sights } from "./Sights";
import { stretchedTo, type Stretching, stretchingOf } from "./stretch";
import { StageBar } from "./StageBar";
import { View } from "./views";

type Gesture =
  | { kind: "press" | "orbit" | "pan"; from: THREE.Vector2; last: THREE.Vector2 }
  | { kind: "area"; lasso: boolean; points: THREE.Vector2[] }
  | { kind: "pivot"; from: THREE.Vector3 }
  | { kind: "mark"; mark: { path: number; frame: number }; from: THREE.Vector2; begun: boolean; follow?: boolean }
  | { kind: "stretch"; of: Stretching; held: THREE.Vector2 }
  | { kind: "handle"; grasp: Grasp; pull?: boolean; alone?: boolean };

export function Stage() {
  const ink = useInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const tags = useRef<Record<string, HTMLElement | null>>({});
  const ghostTag = useRef<HTMLDivElement>(null);
  const area = useRef<SVGPolygonElement>(null);
  const parts = useRef<SVGGElement>(null);
  const gesture = useRef<Gesture | null>(null);
  const pointer = useRef<THREE.Vector2 | null>(null);
  const [scene, setScene] = useState<StageScene | null>(null);
  const cast = useDesk((s) => s.cast);
  const ids = cast.map((m) => m.id).join();
  const looks = useDesk((s) => s.looks);
  const view = useDesk((s) => s.view);

  useEffect(() => {
    const made = new StageScene(
      canvas.current!,
      box.current!,
      tags.current as Record<"x" | "y" | "z", HTMLElement>,
      ghostTag.current!,
      parts.current!,
    );
    setScene(made);
    pictures.source = made;
    // What tests and measurements look at: only where they ask for it beforehand.
    const asked = (window as { hame?: object }).hame;
    if (asked)
      Object.assign(asked, {
        handle: () => {
          const stand = made.stand();
          return stand && toPixels(stand.origin, made.on, new THREE.Vector2()).toArray();
        },
        pixelsOf: (x: number, y: number, z: number) =>
          toPixels(new THREE.Vector3(x, y, z), made.on, new THREE.Vector2()).toArray(),
        joints: () => [...(active()?.pose.joints ?? [])],
        jointNames: () => active()?.rig.joints ?? [],
        costs: made.costs,
        ready: () => made.loaded,
        allDrawn,
        ghosts: () => made.ghosts.frames,
        markPixels: (path: number, frame: number) => {
          const place = made.paths.placeOf({ path, frame });
          return place && toPixels(place, made.on, new THREE.Vector2()).toArray();
        },
      });
    return () => {
      pictures.source = null;
      made.dispose();
    };
  }, []);

  useEffect(() => {
    // Messages stand at the foot of the stage, however high it is.
    const root = document.documentElement;
    const place = () =>
      root.style.setProperty("--messages", `${innerHeight - box.current!.getBoundingClientRect().bottom + 14}px`);
    const watch = new ResizeObserver(place);
    watch.observe(box.current!);
    watch.observe(root);
    return () => {
      watch.disconnect();
      root.style.removeProperty("--messages");
    };
  }, []);

  useEffect(() => scene?.setInks(ink), [scene, ink]);
  useEffect(() => {
    if (scene) void scene.setCast(desk().cast).then(() => pictures.ready());
  }, [scene, ids]);
  useEffect(() => scene?.relook(), [scene, looks.skin, looks.ghosts]);
  useEffect(() => scene?.setView(view), [scene, view]);

  useEffect(() => {
    function escape(event: KeyboardEvent) {
      if (event.key !== "Escape" || !gesture.current) return;
      if (gesture.current.kind === "handle" || gesture.current.kind === "stretch") cancelDrag();
      gesture.current = null;
      area.current?.setAttribute("points", "");
    }
    window.addEventListener("keydown", escape, true);
    onStage.acts = scene && {
      frame: (what) => (what === "selection" ? scene.frameSelection() : scene.frameFigure()),
      dropPivot() {
        const place = scene.pivotUnder(pointer.current);
        if (!place) return say("Select what shall turn about the pivot first.");
        takeTool("turn");
        pivotAt(place.toArray());
      },
      eye() {
        const eye = scene.view.camera;
        const turn = eye.quaternion.clone().multiply(new THREE.Quaternion(0, 1, 0, 0)); // it looks along its z axis
        return [...eye.position.toArray(), ...turn.toArray()];
      },
    };
    return () => {
      window.removeEventListener("keydown", escape, true);
      onStage.acts = null;
    };
  }, [scene]);

  const at = (event: React.PointerEvent) => {
    const r = box.current!.getBoundingClientRect();
    return new THREE.Vector2(event.clientX - r.left, event.clientY - r.top);
  };

  function down(event: React.PointerEvent) {
    if (!scene) return;
    (event.target as Element).setPointerCapture(event.pointerId);
    const p = at(event);
    if (event.button === 1 || (event.button === 2 && event.shiftKey))
      gesture.current = { kind: "pan", from: p, last: p };
    else if (event.button === 2) gesture.current = { kind: "orbit", from: p, last: p };
    else if (event.button === 0) {
      stop();
      const pulled = desk().tool === "pull" ? pullAt(p, event) : undefined;
      if (pulled !== undefined) {
        gesture.current = pulled;
        return;
      }
      const stretching = scene.stretch.under(p) ? stretchingOf(active()!) : null;
      if (stretching && beginDrag([stretching.control])) {
        gesture.current = { kind: "stretch", of: stretching, held: p };
        return;
      }
      const taken = scene.gripAt(p) ? null : markUnder(p);
      if (taken) {
        gesture.current = taken;
        return;
      }
      const grip = scene.gripAt(p);
      const stand = scene.stand();
      if (grip === "pivot" && stand) gesture.current = { kind: "pivot", from: stand.origin };
      else if (grip && stand && beginDrag(desk().selection)) {
        gesture.current = { kind: "handle", grasp: new Grasp(grip, stand, { ...scene.on }, p) };
        scene.meant = grip;
      } else if (!grip) gesture.current = onMark(p) ?? { kind: "press", from: p, last: p };
    }
  }

  /** What a press does while the body is pulled: a part, or an arm of the handle on it, is taken hold of. */
  function pullAt(p: THREE.Vector2, event: React.PointerEvent): Gesture | null | undefined {
    const member = active();
    if (!member || !scene) return undefined;
    const part = scene.parts.under(p);
    const arm = scene.gripAt(p);
    if (part && arm !== "x" && arm !== "y" && arm !== "z") {
      const control = holdOf(member, part);
      const how = howOf(event);
      if (how !== "set" || !desk().selection.some((name) => part.controls.includes(name)))
        select([control], how, member.id);
      const planted = desk().few ? undefined : plantedParts(member).get(part.name);
      if (planted)
        say(
          `${part.label} is planted from ${planted.start} to ${planted.end}, so it stays. ` +
            "Move the plant or take it away to pull there.",
        );
      if (how !== "set" || planted) return null;
    } else if (!arm || !selectedPart(member)) return undefined;
    const stand = scene.stand();
    const controls = desk().selection.filter((name) => partOf(member, name));
    if (!stand || !beginDrag(controls)) return null;
    forgetPull();
    return { kind: "handle", pull: true, grasp: new Grasp(part ? "free" : arm!, stand, { ...scene.on }, p) };
  }

  /** A mark of a path under the pointer: its frame is gone to, and a drag then changes the pose there. */
  function markUnder(p: THREE.Vector2): Gesture | null {
    const mark = scene!.paths.under(p);
    return mark && { kind: "mark", mark, from: p, begun: false };
  }

  async function takeMark(now: Extract<Gesture, { kind: "mark" }>) {
    const path = desk().paths[now.mark.path];
    const place = scene!.paths.placeOf(now.mark);
    if (!path || !place) return;
    markPath(now.mark);
    actOn(path.casting);
    await showFrame(now.mark.frame);
    if (gesture.current !== now) return; // let go meanwhile
    const member = active();
    const joint = member && path.joint ? member.rig.joints.indexOf(path.name) : -1;
    const pulled = member?.rig.parts.find((one) => one.joint === joint);
    const control = member?.controls.get(path.joint ? (pulled?.controls[0] ?? "") : path.name);
    if (!member || !control) return say("This joint is changed by the controls that lead it: pose those.");
    select([control.name], "set", member.id);
    const part = pulled ?? partOf(member, control.name);
    // What cannot be moved by itself is pulled: the body follows.
    const pull = path.joint || desk().tool === "pull" || !control.can_move || !!(control.limb && control.mode === "fk");
    if (pull && !part) return say(`${control.label} cannot be moved from its path: pose it by what carries it.`);
    if (!beginDrag(pull && part ? [holdOf(member, part)] : [control.name])) return;
    const stand = {
      origin: place,
      basis: new THREE.Quaternion(),
      tool: "move",
      axes: "view",
      pivot: null,
      dropped: false,
    };
    // By itself a limb in FK turns alone; the body follows where that is asked for: with Pull, or with Alt.
    const alone = pull && desk().tool !== "pull" && !now.follow && !!control.limb;
    gesture.current = {
      kind: "handle",
      pull: pull && !!part,
      alone,
      grasp: new Grasp("free", stand as Stand, { ...scene!.on }, now.from),
    };
  }

  /** A mark on the ground under the pointer: all of its plant is dragged along the ground by it. */
  function onMark(p: THREE.Vector2): Gesture | null {
    const member = active();
    const mark = scene!.marks.under(p, scene!.on);
    const picked = scene!.pick(p);
    if (!mark || !member || (picked && picked.control !== mark.control)) return null;
    const { frame } = desk();
    if (frame < mark.start || frame > mark.end || !beginDrag([mark.control])) return null;
    select([mark.control], "set", member.id);
    markPlant({ control: mark.control, start: mark.start });
    const origin = new THREE.Vector3().fromArray(standsAt(member, mark.control, frame));
    const stand = { origin, basis: new THREE.Quaternion(), tool: "move", axes: "world", pivot: null, dropped: false };
    return { kind: "handle", grasp: new Grasp("zx", stand as Stand, { ...scene!.on }, p) };
  }

  function moveOver(event: React.PointerEvent) {
    if (!scene) return;
    const p = at(event);
    pointer.current = p;
    const now = gesture.current;
    if (!now) {
      const meant = scene.gripAt(p);
      const part = desk().tool === "pull" ? scene.parts.under(p) : null;
      if ((part?.name ?? null) !== scene.parts.over) {
        scene.parts.over = part?.name ?? null;
        box.current!.style.cursor = part ? "pointer" : "default";
        box.current!.title = part?.label ?? "";
        scene.draw();
      }
      const mark = meant ? null : scene.paths.under(p);
      if (mark?.path !== scene.paths.over?.path || mark?.frame !== scene.paths.over?.frame) {
        scene.paths.over = mark;
        box.current!.style.cursor = mark ? "pointer" : "default";
        box.current!.title = mark ? `${labelOf(desk().paths[mark.path])} at ${mark.frame}` : "";
        scene.draw();
      }
      if (mark || (desk().tool === "pull" && !meant)) return;
      const over = meant ? null : (scene.outlines.under(p, scene.on)?.name ?? null);
      if (meant !== scene.meant || over !== scene.outlines.over) {
        scene.meant = meant;
        scene.outlines.over = over;
        box.current!.style.cursor = meant || over ? "pointer" : "default";
        box.current!.title = over ? (active()?.controls.get(over)?.label ?? "") : "";
        scene.draw();
      }
    } else if (now.kind === "mark") {
      if (!now.begun && now.from.distanceTo(p) > 4 && canChange()) {
        now.begun = true;
        now.follow = event.altKey;
        void takeMark(now);
      }
    } else if (now.kind === "pivot") {
      const place = placeBeside(now.from, p, scene.on);
      if (place) pivotAt(place.toArray());
    } else if (now.kind === "stretch") {
      const value = stretchedTo(now.of, now.held, p, { ...scene.on }, event.shiftKey);
      dragTo({ do: "set", values: { [now.of.address]: value } }, `${now.of.label} × ${value.toFixed(2)}`);
    } else if (now.kind === "handle") {
      const { wish, readout: text } = now.grasp.to(p, event.shiftKey, event.ctrlKey);
      dragTo(now.pull && wish.do === "move" ? { do: "pull", offset: wish.offset, alone: now.alone } : wish, text);
    } else if (now.kind === "orbit" || now.kind === "pan") {
      const [dx, dy] = [p.x - now.last.x, p.y - now.last.y];
      if (now.kind === "orbit") {
        scene.view.orbit(dx, dy);
        lookFrom(scene.view.name);
      } else {
        scene.view.pan(dx, dy, scene.on.height);
        scene.following.keepAside();
      }
      now.last = p;
      scene.draw();
    } else if (now.kind === "press" && now.from.distanceTo(p) > 4) {
      gesture.current = { kind: "area", lasso: event.altKey, points: [now.from, p] };
    } else if (now.kind === "area") {
      if (now.lasso) now.points.push(p);
      else now.points[1] = p;
      area.current?.setAttribute(
        "points",
        outline(now)
          .map((c) => `${c.x},${c.y}`)
          .join(" "),
      );
    }
  }

  function up(event: React.PointerEvent) {
    const now = gesture.current;
    gesture.current = null;
    if (!scene || !now) return;
    if (now.kind === "handle") {
      scene.meant = null;
      void endDrag(now.pull ? pullName() : "").then((ok) => ok && now.pull && keepPlaced());
    } else if (now.kind === "stretch") {
      void endDrag(`Stretch: ${now.of.label}`);
    } else if (now.kind === "area") {
      area.current?.setAttribute("points", "");
      select(scene.within(outline(now)), howOf(event));
    } else if (now.kind === "mark") {
      markPath(now.mark);
      actOn(desk().paths[now.mark.path]?.casting ?? desk().activeId);
      go(now.mark.frame);
    } else if (now.kind === "press") {
      const mark = scene.marks.under(at(event), scene.on);
      const member = active();
      const picked = scene.pick(at(event));
      // A mark on the ground, where nothing of a figure stands before it.
      if (mark && member && (!picked || picked.control === mark.control))
        choosePlant(member, mark.control, mark.start, Math.min(Math.max(desk().frame, mark.start), mark.end));
      else if (picked) select([picked.control], howOf(event), picked.member.id);
      else if (howOf(event) === "set") {
        select([]);
        chooseNothing();
      }
    }
  }

  function swap(name: ViewName, sight: View) {
    const before = scene!.view.name;
    lookFrom(name);
    sight.set(before);
    scene!.draw();
  }

  return (
    <Box
      sx={{ position: "relative", width: "100%", height: "100%", display: "flex", minWidth: 0, bgcolor: ink.line }}
      data-testid="stage-area"
    >
      <canvas ref={canvas} style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }} />
      <Box
        ref={box}
        data-testid="stage"
        aria-label="Stage"
        role="application"
        sx={{ position: "relative", flex: 1, minWidth: 0, overflow: "hidden", touchAction: "none", userSelect: "none" }}
        onPointerDown={down}
        onPointerMove={moveOver}
        onPointerUp={up}
        onPointerLeave={() => (pointer.current = null)}
        onPointerCancel={() => {
          if (gesture.current?.kind === "handle" || gesture.current?.kind === "stretch") cancelDrag();
          gesture.current = null;
        }}
        onWheel={(event) => {
          scene?.view.zoom(event.deltaY);
          scene?.draw();
        }}
        onContextMenu={(event) => event.preventDefault()}
      >
        {(["x", "y", "z"] as const).map((axis) => (
          <span
            key={axis}
            ref={(tag) => void (tags.current[axis] = tag)}
            style={{
              position: "absolute",
              left: 0,
              top: 0,
              display: "none",
              pointerEvents: "none",
              fontWeight: 700,
              fontSize: 15,
              textShadow: `0 0 3px ${ink.sheet}, 0 0 3px ${ink.sheet}, 0 0 2px ${ink.sheet}`,
            }}
          >
            {axis}
          </span>
        ))}
        <div
          ref={ghostTag}
          data-testid="ghosts"
          style={{
            position: "absolute",
            left: 10,
            bottom: 8,
            pointerEvents: "none",
            fontWeight: 700,
            whiteSpace: "pre",
            display: "none",
          }}
        />
        <svg style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
          <g ref={parts} data-testid="parts" />
          <polygon ref={area} fill={ink.blue} fillOpacity={0.12} stroke={ink.blue} strokeDasharray="4 3" />
        </svg>
        <Readout />
        <StageBar />
      </Box>
      {looks.sights && scene && <Sights scene={scene} onSwap={swap} />}
    </Box>
  );
}

function outline(area: { lasso: boolean; points: THREE.Vector2[] }): THREE.Vector2[] {
  if (area.lasso) return area.points;
  const [a, b] = area.points;
  return [a, new THREE.Vector2(b.x, a.y), b, new THREE.Vector2(a.x, b.y)];
}

/** How far the drag has gone; on its own, so that nothing else is rendered for it. */
function Readout() {
  const ink = useInks();
  const readout = useDesk((s) => s.readout);
  const gave = useDesk((s) => (s.tool === "pull" && s.dragged ? gaveInWords(s) : ""));
  if (!readout) return null;
  return (
    <Box
      data-testid="readout"
      sx={{
        position: "absolute",
        left: "50%",
        bottom: 14,
        transform: "translateX(-50%)",
        bgcolor: ink.ink,
        color: ink.paper,
        px: 1.5,
        py: 0.5,
        borderRadius: 1,
        pointerEvents: "none",
        fontWeight: 700,
      }}
    >
      {readout}
      {gave && <Box sx={{ fontWeight: 400, fontSize: 12, maxWidth: 460 }}>{gave}</Box>}
    </Box>
  );
}
