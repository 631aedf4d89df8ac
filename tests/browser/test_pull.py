"""A body that follows, in the real interface: pulled, gripped, made of few parts, weighed, and the crab's as well."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Page

from tests.browser.base import BrowserTest, Desk


class PullTest(BrowserTest):
    def joints(self, page: Page) -> np.ndarray:
        return np.array(page.evaluate("() => window.hame.joints()")).reshape(-1, 8)

    def middle(self, page: Page, part: str) -> tuple[float, float]:
        box = page.locator(f"[data-part='{part}']").bounding_box()
        assert box is not None
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def form(self, page: Page, part: str) -> str:
        return page.locator(f"[data-part='{part}']").get_attribute("data-form") or ""

    def is_form(self, page: Page, part: str, form: str) -> None:
        page.locator(f"[data-part='{part}'][data-form='{form}']").wait_for(state="attached")

    def drag(self, page: Page, part: str, by: tuple[float, float], drop: bool = True) -> None:
        x, y = self.middle(page, part)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + by[0] / 2, y + by[1] / 2, steps=3)
        page.mouse.move(x + by[0], y + by[1], steps=3)
        page.get_by_test_id("readout").wait_for()
        if drop:
            page.mouse.up()

    def test_a_hand_is_pulled_and_the_body_follows(self) -> None:
        desk = Desk.open(self.page(), "Before dawn")
        page = desk.page
        page.get_by_role("button", name="Pull", exact=True).click()
        for foot in ("leg.L.foot", "leg.R.foot"):
            self.is_form(page, foot, "fast")
        page.locator("[data-part='arm.L.hand']").wait_for()
        before = self.joints(page)
        self.drag(page, "arm.L.hand", (70, -150))
        self.assertEqual(desk.stored(1), 1)
        after = self.joints(page)
        moved = np.linalg.norm(after[:, :3] - before[:, :3], axis=1)
        self.assertGreater(moved.max(), 0.3)
        self.assertGreater((moved > 0.01).sum(), 15)  # the whole body
        page.get_by_role("button", name="History").click()
        page.get_by_text("Pull left hand at 1").wait_for()
        page.get_by_role("button", name="History").click()
        # A grip by its grades, with one key, on the body map as on the stage.
        desk.pick("head")
        page.keyboard.press("l")
        self.assertEqual(page.get_by_role("button", name="head: loose, change").count(), 1)
        page.keyboard.press("l")
        page.keyboard.press("l")
        page.get_by_role("button", name="head: fast, change").wait_for()
        page.get_by_role("button", name="head keeps its turn").wait_for()
        self.accessible(page, "pulling")
        self.picture(page, "pulling")
        page.keyboard.press("l")
        self.assertEqual(page.get_by_role("button", name="head: fast, change").count(), 0)
        # Out of reach it says what lags; a grip dropped in the hand gains reach.
        self.drag(page, "arm.L.hand", (180, -160), drop=False)
        page.get_by_test_id("readout").get_by_text("left hand lags by").wait_for()
        page.keyboard.press("l")
        page.get_by_text("Let go:").wait_for()
        page.keyboard.press("Escape")
        page.mouse.up()
        # With no grip at all the whole figure goes along, and it says so.
        page.get_by_role("button", name="Let all go").click()
        self.is_form(page, "leg.L.foot", "free")
        start = self.joints(page)
        self.drag(page, "arm.R.hand", (40, 30), drop=False)
        page.get_by_test_id("readout").get_by_text("the whole figure moves").wait_for()
        page.mouse.up()
        self.assertEqual(desk.stored(2), 2)
        way = self.joints(page)[1:, :3] - start[1:, :3]
        self.assertLess(np.ptp(way, axis=0).max(), 1e-3)
        # A pose from few: what is dragged is placed, and let go again without a change.
        page.get_by_role("button", name="Pose from few").click()
        self.drag(page, "body", (0, 25))
        desk.stored(3)
        self.drag(page, "arm.R.hand", (-30, -60))
        desk.stored(4)
        page.get_by_role("button", name="Let right hand go").wait_for()
        page.get_by_role("button", name="Let hips go").wait_for()
        page.get_by_role("button", name="Let all go").click()
        self.assertEqual(page.get_by_role("button", name="Let hips go").count(), 0)
        # And by numbers, without the mouse on the stage.
        page.get_by_role("button", name="Body follows").click()
        page.get_by_role("button", name="Feet fast").click()
        desk.pick("head")
        page.locator("button[aria-label^='Pull by, z: ']").click()
        page.get_by_label("Pull by, z", exact=True).fill("0.05")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Pull", exact=True).nth(1).click()
        desk.stored(5)
        # The weight of it: seen, and brought over a foot.
        page.get_by_role("button", name="Weight", exact=True).click()
        margin = page.get_by_test_id("margin")
        margin.wait_for()
        page.get_by_test_id("balance-row").wait_for()
        page.get_by_role("button", name="over it: Bring the weight over the left foot").hover()
        page.get_by_role("button", name="over it: Bring the weight over the left foot").click()
        desk.stored(6)
        page.wait_for_function("() => parseInt(document.querySelector(\"[data-share='leg.L.goal']\")?.innerText) > 80")
        self.accessible(page, "the Weight bench")
        # A hand is shaped by a slider, by keys pressed faster than they are answered; all of it is stored.
        page.get_by_role("button", name="Pose", exact=True).click()
        page.get_by_role("button", name="Move", exact=True).click()
        desk.pick("arm.R.fingers")
        page.get_by_label("fist slider").focus()
        for _ in range(25):
            page.keyboard.press("ArrowRight")
        desk.settles("fist", lambda value: abs(value - 0.25) < 0.005)
        self.assertEqual(page.get_by_text("A newer state").count(), 0)
        steps = desk.stored(7)
        # A limb is stretched by its handle, and shown so in its channels.
        desk.pick("arm.L.hand")
        handle = page.locator("[data-stretch]")
        handle.wait_for()
        box, hand = handle.bounding_box(), page.evaluate("() => window.hame.handle()")
        assert box is not None and hand is not None
        stage = page.get_by_test_id("stage").bounding_box()
        assert stage is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        way = np.array([x - stage["x"] - hand[0], y - stage["y"] - hand[1]])
        way /= np.linalg.norm(way)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 60 * way[0], y + 60 * way[1], steps=4)
        page.get_by_test_id("readout").get_by_text("arm stretch").wait_for()
        page.mouse.up()
        desk.stored(steps + 1)
        desk.settles("arm stretch", lambda value: 1.1 < value < 3.0)
        self.assertEqual(self.complaints, [])

    def test_a_crab_is_pulled_by_the_same_means(self) -> None:
        desk = Desk.open(self.page(), "Crab on the slip")
        page = desk.page
        page.get_by_role("button", name="Weight", exact=True).click()
        page.get_by_test_id("margin").get_by_text("inside what bears it").wait_for()
        self.picture(page, "weight")
        page.get_by_role("button", name="Pose", exact=True).click()
        page.get_by_role("button", name="Pull", exact=True).click()
        self.is_form(page, "leg3.R.foot", "planted")
        before = self.joints(page)
        self.drag(page, "body", (18, -16))
        desk.stored(2)
        after = self.joints(page)
        moved = np.linalg.norm(after[:, :3] - before[:, :3], axis=1)
        names = page.evaluate("() => window.hame.jointNames()")
        tips = [n for n, name in enumerate(names) if "dactyl" in name]
        self.assertEqual(len(tips), 6)
        self.assertLess(moved[tips].max(), 1e-4)
        self.assertGreater(moved[names.index("shell")], 0.01)
        page.mouse.click(*self.middle(page, "leg3.R.foot"))
        page.get_by_text("is planted from 1 to").first.wait_for()
        self.assertEqual(self.complaints, [])
