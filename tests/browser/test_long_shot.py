"""A shot of 480 frames from nothing: a walk, a stand that is kept alive, and a run."""

from __future__ import annotations

import numpy as np

from hame.clip.cycles import cycles_of
from hame.clip.living import livings_of
from hame.evaluate.evaluate import channel_values, evaluate
from server.characters import store as characters
from server.shots import store
from server.shots.models import Edit, Take
from tests.browser.base import BrowserTest
from tests.browser.blocking import Blocking


class LongShotTest(BrowserTest):
    def test_a_walk_a_stand_and_a_run(self) -> None:
        page = self.page()
        page.get_by_role("button", name="New shot…").click()
        page.get_by_label("Name").fill("Along the shore")
        page.get_by_role("button", name="Begin").click()
        desk = Blocking(page)
        desk.wait_ready()
        desk.act_on("Brannoc") if page.locator("button[aria-label^='Acts on: ']").count() else None

        def bar(label: str, value: str) -> None:
            page.locator(f"button[aria-label^='{label}: ']").click()
            page.get_by_label(label, exact=True).fill(value)
            page.get_by_label(label, exact=True).press("Enter")
            page.locator(f"button[aria-label='{label}: {value}']").wait_for()

        bar("Play from", "1")
        bar("Range to", "480")
        bar("Play to", "480")
        desk.bench("Block")
        step = desk.stored()

        def gait(kind: str, start: int, until: str) -> int:
            """Rough poses smoothed, made a cycle with an echo, and repeated with its way."""
            desk.go(start)
            desk.tab("Poses")
            desk.choose("Template", kind)
            desk.press(f"Lay from {start}")
            made = desk.stored(step + 1)
            if kind == "Walk":  # what is keyed after that is smooth
                desk.press("Smooth")
                made = desk.stored(made + 1)
            desk.tab("Cycle")
            desk.press("Echo the half")
            made = desk.stored(made + 1)
            desk.number("Repeat to", until)
            desk.press("Travel a stride")
            return desk.stored(made + 1)

        step = gait("Walk", 1, "193")
        for frame in (205, 300):
            desk.go(frame)
            desk.key("Shift+k")
            step = desk.stored(step + 1)
        bar("Play to", "300")
        bar("Play from", "205")
        desk.tab("Life")
        desk.press("Keep alive from 205 to 300")
        step = desk.stored(step + 1)
        bar("Play to", "480")
        bar("Play from", "1")
        step = gait("Run", 320, "480")
        self.assertEqual(Edit.objects.filter(take__shot__name="Along the shore").latest("id").label[:6], "Repeat")

        take = Take.objects.get(shot__name="Along the shore")
        casting = next(c for c in store.castings_of(take) if c.name == "Brannoc")
        clip, rig = store.open_clip(take, casting.pk), characters.rig(casting.version)
        self.assertEqual([(c.start, c.end, c.until, c.echo) for c in cycles_of(clip)],
                         [(1, 25, 193, True), (320, 336, 480, True)])  # fmt: skip
        self.assertEqual([(span.start, span.end) for span in livings_of(clip)], [(205, 300)])
        nodes = evaluate(rig, channel_values(rig, clip, np.arange(1, 481)))
        hips = nodes[:, rig.control("hips").node, :3]
        self.assertGreater(float(hips[192, 2] - hips[0, 2]), 5.0)  # eight cycles on
        self.assertLess(float(np.ptp(hips[204:300], axis=0).max()), 0.03)  # stands, and is not dead
        self.assertGreater(float(np.ptp(hips[204:300], axis=0).max()), 1e-4)
        self.assertGreater(float(hips[479, 2] - hips[319, 2]), 5.0)
