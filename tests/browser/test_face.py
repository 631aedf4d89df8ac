"""The Face bench as a person uses it: zones, expressions that are mixed, gazes, blinks; springs on what hangs."""

from __future__ import annotations

from hame.clip.clip import Clip
from hame.clip.gaze import gazes_of
from server.shots import store
from server.shots.models import Take
from tests.browser.base import PICTURES, BrowserTest
from tests.browser.blocking import Blocking


class FaceTest(BrowserTest):
    shot = "Something in the fog"

    def clip(self, who: str) -> Clip:
        take = Take.objects.filter(shot__name=self.shot).latest("pk")
        return store.open_clip(take, take.shot.cast.get(name=who).pk)

    def test_a_face_is_posed_looks_and_blinks_and_what_hangs_swings(self) -> None:
        desk = Blocking.open(self.page(), self.shot)
        page = desk.page
        desk.act_on("Wick")
        desk.bench("Face")
        # What is chosen on the map has its channels below it.
        page.get_by_label("left brow inner", exact=True).click()
        page.get_by_test_id("channels").get_by_text("brow_inner_up_l").wait_for()
        # Two expressions are mixed, and the amount of the last step is judged near the hand.
        desk.go(20)
        desk.tab("Expressions")
        for number, name in enumerate(("Smiling", "Squinting"), 1):
            desk.number(f"{name} in percent", "50", "face-bench")
            desk.stored(number)
        page.get_by_role("group", name="Amount of the last step").wait_for()
        seen = {row[0]: row[1] for row in self.clip("Wick").curves["corner.L/corner_up_l"].table.tolist()}
        self.assertAlmostEqual(seen[20.0], 0.45, 6)
        # He looks at the dog, and what is off is told.
        desk.tab("Gaze")
        desk.choose("Carried by", "Bosun")
        desk.go(5)
        page.get_by_role("button", name="Wick looks there").click()
        desk.stored(3)
        self.assertEqual([(s.start, s.end, s.to) for s in gazes_of(self.clip("Wick"))], [(1, 144, "head")])
        desk.go(90)
        page.get_by_test_id("gaze-off").get_by_text("left eye 0.0°").wait_for()
        page.get_by_role("button", name="Blink at 90").click()
        desk.stored(4)
        page.get_by_role("button", name="Blink 90 to 94").wait_for()
        # The scarf's spring is another one, and then keys.
        desk.bench("Block")
        desk.tab("Life")
        page.get_by_role("button", name="scarf, all of it", exact=True).click()
        desk.number("Frames of a swing, scarf, all of it", "20")
        desk.stored(5)
        self.assertEqual(self.clip("Wick").tracks["spring/chain.scarf"][0].period, 20.0)  # type: ignore[attr-defined]
        page.get_by_role("region", name="Spring").get_by_role("button", name="Into keys").click()
        desk.stored(6)
        page.get_by_test_id("spring-taken").get_by_text("of the motion as it is").wait_for()
        self.assertEqual(self.clip("Wick").tracks["spring/chain.scarf"][0].layer, 1)  # type: ignore[attr-defined]
        # All of it is undone, step by step.
        for _ in range(6):
            page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="scarf, all of it", exact=True).wait_for()
        if PICTURES:
            self.picture(desk)

    def picture(self, desk: Blocking) -> None:
        page = desk.page
        desk.act_on("Brannoc")
        desk.bench("Face")
        desk.tab("Zones")
        desk.go(53)
        page.get_by_label("jaw", exact=True).first.click()
        page.evaluate("document.activeElement.blur()")
        for key in ("1", "c"):
            page.keyboard.press(key)
            page.wait_for_timeout(600)
        page.screenshot(path=f"{PICTURES}/face.png")
