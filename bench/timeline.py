"""Script for each picture while time is shifted: ``python -m bench.timeline URL`` while ``./start`` serves it.

A shot of 5,000 frames with 60,000 keys, its time line shifted by a right drag, alone, with the sheet and with the
graph; at all of the shot, at a few hundred frames and at ten pixels a frame. Beside it the same motion of the hand over
a still page: what the browser itself takes.
"""

from __future__ import annotations

import sys
from typing import Any

import numpy as np
from playwright.sync_api import CDPSession, Page, sync_playwright

from bench.desk import FLAGS, Api, _desk, furnish

FRAMES, COLUMNS = 5000, 232


def filled(api: Api, shot: dict[str, Any]) -> int:
    """Keys the whole character on frames all over a long shot; how many keys there are then."""
    take, cast = shot["takes"][0]["id"], shot["cast"][0]["id"]
    api("PATCH", f"/api/shots/{shot['id']}", {"end": FRAMES, "play_end": FRAMES})
    revision = 0

    def edit(**told: Any) -> None:
        nonlocal revision
        answer = api("POST", f"/api/takes/{take}/edits", {"revision": revision, "casting": cast, "edit": told})
        revision = answer["revision"]

    frames = np.unique(np.rint(np.linspace(1, FRAMES, COLUMNS)).astype(int)).tolist()
    edit(kind="pose", frame=frames[0], values={"head/ry": 0.1}, keying="whole")
    edit(kind="pose", frame=frames[1], values={"head/ry": 0.3, "body/ty": -0.05}, keying="whole")
    for frame in frames[2:]:
        edit(kind="duplicate", frames=[frames[frame % 2]], by=frame - frames[frame % 2])
    clip = api("GET", f"/api/takes/{take}")["clips"][str(cast)]
    return sum(len(rows) for rows in clip["curves"].values())


def script(page: Page, cdp: CDPSession, act: Any) -> tuple[float, int]:
    """Milliseconds of script for each picture drawn meanwhile, and how many were drawn."""

    def metrics() -> float:
        told = {m["name"]: m["value"] for m in cdp.send("Performance.getMetrics")["metrics"]}
        return float(told["ScriptDuration"])

    page.evaluate(
        "() => { window.drawn = 0; const on = () => { window.drawn++; window.ticking = requestAnimationFrame(on); };"
        " on(); }"
    )
    before = metrics()
    act()
    took = metrics() - before
    drawn = int(page.evaluate("() => { cancelAnimationFrame(window.ticking); return window.drawn; }"))
    return took * 1e3 / max(drawn, 1), drawn


def main() -> None:
    api = Api(sys.argv[1].rstrip("/"))
    one, _ = furnish(api)
    keys = filled(api, one)
    print(f"a shot of {FRAMES:,} frames, {keys:,} keys")
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(120_000)
        page.add_init_script("window.hame = {}")
        page.goto(api.url)
        page.get_by_role("button", name="Isla").click()
        page.get_by_role("heading", name="Shots").wait_for()
        _desk(page, api, one)
        page.wait_for_timeout(3000)
        cdp = page.context.new_cdp_session(page)
        cdp.send("Performance.enable")

        def shift(over: str) -> None:
            box = page.get_by_test_id(over).bounding_box()
            assert box is not None
            x, y = box["x"] + 0.6 * box["width"], box["y"] + 10
            page.mouse.move(x, y)
            page.mouse.down(button="right")
            for n in range(80):
                page.mouse.move(x + (200 - 5 * abs(n - 40)), y)
                page.wait_for_timeout(16)
            page.mouse.up(button="right")

        for opened in ("", "s", "v"):
            if opened:
                page.keyboard.press(opened)
                page.wait_for_timeout(2000)
            for name, zoom in (("all of it", 0), ("400 frames", 3), ("ten pixels a frame", 9)):
                page.keyboard.press("e")
                if zoom == 9:
                    page.keyboard.press("z")
                elif zoom:
                    box = page.get_by_test_id("ruler").bounding_box()
                    assert box is not None
                    page.mouse.move(box["x"] + 500, box["y"] + 30)
                    for _ in range(4):
                        page.mouse.wheel(0, -400)
                        page.wait_for_timeout(60)
                page.wait_for_timeout(1200)
                cost, drawn = script(page, cdp, lambda: shift("ruler"))
                where = {"": "strip", "s": "strip and sheet", "v": "strip and graph"}[opened]
                shown = page.get_by_test_id("time").get_attribute("data-first")
                print(f"{where}, {name}: {cost:.2f} ms of script a picture ({drawn} pictures; now from {shown})")
            if opened:
                page.keyboard.press(opened)
        page.wait_for_timeout(5000)
        still, _ = script(page, cdp, lambda: page.wait_for_timeout(1500))
        print(f"nothing moves: {still:.2f} ms")
        chromium.close()


if __name__ == "__main__":
    if len(sys.argv) < 2:
        sys.exit("python -m bench.timeline URL, of a server that ./start runs")
    main()
