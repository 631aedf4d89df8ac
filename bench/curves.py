"""Speed of curves and paths: ``python -m bench.curves [URL]``, the second half while ``./start`` serves it.

Beside SciPy: its smoothing splines fitted to the same curves at the same error.
"""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from playwright.sync_api import sync_playwright
from scipy.interpolate import make_splrep
from websockets.sync.client import connect

from bench import schneider
from bench.desk import FLAGS, Api, _desk, furnish, say
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.layer import Layer
from hame.clip.layers import with_layer
from hame.demo.shots import figure, walk_across
from hame.edits.arcs import SmoothArc
from hame.edits.cleaning import FitKeys, SpareKeys, Tolerance
from hame.edits.graph import ReshapeKeys
from hame.edits.making import made
from hame.evaluate.evaluate import channel_values
from hame.faults.kinds import faults_in
from hame.faults.look import Look
from hame.maths.thinning import thinned
from hame.measure.favour import chart_of
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene


def timed(what: str, work: Callable[[], Any], times: int = 20) -> None:
    work()
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    say(what, found)


def core() -> None:
    curves = np.stack([schneider.captured(n, 1000) for n in range(200)])
    allowed = np.full(200, 0.01)
    timed("fewer keys for 200 curves of 1,000 frames", lambda: thinned(curves, allowed), 10)
    t = np.arange(1000.0)
    begun = time.perf_counter()
    for row in curves[:20]:
        make_splrep(t, row, s=1000 * 0.005**2)
    print(
        f"  SciPy's smoothing spline at about the same error: {(time.perf_counter() - begun) * 10 * 1e3:.0f} ms for 200"
    )
    mine, theirs = 0, 0
    for seed in range(10):
        values = schneider.captured(seed)
        mine += len(thinned(values[None], np.array([0.01]))[0][0])
        theirs += schneider.fit(np.stack([np.arange(len(values)) * 1.0, values], axis=1), 0.01)
    print(f"  keys for ten captured-like curves of 240 frames: {mine}; by Schneider's fit {theirs}")

    rig = figure("brannoc")[0]
    some = [c.address for c in rig.channels if c.kind == "turn" and not c.locked][:200]
    dense = {a: from_keys(dict(enumerate(curves[n].tolist(), 1))) for n, a in enumerate(some)}
    clip = Clip().with_curves(dense)
    scene = Scene({1: Figure(rig, clip)}, 1, 1000)
    tolerance = Tolerance(0.01, 0.01)
    timed(f"the same as an edit of {len(dense)} curves", lambda: made(FitKeys(tolerance=tolerance), scene, 1), 3)

    walk = walk_across(rig)
    walking = Scene({1: Figure(rig, walk)}, 1, 240)
    frames = np.arange(1, 241)
    over = _layered(walk, rig)
    timed("a whole take with a layer, 240 frames", lambda: channel_values(rig, over, frames))
    timed("a whole take without", lambda: channel_values(rig, walk, frames))
    timed("a timing chart of the whole body", lambda: chart_of(rig, walk, 1, 4))
    posed = played(walking.figures, frames)[1]
    timed("faults of paths, 240 frames", lambda: faults_in("paths", Look(walk, posed, 1, 24.0)), 5)
    keys = {a: tuple(c.frames.tolist()) for a, c in walk.curves.items()}
    timed(
        "all keys of a walk moved in value",
        lambda: made(
            ReshapeKeys(keys={a: f for a, f in keys.items() if rig.has_channel(a) and max(f) < 13}, shear={}),
            walking,
            1,
        ),
    )
    timed("spare keys of a walk", lambda: made(SpareKeys(tolerance=Tolerance(0.01, 0.05)), walking, 1), 3)
    timed("an arc smoothed", lambda: made(SmoothArc(control="leg.R.goal", first=1, last=11), walking, 1), 5)


def _layered(clip: Clip, rig: Any) -> Clip:
    over = {f"#1/{a}": from_keys({1: 0.0, 40: 0.02, 80: 0.0}) for a in list(clip.curves)[:120] if rig.has_channel(a)}
    return with_layer(clip.with_curves(over), 1, Layer(0, 0, name="Over", place=1))


PAN = """(frames) => new Promise((done) => {
  const board = window.hameGraph;
  board.fit('all');
  board.zoom(1.25);
  let n = 0;
  const step = () => {
    if (n++ >= frames) return done([...board.costs]);
    board.pan(n % 40 < 20 ? 0.002 : -0.002);
    requestAnimationFrame(step);
  };
  requestAnimationFrame(() => { board.costs.length = 0; step(); });
})"""


