"""From a rigged character to a posed, keyed, played, stored and handed-off motion, as a new user goes."""

from __future__ import annotations

import json
import signal
from pathlib import Path

import numpy as np
from django.contrib.sessions.models import Session
from playwright.sync_api import Route

from hame.formats.gltf_read import read_character
from hame.formats.gltf_write import write_character
from server.shots.models import Edit, Shot, Take
from tests.browser.base import BrowserTest, Desk
from tests.hame.examples import brannoc
from tests.hame.foreign import foreign_character


class FirstMotionTest(BrowserTest):
    still = False  # as most people's pages are

    def joint(self, desk: Desk, name: str) -> np.ndarray:
        numbers = desk.page.evaluate("() => window.hame.joints()")
        return np.array(numbers).reshape(-1, 8)[brannoc().skeleton.index(name), :3]

    def test_the_whole_way(self) -> None:
        page = self.signed_in("Isla")
        page.wait_for_function(  # all thumbnails are there
            "(count) => performance.getEntriesByType('resource').filter((one) => one.name.includes('thumbnail')"
            " && one.responseEnd).length >= count",
            arg=Shot.objects.exclude(thumbnail="").count(),
        )
        page.wait_for_timeout(300)  # and drawn
        self.picture(page, "shots")
        desk = Desk.open(page)
        self.assertEqual(page.get_by_label("Sights").locator("button").count(), 3)
        self.picture(page, "desk")
        self.pose(desk)
        self.key_and_play(desk)
        self.history(desk)
        self.hand_off(desk)
        page.get_by_role("button", name="Pose", exact=True).click()
        page.get_by_role("button", name="Night desk").click()
        self.picture(page, "night")
        self.assertEqual(self.complaints, [])

    def pose(self, desk: Desk) -> None:
        page = desk.page
        # The left foot, picked on the figure: the leg follows by IK, the pose is shown while dragging.
        foot = self.joint(desk, "foot_l")
        stage = page.get_by_test_id("stage").bounding_box()
        assert stage
        x, y = page.evaluate("([x, y, z]) => window.hame.pixelsOf(x, y, z)", [foot[0], foot[1] + 0.12, foot[2]])
        page.mouse.click(stage["x"] + x, stage["y"] + y)
        page.get_by_role("heading", name="left foot").wait_for()
        knee = self.joint(desk, "shin_l")

        def look() -> None:
            self.assertIn("y +", page.get_by_test_id("readout").inner_text())
            page.wait_for_timeout(300)
            self.assertGreater(self.joint(desk, "foot_l")[1], foot[1] + 0.05)
            self.picture(page, "posing")

        desk.drag_arm("y", 0, -60, before_release=look)
        desk.stored(1)
        lifted = self.joint(desk, "foot_l")
        self.assertGreater(lifted[1], foot[1] + 0.1)
        self.assertGreater(self.joint(desk, "shin_l")[2], knee[2] + 0.05)

        # Escape leaves the drag and keeps the pose; nothing is stored.
        desk.drag_arm("x", 50, 10, keep=True)
        desk.key("Escape")
        page.mouse.up()
        page.wait_for_timeout(400)
        np.testing.assert_allclose(self.joint(desk, "foot_l"), lifted, atol=1e-5)
        self.assertEqual(desk.stored(), 1)

        # Shift makes the same stroke ten times finer.
        before = desk.value("height")
        page.keyboard.down("Shift")
        desk.drag_arm("y", 0, -60)
        page.keyboard.up("Shift")
        desk.stored(2)
        self.assertLess(desk.value("height") - before, 0.05)

        # Typed: absolute, by so much, and refused past a limit.
        desk.type("height", "0.1")
        desk.stored(3)
        desk.type("height", "+=0.02")
        desk.stored(4)
        self.assertAlmostEqual(desk.value("height"), 0.12)
        desk.type("roll", "500")
        desk.told("past its limit")
        desk.type("height", "0")
        desk.stored(5)

        # Equal and opposite on both sides in one step.
        desk.choose("Sides", "Both, equal and opposite")
        desk.offset("z", "-0.055")
        desk.stored(6)
        self.assertAlmostEqual(desk.value("forward"), -0.055)
        desk.pick("leg.R.goal")
        self.assertAlmostEqual(desk.value("forward"), 0.055)
        desk.choose("Sides", "One side")

        # Lowering the body leaves the feet (once they are in reach, a little down).
        desk.pick("body")
        desk.type("height", "-0.02")
        desk.stored(7)
        feet = self.joint(desk, "foot_l"), self.joint(desk, "foot_r")
        desk.type("height", "-0.06")
        step = desk.stored(8)
        np.testing.assert_allclose((self.joint(desk, "foot_l"), self.joint(desk, "foot_r")), feet, atol=1e-5)

        # Axes are remembered for moving and turning apart.
        desk.key("t")
        self.assertIn("Own", page.locator("button[aria-label^='Axes']").inner_text())
        desk.key("m")
        self.assertIn("World", page.locator("button[aria-label^='Axes']").inner_text())

        # Several controls at once: spine and chest turn together.
        desk.key("t")
        desk.pick("spine")
        desk.pick("chest", "Shift")
        desk.offset("y", "12", "turn")
        desk.stored(step + 1)
        for control in ("spine", "chest"):
            desk.pick(control)
            self.assertAlmostEqual(desk.value("turn"), 12.0, places=1)
        self.assertIn("keep their length", page.get_by_test_id("channels").inner_text())

        # The foot over its ball and its toe.
        desk.pick("leg.R.goal")
        ball = self.joint(desk, "ball_r")
        desk.type("roll", "30")
        desk.stored(step + 2)
        np.testing.assert_allclose(self.joint(desk, "ball_r"), ball, atol=1e-5)
        desk.type("roll", "70")
        desk.stored(step + 3)
        self.assertGreater(self.joint(desk, "ball_r")[1], ball[1] + 0.02)
        desk.type("roll", "0")

        # An arm to IK and back without moving; the fingers.
        hand = self.joint(desk, "hand_l")
        page.locator("[data-limb='arm.L']").click()
        desk.stored(step + 5)
        np.testing.assert_allclose(self.joint(desk, "hand_l"), hand, atol=1e-5)
        desk.pick("arm.L.goal")
        desk.type("height", "+=0.1")
        desk.stored(step + 6)
        self.assertGreater(self.joint(desk, "hand_l")[1], hand[1] + 0.05)
        desk.pick("arm.L.index")
        desk.pick("arm.L.middle", "Shift")
        tip = self.joint(desk, "index_3_l")
        desk.type("curl", "50")
        desk.stored(step + 7)
        self.assertGreater(np.linalg.norm(self.joint(desk, "index_3_l") - tip), 0.01)

        # Places and turns apart back to rest; views at one key.
        desk.pick("body")
        desk.type("turn", "10")
        desk.stored(step + 8)
        page.get_by_test_id("channels").get_by_role("button", name="reset").first.click()
        desk.stored(step + 9)
        desk.settles("height", lambda v: v == 0.0)
        self.assertEqual(desk.value("turn"), 10.0)
        for key, name in (("1", "Front"), ("2", "Side"), ("3", "Top"), ("4", "Back"), ("5", "Three-quarter")):
            desk.key(key)
            self.assertIn(name, page.locator("button[aria-label^='View']").inner_text())
        page.wait_for_timeout(300)

    def key_and_play(self, desk: Desk) -> None:
        page = desk.page
        step = desk.stored()
        desk.key("Shift+K")
        desk.stored(step + 1)
        desk.key("Control+c")
        desk.told("is copied")
        desk.go(13)
        desk.choose("Automatic keying", "Whole character")
        desk.pick("head")
        desk.type("turn", "25")
        desk.stored(step + 2)
        desk.go(25)
        desk.key("Control+v")
        desk.stored(step + 3)
        self.assertEqual(desk.columns(), [1, 13, 25])
        desk.settles("turn", lambda v: v == 0.0)
        desk.go(7)
        desk.settles("turn", lambda v: 5 < v < 20)

        # With automatic keying off a pose waits, says so, and is keyed or dropped.
        desk.choose("Automatic keying", "Off: poses wait")
        desk.type("turn", "-20")
        desk.told("Pending pose at 7: not keyed yet")
        desk.go(8)
        desk.go(7)
        desk.settles("turn", lambda v: v == -20.0)
        page.get_by_role("button", name="Drop it").click()
        page.get_by_text("not keyed yet").wait_for(state="hidden")
        desk.settles("turn", lambda v: v > 0)
        desk.choose("Automatic keying", "What changed")

        # Playing loops over 1 to 24 at the rate it says.
        page.get_by_test_id("stage").click(position={"x": 40, "y": 400})
        desk.key("Space")
        page.wait_for_function("() => /frames\\/s/.test(document.querySelector('[data-testid=rate]').textContent)")
        seen = set()
        for _ in range(60):
            seen.add(int(page.get_by_test_id("frame").inner_text()))
            page.wait_for_timeout(40)
        self.assertLessEqual(max(seen), 24)
        self.assertGreater(len(seen), 6)
        desk.key("Space")

        # Columns: jump, move, duplicate, delete.
        desk.go(1)
        desk.key("ArrowDown")
        page.wait_for_function("() => document.querySelector('[data-testid=frame] button')?.textContent === '13'")
        desk.key("ArrowRight")
        page.wait_for_function("() => document.querySelector('[data-testid=frame] button')?.textContent === '14'")
        self.drag_column(desk, 13, 15)
        self.assertEqual(desk.columns(), [1, 15, 25])
        page.keyboard.down("Control")
        self.drag_column(desk, 15, 19)
        page.keyboard.up("Control")
        self.assertEqual(desk.columns(), [1, 15, 19, 25])
        desk.key("Delete")
        page.wait_for_function("() => document.querySelectorAll('[data-column]').length === 3")
        self.drag_column(desk, 15, 13)
        self.assertEqual(desk.columns(), [1, 13, 25])

    def drag_column(self, desk: Desk, frm: int, to: int) -> None:
        page = desk.page
        step = desk.stored()
        column = page.locator(f"[data-column='{frm}'] circle").bounding_box()
        one, end = (page.locator(f"[data-column='{n}'] circle").bounding_box() for n in (1, 25))
        assert column and one and end
        gap = (end["x"] - one["x"]) / 24
        x, y = column["x"] + column["width"] / 2, column["y"] + column["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        for n in range(1, 6):
            page.mouse.move(x + gap * (to - frm) * n / 5, y)
        page.mouse.up()
        desk.stored(step + 1)
        page.wait_for_timeout(200)

    def history(self, desk: Desk) -> None:
        page = desk.page
        step = desk.stored()
        desk.key("Control+z")
        desk.stored(step + 1)
        self.assertEqual(desk.columns(), [1, 15, 25])
        page.reload()
        desk.wait_ready()
        desk.key("Control+Shift+z")
        desk.stored(step + 2)
        self.assertEqual(desk.columns(), [1, 13, 25])
        page.get_by_role("button", name="History").click()
        self.picture(page, "history")
        page.get_by_role("button", name="Key the whole character at 1").click()
        desk.stored(step + 3)
        page.get_by_role("button", name="Close").click()
        self.assertEqual(desk.columns(), [1])
        desk.key("Control+Shift+z")
        desk.stored(step + 4)
        page.get_by_role("button", name="History").click()
        page.get_by_label("Steps").locator("button").first.wait_for()
        page.locator("ol button").filter(has_text="Move column 15").first.click()
        desk.stored(step + 5)
        page.get_by_role("button", name="Close").click()
        self.assertEqual(desk.columns(), [1, 13, 25])

        # Killed in the middle: every step that was called stored is there.
        count = Edit.objects.count()
        self.kill_server(signal.SIGKILL)
        page.get_by_test_id("connection").wait_for()
        self.assertEqual(Edit.objects.count(), count)
        desk.go(13)
        desk.pick("neck")
        page.wait_for_timeout(300)
        self.start_server()
        page.get_by_test_id("connection").wait_for(state="hidden")
        page.reload()
        desk.wait_ready()
        self.assertEqual(desk.columns(), [1, 13, 25])
        self.assertEqual(Take.objects.get(shot__name="Before dawn").revision, desk.stored())

    def hand_off(self, desk: Desk) -> None:
        page = desk.page
        page.get_by_role("button", name="Hand-off", exact=True).click()
        self.picture(page, "hand-off")
        with page.expect_download() as download:
            page.get_by_role("button", name="Hand off .glb").click()
        data = Path(download.value.path()).read_bytes()
        self.assertEqual(len(read_character(data).skeleton), len(brannoc().skeleton))
        self.assertIn(b'"animations"', data)

    def test_a_character_brought_in_is_mapped_and_posed(self) -> None:
        page = self.page()
        page.get_by_label("Character file").set_input_files(
            {"name": "lantern.glb", "mimeType": "model/gltf-binary", "buffer": b"no lantern"}
        )
        page.get_by_text("this is not a .glb file").wait_for()
        page.get_by_text("Nothing was stored").wait_for()
        skeleton, skin = foreign_character()
        page.get_by_label("Character file").set_input_files(
            {
                "name": "tide hand.glb",
                "mimeType": "model/gltf-binary",
                "buffer": write_character("Tide hand", skeleton, skin),
            }
        )
        page.get_by_role("heading", name="Body plan").wait_for()
        self.assertEqual(page.locator("[id='leg.L.upper']").input_value(), "bone_11")
        self.picture(page, "character")
        # A wrong role is said beside it; corrected by a click in the picture.
        page.locator("[id='leg.L.lower']").fill("bone_14")
        page.get_by_role("option", name="bone_14", exact=True).click()
        page.get_by_role("alert").first.wait_for()
        self.assertTrue(page.get_by_role("button", name="Store and build the rig").is_disabled())
        page.locator("[id='leg.L.lower']").focus()
        page.locator("[data-joint='bone_12']").dispatch_event("click")
        page.get_by_role("alert").first.wait_for(state="detached")
        # Toes are given up: the plan differs from the one proposed, so that there is something to store.
        toes = page.locator(".MuiAutocomplete-root", has=page.locator("[id='leg.L.ball']"))
        toes.hover()
        toes.get_by_label("Clear").click()
        page.get_by_role("button", name="Store and build the rig").click()
        page.get_by_text("Stored: a rig of").wait_for()
        page.get_by_role("button", name="Pose in a new shot").click()
        desk = Desk(page)
        desk.wait_ready()
        desk.pick("leg.L.goal")
        desk.type("height", "0.15")
        desk.stored(1)
        self.assertAlmostEqual(desk.value("height"), 0.15)
        self.assertEqual(self.complaints, [])


class TogetherTest(BrowserTest):
    def test_two_pages_on_one_take_see_each_others_steps_and_lose_none(self) -> None:
        one, two = Desk.open(self.page()), Desk.open(self.page())
        one.pick("head")
        one.type("turn", "20")
        one.stored(1)
        two.stored(1)
        two.pick("head")
        two.page.wait_for_function(
            "() => document.querySelector('[data-testid=channels] "
            "button[aria-label^=\"turn: \"]').textContent === '20.0'"
        )
        # A step made on an old revision is made on the new one, and neither is lost: the first page's step is stored
        # while the second's is on its way.
        held: list[Route] = []
        two.page.route("**/edits", lambda route: held.append(route))
        two.type("lean", "7")
        while not held:
            two.page.wait_for_timeout(50)
        one.type("bend", "5")
        one.stored(2)
        self.assertEqual(json.loads(held[0].request.post_data or "{}")["revision"], 1)
        held[0].continue_()
        two.stored(3)
        one.stored(3)
        for page in (one, two):
            page.settles("bend", lambda v: v == 5.0)
            page.settles("lean", lambda v: v == 7.0)
        self.assertEqual(Edit.objects.filter(take__shot__name="Before dawn").count(), 3)

    def test_a_step_made_while_the_server_is_away_is_stored_when_it_is_back(self) -> None:
        desk = Desk.open(self.page())
        self.kill_server(signal.SIGKILL)
        desk.page.get_by_test_id("connection").wait_for()
        desk.page.get_by_test_id("stage").click(position={"x": 40, "y": 400})
        desk.key("Shift+K")
        desk.page.wait_for_function("() => document.querySelector('[data-testid=stored]').dataset.state === 'waiting'")
        self.start_server()
        desk.stored(1)
        self.assertEqual(Edit.objects.filter(take__shot__name="Before dawn").count(), 1)

    def test_a_step_made_after_being_signed_out_waits_for_the_next_sign_in(self) -> None:
        desk = Desk.open(self.page())
        Session.objects.all().delete()
        desk.page.get_by_test_id("stage").click(position={"x": 40, "y": 400})
        desk.key("Shift+K")
        desk.told("You are signed out")
        other = desk.page.context.new_page()
        other.goto(f"http://127.0.0.1:{self.port}/")
        other.get_by_role("button", name="Isla").click()
        other.get_by_role("heading", name="Skerry Light").wait_for()
        desk.stored(1)
        self.assertEqual(Edit.objects.filter(take__shot__name="Before dawn").count(), 1)

    def test_a_guest_looks_and_is_told_why_nothing_changes(self) -> None:
        desk = Desk.open(self.page("tam"), "Keeping watch")
        self.assertIn("You look as a guest", desk.page.get_by_test_id("stage").inner_text())
        desk.page.get_by_test_id("stage").click(position={"x": 40, "y": 400})
        desk.key("Shift+K")
        desk.told("You look as a guest here: nothing was changed")
        desk.key("Space")
        desk.page.wait_for_function("() => /frames\\/s/.test(document.querySelector('[data-testid=rate]').textContent)")
