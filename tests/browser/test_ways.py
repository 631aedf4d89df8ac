"""The Ways bench as a person uses it: a way drawn on the ground, its footfalls and pace, and what is laid over it."""

from __future__ import annotations

from unittest import skipUnless

import numpy as np

from hame.clip.going import Plan, plan_of
from hame.clip.layers import layers_of
from hame.clip.way import ways_of
from server.characters import store as characters
from server.shots import store
from server.shots.models import Take
from tests.browser.base import PICTURES, BrowserTest
from tests.browser.blocking import Blocking


class WaysTest(BrowserTest):
    def plan(self) -> Plan:
        take = Take.objects.filter(shot__name="Before dawn").latest("pk")
        casting = take.shot.cast.get(name="Brannoc")
        clip = store.open_clip(take, casting.pk)
        return plan_of(characters.rig(casting.version), clip, ways_of(clip)[0])

    def at(self, desk: Blocking, x: float, y: float, z: float) -> tuple[float, float]:
        box = desk.page.get_by_test_id("stage").bounding_box()
        assert box is not None
        left, top = desk.page.evaluate(f"window.hame.pixelsOf({x}, {y}, {z})")
        return box["x"] + left, box["y"] + top

    def drag(self, desk: Blocking, a: tuple[float, float], b: tuple[float, float]) -> None:
        mouse = desk.page.mouse
        mouse.move(*a)
        mouse.down()
        mouse.move(0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1]), steps=3)
        mouse.move(*b, steps=3)
        desk.page.get_by_test_id("readout").wait_for()
        mouse.up()

    def test_a_way_is_drawn_gone_changed_and_made_into_keys(self) -> None:
        desk = Blocking.open(self.page(), "Before dawn")
        page = desk.page
        desk.bench("Ways")
        page.get_by_role("button", name="Draw from where it stands").click()
        page.get_by_text("0 places").wait_for()
        for x, z in ((0.0, 1.2), (0.3, 2.4)):
            page.mouse.click(*self.at(desk, x, 0.0, z))
        page.get_by_text("2 places").wait_for()
        page.keyboard.press("Enter")
        self.assertEqual(desk.stored(1), 1)
        plan = self.plan()
        self.assertEqual(len(plan.way.points), 3)
        self.assertTrue(plan.way.stands)
        page.locator("[data-footfall='R1']").wait_for(state="attached")
        # A sole is dragged, and stays where it is while the way is bent.
        desk.tab("Footfalls")
        one = next(one for one in plan.found if one.number == 2)
        self.drag(desk, self.at(desk, one.place[0], 0.0, one.place[1]),
                  self.at(desk, one.place[0] + 0.12, 0.0, one.place[1]))  # fmt: skip
        desk.stored(2)
        page.get_by_text("set: place").wait_for()
        place = next(o for o in self.plan().found if o.number == 2).place
        self.assertAlmostEqual(place[0], one.place[0] + 0.12, delta=0.04)
        desk.tab("Way")
        page.get_by_role("button", name="° Bend").click()
        desk.stored(3)
        bent = {o.number: o for o in self.plan().found}
        self.assertEqual(bent[2].place, place)
        (before,), (after,) = (p.line.at(np.array([p.line.length]))[1] for p in (plan, self.plan()))
        self.assertAlmostEqual(after - before, np.pi / 2, delta=0.05)
        # Times typed as frames: a step is as long as they say.
        desk.tab("Pace")
        for label, frames in (("Frames on the ground", "16"), ("Frames with both feet", "3")):
            desk.number(label, frames, "go-bench")
        page.get_by_role("button", name="Go so: a step in 13 frames").click()
        desk.stored(4)
        landed = [o.first for o in self.plan().found if o.number > 0]
        self.assertEqual({b - a for a, b in zip(landed[:-2], landed[1:-1], strict=True)}, {13})
        # A pose under it goes into a layer, where it is asked for.
        desk.go(landed[1])
        desk.bench("Pose")
        desk.pick("arm.L.lower")
        desk.type("bend", "60")
        desk.told("goes by the way")
        page.get_by_role("button", name="Do it in a layer").last.click()
        desk.stored(5)
        desk.settles("bend", lambda v: abs(v - 60) < 0.1)
        take = Take.objects.filter(shot__name="Before dawn").latest("pk")
        clip = store.open_clip(take, take.shot.cast.get(name="Brannoc").pk)
        self.assertEqual(len(layers_of(clip)), 1)
        # And all of it becomes ordinary keys.
        desk.bench("Ways")
        self.accessible(page, "Ways")
        desk.tab("Way")
        page.get_by_role("button", name="Into keys").click()
        desk.stored(6)
        clip = store.open_clip(Take.objects.get(pk=take.pk), take.shot.cast.get(name="Brannoc").pk)
        self.assertEqual(ways_of(clip), ())
        self.assertGreater(len(clip.key_frames()), 8)
        page.keyboard.press("Control+z")
        desk.stored(7)
        page.locator("[data-footfall='R1']").wait_for(state="attached")

    @skipUnless(PICTURES, "draws the picture of the bench when pictures are asked for")
    def test_the_gallery_is_gone_round(self) -> None:
        desk = Blocking.open(self.page(), "Round the gallery")
        desk.bench("Ways")
        desk.go(150)
        desk.page.locator("[data-footfall='L10']").wait_for(state="attached")
        stage = desk.page.get_by_test_id("stage").bounding_box()
        assert stage is not None
        desk.page.mouse.move(stage["x"] + 390, stage["y"] + 290)
        for _ in range(4):
            desk.page.mouse.wheel(0, -300)
        desk.tab("Pace")
        self.picture(desk.page, "ways")