def filled(api: Api, shot: dict[str, Any], columns: int) -> int:
    """Keys the whole character on so many frames, each a little otherwise; how many keys there are then."""
    take, cast = shot["takes"][0]["id"], shot["cast"][0]["id"]
    revision = 0
    for n in range(columns):
        values = {
            "head/ry": 0.3 * np.sin(n),
            "body/ty": -0.05 * (n % 2),
            "spine/rx": 0.02 * n,
            "arm.L.upper/rx": 0.1 * (n % 5),
        }
        edit = {"kind": "pose", "frame": 1 + 4 * n, "values": values, "keying": "whole"}
        answer = api("POST", f"/api/takes/{take}/edits", {"revision": revision, "casting": cast, "edit": edit})
        revision = answer["revision"]
    clip = api("GET", f"/api/takes/{take}")["clips"][str(cast)]
    return sum(len(rows) for rows in clip["curves"].values())


def drags(api: Api, shot: dict[str, Any]) -> None:
    take, cast = shot["takes"][0]["id"], shot["cast"][0]["id"]
    things = [{"casting": cast, "name": name} for name in ("hips", "head", "arm.L.goal", "arm.R.goal", "leg.L.goal")]
    watch = {"first": 1, "last": 240, "things": things}
    url = api.url.replace("http", "ws") + f"/live/takes/{take}"
    with connect(url, additional_headers={"Cookie": api.cookies(), "Origin": api.url}) as socket:

        def ask(message: dict[str, Any]) -> bytes:
            socket.send(json.dumps(message))
            while isinstance(answer := socket.recv(), str):
                pass
            return answer

        for frame, what in ((101, "a frame among many keys"), (237, "the last key: nothing behind it")):
            ask({"do": "begin", "seq": 0, "casting": cast, "frame": frame, "watch": watch})
            times = []
            size = 0
            for n in range(300):
                begun = time.perf_counter()
                wish = {"do": "move", "controls": ["body"], "axes": "world", "offset": [0.0, 0.0008 * n, 0.0006 * n]}
                size = len(ask({**wish, "seq": n + 1}))
                times.append(time.perf_counter() - begun)
            say(f"drag the body with five paths of 240 frames, {what} ({size // 1000} kB)", times)


def page(api: Api, shot: dict[str, Any], keys: int) -> None:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        view = chromium.new_page(viewport={"width": 1280, "height": 800})
        view.add_init_script("window.hame = {}")
        view.goto(api.url)
        view.get_by_role("button", name="Isla").click()
        view.get_by_role("heading", name="Shots").wait_for()
        _desk(view, api, shot)
        view.keyboard.press("v")
        view.wait_for_function("() => window.hameGraph?.curves.length > 0")
        view.wait_for_timeout(2500)
        count = view.evaluate("() => window.hameGraph.curves.length")
        costs = view.evaluate(PAN, 120)
        say(f"panning the graph of {count} curves, {keys:,} keys: script a frame", [c / 1e3 for c in costs])
        view.get_by_label("Only curves named").fill("head turn")
        view.wait_for_timeout(1500)
        view.evaluate("document.activeElement.blur()")
        x, y = view.evaluate("() => window.hameGraph.pixelOf('head/ry', 101)")
        box = view.get_by_test_id("graph-canvas").bounding_box()
        assert box is not None
        view.mouse.click(box["x"] + x, box["y"] + y)
        view.wait_for_timeout(500)
        view.mouse.move(box["x"] + x, box["y"] + y)
        view.mouse.down()
        view.evaluate("() => { window.hameGraph.costs.length = 0; }")
        for n in range(60):
            view.mouse.move(box["x"] + x, box["y"] + y - n)
        costs = view.evaluate("() => [...window.hameGraph.costs]")
        view.keyboard.press("Escape")
        view.mouse.up()
        if costs:
            say("one key dragged in the graph: script a frame", [c / 1e3 for c in costs])
        chromium.close()


def main() -> None:
    core()
    if len(sys.argv) < 2:
        return
    api = Api(sys.argv[1].rstrip("/"))
    one, _ = furnish(api)
    keys = filled(api, one, 60)
    drags(api, one)
    page(api, one, keys)


if __name__ == "__main__":
    main()
