import Box from "@mui/material/Box";
import { useEffect, useRef, useState } from "react";
import * as THREE from "three";
import { leaveWay } from "../../desk/goings";
import { leaveGuide } from "../../desk/guides";
import { say } from "../../desk/steps";
import { allDrawn, pictures } from "../../desk/pictures";
import { gaveInWords } from "../../desk/pulling";
import { pivotAt } from "../../desk/choosing";
import { lookFrom, takeTool } from "../../desk/viewing";
import { onStage } from "../../desk/onStage";
import { active, desk, type DeskState, useDesk } from "../../desk/store";
import type { ViewName } from "../../model/types";
import { useInks, useLook } from "../../ui/look";
import { toPixels } from "./handle";
import { begin } from "./gestures/begin";
import type { Hand } from "./gestures/gesture";
import { pointOver } from "./gestures/over";
import { StageScene } from "./scene";
import { Sights } from "./Sights";
import { AmountBar } from "./AmountBar";
import { StageBar } from "./StageBar";
import { View } from "./views";

export function Stage() {
  const ink = useInks();
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const tags = useRef<Record<string, HTMLElement | null>>({});
  const coarse = useRef<HTMLDivElement>(null);
  const ghostTag = useRef<HTMLDivElement>(null);
  const area = useRef<SVGPolygonElement>(null);
  const parts = useRef<SVGGElement>(null);
  const hand = useRef<Hand | null>(null);
  const pointer = useRef<THREE.Vector2 | null>(null);
  const [scene, setScene] = useState<StageScene | null>(null);
  const cast = useDesk((s) => s.cast);
  const ids = cast.map((m) => m.id).join();
  const looks = useDesk((s) => s.looks);
  const seen = useDesk((s) => s.seen);
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
        drawn: () => made.whoIsDrawn(),
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
    if (!scene) return;
    const stop = useLook.subscribe(() => scene.draw());
    let timer = 0;
    scene.onCoarse = (is) => {
      clearTimeout(timer);
      // What is made good at once needs no sign.
      if (is) timer = window.setTimeout(() => coarse.current && (coarse.current.style.display = "block"), 250);
      else if (coarse.current) coarse.current.style.display = "none";
    };
    return () => {
      stop();
      clearTimeout(timer);
      scene.onCoarse = null;
    };
  }, [scene]);
  useEffect(() => {
    if (scene) void scene.setCast(desk().cast).then(() => pictures.ready());
  }, [scene, ids]);
  useEffect(() => scene?.relook(), [scene, looks.skin, looks.ghosts, seen]);
  useEffect(() => scene?.setView(view), [scene, view]);

  useEffect(() => {
    hand.current = scene && { scene, now: null, area: area.current };
    const escape = (event: KeyboardEvent) =>
      event.key === "Escape" && (letGo() || leaveGuide() || leaveWay()) && event.preventDefault();
    window.addEventListener("keydown", escape, true);
    onStage.acts = scene && {
      frame: (what) =>
        ({
          selection: () => scene.frameSelection(),
          figure: () => scene.frameFigure(),
          ground: () => scene.frameGround(),
        })[what](),
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
      hand.current = null;
    };
  }, [scene]);

  const at = (event: React.PointerEvent) => {
    const r = box.current!.getBoundingClientRect();
    return new THREE.Vector2(event.clientX - r.left, event.clientY - r.top);
  };

  /** Whatever is held is let go, and everything is as it was. */
  /** Lets go of what is held; whether anything was. */
  function letGo(): boolean {
    const held = hand.current?.now;
    if (!held) return false;
    hand.current!.now = null;
    held.cancel?.();
    return true;
  }
  function down(event: React.PointerEvent) {
    if (!hand.current) return;
    (event.target as Element).setPointerCapture(event.pointerId);
    hand.current.now = begin(hand.current, at(event), event);
  }
  function moveOver(event: React.PointerEvent) {
    if (!scene || !hand.current) return;
    const p = at(event);
    pointer.current = p;
    if (hand.current.now) hand.current.now.move(p, event);
    else pointOver(scene, box.current!, p);
  }
  function up(event: React.PointerEvent) {
    const held = hand.current?.now;
    if (!held) return;
    hand.current!.now = null;
    held.up(at(event), event);
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
        onPointerCancel={letGo}
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
        <div
          ref={coarse}
          data-testid="coarse"
          title="Outlines are thin and shadows left out until it rests; under Show it can be drawn otherwise"
          style={{ position: "absolute", left: 10, bottom: 26, display: "none", fontSize: 12, color: ink.faint }}
        >
          drawn coarsely
        </div>
        <svg style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
          <g ref={parts} data-testid="parts" />
          <polygon ref={area} fill={ink.blue} fillOpacity={0.12} stroke={ink.blue} strokeDasharray="4 3" />
        </svg>
        <Readout />
        <AmountBar />
        <StageBar />
      </Box>
      {looks.sights && scene && <Sights scene={scene} onSwap={swap} />}
    </Box>
  );
}

/** Which way is plus of the number that has the focus, where no axis on the stage shows it. */
function plusSaid(s: DeskState): string {
  const member = active(s);
  const channel = member?.rig.channels[member.channels.get(s.pointed) ?? -1];
  return channel?.kind === "extra" && channel.purpose ? `${channel.label}: ${channel.purpose}` : "";
}

/** How far the drag has gone; on its own, so that nothing else is rendered for it. */
function Readout() {
  const ink = useInks();
  const readout = useDesk((s) => s.readout);
  const gave = useDesk((s) => (s.tool === "pull" && s.dragged ? gaveInWords(s) : ""));
  const plus = useDesk(plusSaid);
  if (!readout && plus)
    return (
      <Box sx={{ position: "absolute", left: 10, bottom: 8, maxWidth: 380, fontSize: 12, pointerEvents: "none" }}>
        {plus}
      </Box>
    );
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
