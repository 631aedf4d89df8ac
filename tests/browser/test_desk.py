"""The desk in detail: selecting, what is shown, keys, takes, people, and the pages around it."""

from __future__ import annotations

import numpy as np

from server.productions.models import Membership, Production
from server.shots import store
from server.shots.models import Edit, Shot, Take
from tests.browser.base import BrowserTest, Desk
from tests.hame.examples import BRANNOC, brannoc


class SelectingTest(BrowserTest):
    def pixel(self, desk: Desk, joint: str, up: float = 0.0) -> tuple[float, float]:
        numbers = desk.page.evaluate("() => window.hame.joints()")
        x, y, z = np.array(numbers).reshape(-1, 8)[brannoc().skeleton.index(joint), :3]
        px, py = desk.page.evaluate("([x, y, z]) => window.hame.pixelsOf(x, y, z)", [x, y + up, z])
        box = desk.page.get_by_test_id("stage").bounding_box()
        assert box
        return box["x"] + px, box["y"] + py

    def chosen(self, desk: Desk) -> set[str]:
        found = desk.page.eval_on_selector_all(
            "[data-control][aria-pressed='true']", "spots => spots.map((s) => s.dataset.control)"
        )
        return set(found)

    def test_every_way_of_selecting(self) -> None:
        desk = Desk.open(self.page(), "Keeping watch")
        page = desk.page
        # The map, adding and taking away.
        desk.pick("head")
        desk.pick("chest", "Shift")
        self.assertEqual(self.chosen(desk), {"head", "chest"})
        desk.pick("head", "Control")
        self.assertEqual(self.chosen(desk), {"chest"})
        # All below, the other side, the whole, nothing.
        desk.pick("arm.L.upper")
        desk.key("o")
        self.assertEqual(self.chosen(desk), {"arm.R.upper"})
        desk.key("d")
        self.assertIn("arm.R.little", self.chosen(desk))
        self.assertNotIn("arm.L.little", self.chosen(desk))
        desk.key("Control+a")
        self.assertGreater(len(self.chosen(desk)), 30)
        page.get_by_test_id("stage").click(position={"x": 30, "y": 560})
        self.assertEqual(self.chosen(desk), set())
        # A box over the feet, a lasso round the chest.
        x, y = self.pixel(desk, "foot_l")
        x2, y2 = self.pixel(desk, "foot_r")
        left, right, top, bottom = min(x, x2) - 60, max(x, x2) + 60, min(y, y2) - 40, max(y, y2) + 70
        page.mouse.move(left, bottom)
        page.mouse.down()
        page.mouse.move((left + right) / 2, top)
        page.mouse.move(right, top)
        page.mouse.up()
        self.assertTrue({"leg.L.goal", "leg.R.goal"} <= self.chosen(desk))
        self.assertNotIn("head", self.chosen(desk))
        x, y = self.pixel(desk, "spine_3")
        page.keyboard.down("Alt")
        page.mouse.move(x - 150, y - 45)
        page.mouse.down()
        page.mouse.move(x - 145, y - 35)
        for dx, dy in ((-140, 40), (0, 60), (120, 40), (125, -45), (0, -50)):
            page.mouse.move(x + dx, y + dy)
        page.mouse.up()
        page.keyboard.up("Alt")
        self.assertIn("chest", self.chosen(desk))
        self.assertFalse({"leg.L.goal", "head"} & self.chosen(desk))
        # By name.
        page.get_by_role("button", name="List", exact=True).click()
        page.get_by_label("Find a control").fill("left foot")
        page.get_by_role("option", name="left foot").click()
        page.get_by_role("heading", name="left foot").wait_for()
        self.explains_what_is_locked(desk)
        self.lists_all_keys(desk)
        self.assertEqual(self.complaints, [])

    def test_a_pivot_dropped_anywhere_is_turned_about(self) -> None:
        desk = Desk.open(self.page(), "Keeping watch")
        page = desk.page

        def joints() -> np.ndarray:
            return np.array(page.evaluate("() => window.hame.joints()")).reshape(-1, 8)

        hand = brannoc().skeleton.index("hand_l")
        desk.pick("body")
        page.mouse.move(*self.pixel(desk, "hand_l"))
        desk.key("p")
        page.wait_for_timeout(200)
        before = joints()
        step = desk.stored()
        desk.offset("y", "30", "turn")
        desk.stored(step + 1)
        page.wait_for_timeout(400)
        after = joints()
        self.assertGreater(np.linalg.norm(after[1, :3] - before[1, :3]), 0.1)  # the hips went round
        self.assertLess(np.linalg.norm(after[hand, :3] - before[hand, :3]), 0.06)  # the hand is where the pivot is
        # Its mark in the middle of the rings drags it elsewhere; that changes no pose.
        at = page.evaluate("() => window.hame.handle()")
        box = page.get_by_test_id("stage").bounding_box()
        assert box
        page.mouse.move(box["x"] + at[0], box["y"] + at[1])
        page.mouse.down()
        page.mouse.move(box["x"] + at[0] + 40, box["y"] + at[1] + 30, steps=3)
        page.mouse.up()
        moved = page.evaluate("() => window.hame.handle()")
        np.testing.assert_allclose(np.subtract(moved, at), (40, 30), atol=2)
        self.assertEqual(desk.stored(), step + 1)
        # Taken away, each turns about its own place again.
        desk.key("Shift+p")
        desk.offset("y", "-10", "turn")
        desk.stored(step + 2)
        page.wait_for_timeout(400)
        np.testing.assert_allclose(joints()[1, :3], after[1, :3], atol=0.02)
        # The stage stands still under a drag, and stays where it is when the hand lets go.
        desk.pick("master")
        desk.key("m")
        origin = "() => window.hame.pixelsOf(0, 0, 0)"
        here = page.evaluate(origin)
        desk.drag_arm("x", 190, 60, before_release=lambda: self.assertEqual(page.evaluate(origin), here))
        desk.stored(step + 3)
        self.assertEqual(page.evaluate(origin), here)
        # At another frame it goes along, unless that is not wished.
        desk.go(9)
        page.wait_for_function(f"(here) => String(({origin})()) !== String(here)", arg=here)
        page.get_by_role("button", name="Show", exact=True).click()
        page.get_by_label("Stage follows a travelling figure").click()
        page.keyboard.press("Escape")
        here = page.evaluate(origin)
        desk.go(17)
        self.assertEqual(page.evaluate(origin), here)
        self.assertEqual(self.complaints, [])

    def explains_what_is_locked(self, desk: Desk) -> None:
        page = desk.page
        page.get_by_role("button", name="List", exact=True).click()  # the figure again
        desk.pick("arm.L.lower")
        page.get_by_test_id("channels").get_by_label("twist: 0.0").click()
        desk.told("the elbow is a hinge: it only bends")
        page.get_by_test_id("channels").get_by_text("bend", exact=True).hover()
        page.get_by_role("tooltip").get_by_text("From").wait_for()

    def lists_all_keys(self, desk: Desk) -> None:
        desk.key("?")
        listed = desk.page.get_by_role("dialog")
        for words in ("key the whole character", "limb between IK and FK", "three-quarter", "leave the drag"):
            listed.get_by_text(words).wait_for()
        desk.key("Escape")
        listed.wait_for(state="hidden")

    def test_what_is_hidden_is_keyed_with_the_whole_and_which_kinds_are_is_chosen(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        self.assertEqual(page.locator("[data-control='cap']").count(), 0)
        page.get_by_role("button", name="Show", exact=True).click()
        page.get_by_label("Face", exact=True).uncheck()
        page.get_by_label("Cap", exact=True).check()
        desk.key("Escape")
        self.assertEqual(page.locator("[data-control='cap']").count(), 1)
        self.assertEqual(page.locator("[data-control='jaw']").count(), 0)
        desk.key("Shift+K")
        desk.stored(1)
        keyed = self.keyed()
        self.assertIn("jaw/rx", keyed)
        # Skin only: nothing to take hold of, everything to judge.
        desk.pick("head")
        desk.key("h")
        page.wait_for_timeout(300)
        self.assertEqual(page.evaluate("() => window.hame.handle()"), None)
        desk.key("h")
        self.keys_the_kinds_that_are_chosen(desk)

    def keyed(self) -> set[str]:
        take = Take.objects.get(shot__name="Before dawn")
        store.forget()
        return set(store.open_clip(take, take.shot.cast.get().pk).curves)

    def keys_the_kinds_that_are_chosen(self, desk: Desk) -> None:
        page = desk.page
        page.get_by_role("button", name="Keyed…").click()
        page.get_by_label("Place", exact=True).uncheck()
        page.get_by_label("Size", exact=True).check()
        desk.key("Escape")
        before, step = self.keyed(), desk.stored()
        desk.go(5)
        desk.pick("master")
        desk.key("k")
        desk.stored(step + 1)
        self.assertEqual(self.keyed() - before, {"master/s"})
        self.assertEqual(self.keyed_at(5), {"master/rx", "master/ry", "master/rz", "master/s"})
        self.assertEqual(Edit.objects.latest("id").label, "Key master at 5")

    def keyed_at(self, frame: int) -> set[str]:
        take = Take.objects.get(shot__name="Before dawn")
        clip = store.open_clip(take, take.shot.cast.get().pk)
        return {address for address, curve in clip.curves.items() if frame in curve.frames}


class AroundTheDeskTest(BrowserTest):
    def test_a_take_is_set_aside_and_returned_to(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        desk.pick("head")
        desk.type("turn", "30")
        desk.stored(1)
        page.get_by_role("button", name="Take: Take 1").click()
        page.get_by_role("menuitem", name="Set aside").click()
        page.get_by_label("Name").fill("Shier")
        page.get_by_role("button", name="Done").click()
        page.get_by_role("button", name="Take: Shier").wait_for()
        desk.wait_ready()
        desk.pick("head")
        desk.type("turn", "5")
        desk.stored(1)
        page.get_by_role("button", name="Take: Shier").click()
        page.get_by_role("menuitem", name="Take 1").click()
        page.get_by_role("button", name="Take: Take 1").wait_for()
        desk.wait_ready()
        desk.pick("head")
        self.assertEqual(desk.value("turn"), 30.0)

    def test_ranges_and_rate_are_set_and_nonsense_is_refused_in_words(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        for label, text in (("Play to", "12"), ("Frames a second", "30"), ("Range to", "36")):
            page.get_by_test_id("strip").locator(f"button[aria-label^='{label}: ']").click()
            page.get_by_label(label, exact=True).fill(text)
            page.get_by_label(label, exact=True).press("Enter")
            page.locator(f"button[aria-label='{label}: {text}']").wait_for()
        shot = Shot.objects.get(name="Before dawn")
        self.assertEqual((shot.play_end, shot.fps, shot.end), (12, 30, 36))
        page.locator("button[aria-label^='Range to: ']").click()
        page.get_by_label("Range to", exact=True).fill("-5")
        page.get_by_label("Range to", exact=True).press("Enter")
        desk.told("the range ends at -5")
        page.get_by_role("button", name="Undo", exact=True).click()  # of the steps the rate was the last
        page.locator("button[aria-label='Frames a second: 24']").wait_for()
        # What moves is timed by it: there it asks.
        page = Desk.open(self.page(), "Keeping watch").page
        take = Take.objects.get(shot__name="Keeping watch")
        keys = self.key_frames(take)
        page.locator("button[aria-label^='Frames a second: ']").click()
        page.get_by_label("Frames a second", exact=True).fill("48")
        page.get_by_label("Frames a second", exact=True).press("Enter")
        page.get_by_role("button", name="Keep the seconds").click()
        page.locator("button[aria-label='Range to: 65']").wait_for()
        self.assertEqual(self.key_frames(take), {1 + 2 * (frame - 1) for frame in keys})
        page.get_by_role("button", name="Undo", exact=True).click()
        page.locator("button[aria-label='Range to: 33']").wait_for()
        self.assertEqual(self.key_frames(take), keys)

    def key_frames(self, take: Take) -> set[int]:
        store.forget()  # another process has stored
        take.refresh_from_db()
        [casting] = take.shot.cast.all()
        return set(store.open_clip(take, casting.pk).key_frames())

    def test_a_production_with_people_a_character_and_a_shot(self) -> None:
        page = self.page()
        page.get_by_role("button", name="New production…").click()
        page.get_by_label("Name").fill("Signal lamp")
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("heading", name="Signal lamp").wait_for()
        page.get_by_text("Bring in a character first").wait_for()
        page.get_by_role("button", name="People").click()
        for name in ("nobody", "tam"):  # whether there is such an account is not told
            page.get_by_label("Account name").fill(name)
            page.get_by_role("button", name="Ask in").click()
            page.get_by_text(f"{name}, asked in").wait_for()
        page.get_by_role("button", name="Close").click()
        other = self.page("tam")
        other.get_by_text("Isla asks you into Signal lamp, as an animator.").wait_for()
        other.get_by_role("button", name="Come in").click()
        other.get_by_role("heading", name="Signal lamp").wait_for()
        production = Production.objects.get(name="Signal lamp")
        self.assertEqual(Membership.objects.get(production=production, user__username="tam").role, "animator")
        page.get_by_label("Character file").set_input_files(str(BRANNOC))
        page.get_by_role("heading", name="Body plan").wait_for()
        # Turned by hand, seen at once, and turned back: there is nothing to store then.
        store_it = page.get_by_role("button", name="Store and build the rig")
        page.get_by_role("button", name="Turn by 90°").click()
        page.get_by_text("turned by 90° from its file").wait_for()
        self.assertTrue(store_it.is_enabled())
        page.get_by_role("button", name="Undo changes").click()
        page.get_by_text("as its file has it").wait_for()
        page.get_by_role("link", name="Shots and characters").click()
        page.get_by_role("button", name="New shot…").click()
        page.get_by_label("Name").fill("Oil for the lamp")
        page.get_by_label("Last frame").fill("72")
        page.get_by_role("button", name="Begin").click()
        desk = Desk(page)
        desk.wait_ready()
        self.assertEqual(Shot.objects.get(name="Oil for the lamp").end, 72)
        # Put away, brought back, and deleted for good with what goes along said.
        page.get_by_title("To the shots").click()
        page.get_by_label("More about Oil for the lamp").click()
        page.get_by_role("menuitem", name="Put away").click()
        page.get_by_text("No shots yet").wait_for()
        page.get_by_role("button", name="What was put away").click()
        page.get_by_role("button", name="Bring back").click()
        page.get_by_label("More about Oil for the lamp").click()
        page.get_by_role("menuitem", name="Put away").click()
        page.get_by_role("button", name="Delete for good…").click()
        page.get_by_text("With it go: 1 shot, 1 take").wait_for()
        page.get_by_role("button", name="Delete for good", exact=True).click()
        page.get_by_text("Nothing. A shot or a character").wait_for()
        self.assertFalse(Shot.objects.filter(name="Oil for the lamp").exists())
        self.assertEqual(self.complaints, [])
        # What is not shared looks as if it were not there.
        hidden = Shot.objects.create(production=Production.objects.create(name="Elsewhere"), name="Secret")
        page.goto(f"http://127.0.0.1:{self.port}/shots/{hidden.pk}")
        page.get_by_text("There is nothing here, or it is not shared with you.").wait_for()
