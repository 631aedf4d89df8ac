"""Timing in the real interface: the graph, ways and charts of gaps, layers, paths, faults, comparing and the camera."""

from __future__ import annotations

from typing import Any

import numpy as np
from playwright.sync_api import Page

from hame.clip.clip import Clip
from hame.clip.sampling import sample_curve
from server.shots import store
from server.shots.models import Casting, Take
from tests.browser.base import BrowserTest, Desk


class CurvesTest(BrowserTest):
    def clip(self, who: str = "Wick") -> Clip:
        """The clip as it is stored now."""
        store.forget()
        take = Take.objects.get(shot__name="Over the bollard")
        return store.open_clip(take, Casting.objects.get(shot=take.shot, name=who).pk)

    def values(self, page: Page) -> dict[str, float]:
        """What the graph's list says of each curve at the playhead, in the unit that it shows."""
        rows = page.eval_on_selector_all(
            "[data-curve]", "rows => rows.map(r => [r.dataset.curve, r.querySelector('[data-value]').innerText])"
        )
        return {address: float(text.replace("−", "-").rstrip("° cm%")) for address, text in rows}

    def pixel(self, page: Page, address: str, frame: int, side: str = "") -> tuple[float, float]:
        found = page.evaluate("([a, f, s]) => window.hameGraph.pixelOf(a, f, s || undefined)", [address, frame, side])
        box = page.get_by_test_id("graph-canvas").bounding_box()
        assert box is not None and found is not None, (address, frame, side)
        return box["x"] + found[0], box["y"] + found[1]

    def drag(self, page: Page, start: tuple[float, float], by: tuple[float, float], drop: bool = True) -> None:
        page.mouse.move(*start)
        page.mouse.down()
        page.mouse.move(start[0] + by[0] / 2, start[1] + by[1] / 2, steps=3)
        page.mouse.move(start[0] + by[0], start[1] + by[1], steps=3)
        if drop:
            page.mouse.up()

    def test_time_is_given_to_poses(self) -> None:
        desk = Desk.open(self.page(), "Over the bollard")
        page = desk.page
        self._graph(desk, page)
        self._gap(desk, page)
        self._layer(desk, page)
        self._paths(desk, page)
        self._compared(desk, page)
        self._filmed(page)
        self.assertEqual(self.complaints, [])

    def _graph(self, desk: Desk, page: Page) -> None:
        desk.go(27)
        page.keyboard.press("v")
        page.get_by_label("Only curves named").fill("body place")
        page.locator("[data-curve='body/ty']").wait_for()
        # What the page draws is what the core plays: handles of themselves, by hand, and ways in closed form.
        page.get_by_label("Only curves named").fill("")
        page.locator("[data-curve='head/rx']").wait_for()
        clip, told = self.clip(), self.values(page)
        factors = {"t": 100.0, "r": np.degrees(1.0)}
        looked = 0
        for address, value in told.items():
            factor = factors.get(address.rsplit("/", 1)[1][0])
            if factor and address.rsplit("/", 1)[1][1:] in "xyz":
                wished = factor * float(sample_curve(clip.curves[address], np.array([27.0]))[0])
                self.assertAlmostEqual(value, wished, delta=0.051, msg=address)
                looked += 1
        self.assertGreater(looked, 15)
        # A key is dragged, held to its time, seen on the stage meanwhile; Escape lets it go.
        page.get_by_label("Only curves named").fill("body height")
        page.wait_for_function("() => document.querySelectorAll('[data-curve]').length === 1")
        page.evaluate("document.activeElement.blur()")
        page.wait_for_timeout(300)
        start = self.pixel(page, "body/ty", 47)
        page.mouse.click(*start)
        page.wait_for_timeout(200)
        self.drag(page, start, (3, -25), drop=False)
        page.keyboard.press("Escape")
        page.mouse.up()
        self.assertEqual(desk.stored(), 1)
        page.keyboard.down("Alt")
        self.drag(page, start, (3, -25))
        page.keyboard.up("Alt")
        desk.stored(2)
        moved = self.clip().curves["body/ty"]
        self.assertEqual(moved.frames.tolist(), clip.curves["body/ty"].frames.tolist())
        at = moved.frames.tolist().index(47)
        self.assertGreater(moved.values[at], clip.curves["body/ty"].values[at] + 0.01)
        # Its handle is pulled out, both in one line; then typed.
        page.wait_for_timeout(300)
        self.drag(page, self.pixel(page, "body/ty", 47, "after"), (14, -12))
        desk.stored(3)
        page.get_by_role("button", name="Handles: In line").wait_for()
        page.locator("button[aria-label^='Value of the chosen keys: ']").click()
        page.get_by_label("Value of the chosen keys", exact=True).fill("1.5")
        page.keyboard.press("Enter")
        desk.stored(4)
        self.assertAlmostEqual(self.clip().curves["body/ty"].values[at], 0.015)
        # A region by a box is scaled by its side.
        a, b = self.pixel(page, "body/ty", 39), self.pixel(page, "body/ty", 56)
        box = page.get_by_test_id("graph-canvas").bounding_box()
        assert box is not None
        self.drag(page, (a[0] - 12, box["y"] + 20), (b[0] - a[0] + 24, box["height"] - 26))
        page.get_by_role("button", name="Keys", exact=True).first.click()
        page.get_by_role("menuitem", name="Flatten").click()
        desk.stored(5)
        page.get_by_role("button", name="Undo").click()
        desk.stored()
        self.accessible(page, "the graph")
        self.picture(page, "graph")
        page.keyboard.press("v")

    def _gap(self, desk: Desk, page: Page) -> None:
        page.get_by_role("button", name="Curves", exact=True).click()
        desk.go(50)
        way = page.get_by_role("button", name="Slow stop")
        way.hover()
        page.wait_for_timeout(400)
        step = desk.stored()
        way.click()
        desk.stored(step + 1)
        self.assertEqual(self.clip().curves["spine/rx"].to_json()[-3][2], 4)
        page.get_by_text("now slow stop").wait_for()
        # A tick of the chart is dragged, and the curves follow.
        tick = page.get_by_role("slider", name="Frame 50")
        tick.wait_for()
        box = None
        while box is None or box != tick.bounding_box():  # the chart of the new way may still be on its way
            box = tick.bounding_box()
            page.wait_for_timeout(400)
        before = int(tick.get_attribute("aria-valuenow") or 0)
        self.drag(page, (box["x"] + box["width"] / 2, box["y"] + 12), (-26, 0))
        desk.stored(step + 2)
        stands = "document.querySelector(\"[aria-label='Frame 50']\")?.getAttribute('aria-valuenow')"
        page.wait_for_function(f"before => Number({stands}) < before - 5", arg=before)
        self.accessible(page, "the Curves bench")
        self.picture(page, "curves")

    def _layer(self, desk: Desk, page: Page) -> None:
        step = desk.stored()
        page.get_by_role("tab", name="Layers").click()
        page.get_by_label("Name of a new layer").fill("Nod")
        page.get_by_role("button", name="Add", exact=True).click()
        page.get_by_role("button", name="Posing in").first.wait_for()
        desk.stored(step + 1)
        below = self.clip().curves["head/rx"]
        page.get_by_role("button", name="Pose", exact=True).click()
        desk.go(60)
        desk.pick("head")
        desk.type("bend", "25")
        desk.stored(step + 2)
        clip = self.clip()
        self.assertIn("#1/head/rx", clip.curves)
        self.assertEqual(clip.curves["head/rx"], below)
        page.get_by_role("button", name="Curves", exact=True).click()
        page.get_by_role("tab", name="Layers").click()
        page.get_by_role("button", name="Mute", exact=True).click()
        desk.stored(step + 3)
        page.get_by_role("button", name="Muted", exact=True).click()
        desk.stored(step + 4)
        self.accessible(page, "layers")
        page.get_by_role("button", name="Merge down").click()
        desk.stored(step + 5)
        after = self.clip()
        self.assertEqual([a for a in after.curves if a.startswith("#")], [])
        self.assertAlmostEqual(
            float(sample_curve(after.curves["head/rx"], np.array([60.0]))[0]), np.radians(25), delta=0.002
        )

    def _paths(self, desk: Desk, page: Page) -> None:
        step = desk.stored()
        page.get_by_role("button", name="Arcs", exact=True).click()
        page.get_by_role("button", name="Wick: head", exact=True).wait_for()
        page.keyboard.press("2")
        page.wait_for_timeout(1200)
        self.accessible(page, "the Arcs bench")
        self.picture(page, "arcs")
        found: Any = page.evaluate("() => window.hame.markPixels(1, 30)")
        box = page.get_by_test_id("stage").bounding_box()
        assert box is not None
        x, y = box["x"] + found[0], box["y"] + found[1]
        page.mouse.click(box["x"] + 20, box["y"] + box["height"] - 30)  # nothing is selected, so no handle lies over it
        page.mouse.click(x, y)
        page.get_by_role("heading", name="Mark at 30").wait_for()
        # A path more: of the left foot, seen from the hips; stored for all.
        desk.pick("leg.L.goal")
        page.keyboard.press("a")
        page.get_by_role("button", name="Wick: left foot", exact=True).wait_for()
        desk.choose("Seen of Wick: left foot", "seen from the hips")
        page.wait_for_timeout(500)
        paths = Take.objects.get(shot__name="Over the bollard").paths
        self.assertEqual([(p["name"], p["within"]) for p in paths][-1], ("leg.L.goal", "hips"))
        # The hips are dragged by a mark of their path: the pose there changes.
        before = self.clip()
        found = page.evaluate("() => window.hame.markPixels(0, 30)")
        x, y = box["x"] + found[0], box["y"] + found[1]
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 7, y + 4)
        page.wait_for_timeout(1500)
        page.mouse.move(x + 10, y + 12, steps=4)
        page.get_by_test_id("readout").wait_for()
        page.mouse.up()
        desk.stored(step + 1)
        self.assertNotEqual(self.clip().to_json(), before.to_json())
        page.get_by_role("tab", name="Faults").click()
        page.get_by_role("heading", name="of paths and timing").wait_for()
        page.get_by_role("tab", name="Sides").click()
        page.get_by_text("Lead and delay").wait_for()

    def _compared(self, desk: Desk, page: Page) -> None:
        page.get_by_role("tab", name="Compare").click()
        page.get_by_role("button", name="A step of the history").click()
        page.get_by_role("menuitem", name="The beginning").click()
        page.get_by_role("button", name="Flip").wait_for()
        own = page.evaluate("() => window.hame.joints()")
        page.keyboard.press("q")
        page.get_by_role("button", name="Seeing the other").wait_for()
        page.wait_for_timeout(300)
        other = page.evaluate("() => window.hame.joints()")
        self.assertGreater(np.abs(np.array(own) - np.array(other)).max(), 0.05)
        page.keyboard.press("q")
        page.wait_for_timeout(300)
        np.testing.assert_array_equal(page.evaluate("() => window.hame.joints()"), own)
        desk.choose("Shown", "side by side")
        page.wait_for_timeout(500)
        page.get_by_role("button", name="Stop", exact=True).click()

    def _filmed(self, page: Page) -> None:
        page.keyboard.press("6")
        page.get_by_test_id("stage").get_by_test_id("frame-mask").wait_for(state="attached")
        page.keyboard.press("5")
        page.wait_for_function("() => !document.querySelector('[data-testid=stage] [data-testid=frame-mask]')")
