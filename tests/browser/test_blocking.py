"""Blocking a walk, its echo and its timing; poses from the library on two characters; the sheet."""

from __future__ import annotations

import io
import re

import numpy as np
from playwright.sync_api import Page

from tests.browser.base import PICTURES, BrowserTest
from tests.browser.blocking import Blocking, layers_and_cycles
from tests.pictures import png


class BlockingTest(BrowserTest):
    def test_a_walk_from_its_extremes(self) -> None:
        page = self.page()
        desk = Blocking.open(page)
        self.reference(desk)
        self.extremes(desk)
        self.echo(desk)
        self.travel(desk)
        self.timing(desk)
        self.sheet(desk)
        self.time(desk)
        self.living(desk)
        self.assertEqual(self.complaints, [])

    def reference(self, desk: Blocking) -> None:
        page = desk.page
        desk.bench("Reference")
        sheet = page.get_by_test_id("reference")
        sheet.get_by_text("Opposite contact").wait_for()
        self.assertEqual(sheet.locator("svg[aria-label$='from the side']").count(), 5)
        desk.number("Sheet step", "16", "reference")
        sheet.get_by_role("button", name="9 Passing").wait_for()
        desk.number("Sheet step", "12", "reference")
        sheet.get_by_role("button", name="7 Passing").click()
        page.wait_for_function("() => document.querySelector('[data-testid=frame] button').textContent === '7'")
        # Pictures of one's own can stand there instead, tied to frames.
        sheet.get_by_role("button", name="Reference: Walk sheet").click()
        page.get_by_role("menuitem", name="Pictures of your own").click()
        page.get_by_role("menu").wait_for(state="hidden")
        pictures = page.get_by_label("Pictures for the sheet")
        pictures.set_input_files([{"name": "contact.png", "mimeType": "image/png", "buffer": png()}])
        sheet.get_by_role("img", name="contact.png").wait_for()
        sheet.get_by_role("button", name="Tie to 7").click()
        sheet.get_by_role("button", name="Untie contact.png").wait_for()
        pictures.set_input_files(
            [{"name": "notes.png", "mimeType": "image/png", "buffer": io.BytesIO(b"words").read()}]
        )
        desk.told("This is no PNG, JPEG or WebP picture")
        desk.bench("Reference")

    def extremes(self, desk: Blocking) -> None:
        page = desk.page
        desk.go(1)
        for control, label, value in (
            ("leg.L.goal", "forward", "0.3"), ("leg.R.goal", "forward", "-0.3"), ("body", "height", "-0.08"),
            ("hips", "turn", "-8"), ("arm.L.upper", "bend", "-20"), ("arm.R.upper", "bend", "20"),
        ):  # fmt: skip
            desk.pick(control)
            desk.type(label, value)
            desk.stored(1)
        desk.bench("Block")
        desk.press("Stepped")  # while blocking
        desk.key("Shift+K")
        step = desk.stored(8)
        desk.name("Contact")
        desk.stored(step + 1)
        desk.key("Control+c")
        desk.told("is copied")
        desk.go(13)
        desk.key("Shift+U")
        step = desk.stored(step + 2)
        self.assertAlmostEqual(desk.shown("leg.R.goal", "forward"), 0.3)
        self.assertAlmostEqual(desk.shown("hips", "turn"), 8.0)
        # Breakdowns between their neighbours, by a share; then by hand.
        for frame, share, name in ((7, "50", "Passing"), (4, "50", "Down"), (10, "150", "Up")):
            desk.go(frame)
            desk.number("Breakdown in percent", share)
            step = desk.stored(step + 1)
            desk.name(name)
            step = desk.stored(step + 1)
        desk.go(4)
        page.get_by_test_id("block").get_by_role("button", name="Rank: Key").click()
        page.get_by_role("menuitem", name="Breakdown").click()
        step = desk.stored(step + 1)
        self.assertAlmostEqual(desk.shown("leg.L.goal", "forward"), 0.15)
        self.assertEqual(desk.columns(), [1, 4, 7, 10, 13])
        self.assertIn("4 Down", " | ".join(desk.cards()))
        desk.go(6)
        page.wait_for_timeout(300)
        self.assertAlmostEqual(desk.shown("leg.L.goal", "forward"), 0.15)  # held until the next pose
        desk.press("Smooth")
        desk.stored(step + 1)
        page.wait_for_timeout(600)
        self.assertLess(desk.shown("leg.L.goal", "forward"), 0.15)

    def echo(self, desk: Blocking) -> None:
        page = desk.page
        desk.tab("Cycle")
        desk.number("Cycle to", "24")
        desk.press("Echo the half")
        desk.told("an odd number")
        desk.number("Cycle to", "25")
        step = desk.stored()
        desk.press("Echo the half")
        step = desk.stored(step + 1)
        self.assertEqual(desk.columns(), [1, 4, 7, 10, 13, 16, 19, 22, 25])
        self.assertEqual(page.locator("[data-derived]").count(), 5)
        # Editing frame 4 changes 16.
        desk.go(4)
        desk.bench("Pose")
        desk.pick("arm.L.lower")
        desk.type("bend", "60")
        step = desk.stored(step + 1)
        desk.go(16)
        desk.pick("arm.R.lower")
        desk.settles("bend", lambda v: abs(v - 60) < 0.1)
        desk.type("bend", "10")
        desk.told("Frame 16 shows frame 4 mirrored")
        self.assertEqual(desk.stored(), step)
        # Each way on is one step, taken back as one.
        for way, layers in (("Free it into keys, and do it", 0), ("Do it in a layer", 1)):
            page.get_by_role("button", name=way).last.click()
            step = desk.stored(step + 1)
            desk.settles("bend", lambda v: abs(v - 10) < 0.1)
            self.assertEqual(layers_and_cycles(), (layers, layers))
            desk.key("Control+z")
            step = desk.stored(step + 1)
            self.assertEqual(layers_and_cycles(), (0, 1))
            desk.type("bend", "10")
            desk.told("Frame 16 shows frame 4 mirrored")
        desk.bench("Block")
        # The bench opens on the tab that it was left on.
        page.get_by_role("tab", name="Cycle", selected=True).wait_for()
        desk.tab("Poses")
        page.get_by_text("Frame 16 shows frame 4 mirrored.").first.wait_for()
        desk.tab("Cycle")
        desk.press("Check")
        page.get_by_text("All close").wait_for()

    def travel(self, desk: Blocking) -> None:
        step = desk.stored()
        desk.number("Repeat to", "49")
        desk.number("Metres a cycle", "1.2")
        desk.press("Travel")
        step = desk.stored(step + 1)
        desk.go(49)
        desk.page.wait_for_timeout(400)
        self.assertAlmostEqual(desk.shown("master", "forward"), 2.4)
        # The stage has gone along: he stands in the middle of it.
        x, width = desk.page.evaluate(
            """() => { const [x, y, z] = window.hame.joints().slice(8, 11);
                return [window.hame.pixelsOf(x, y, z)[0],
                    document.querySelector('[data-testid=stage]').clientWidth]; }"""
        )
        self.assertLess(abs(x - width / 2), 0.15 * width)
        self.assertEqual(desk.columns()[-1], 49)
        desk.page.keyboard.press("Control+z")
        desk.stored(step + 1)

    def timing(self, desk: Blocking) -> None:
        page = desk.page
        desk.tab("Timing")
        step = desk.stored()
        desk.press("Delay")  # forearms 1, hands 2, fingers 3
        step = desk.stored(step + 1)
        self.assertIn(6, desk.columns())
        desk.go(4)
        desk.press("Insert")
        step = desk.stored(step + 1)
        desk.tab("Cycle")
        page.get_by_text("14–27 echoes 1–14 mirrored.").wait_for()
        desk.press("A frame more a phase")
        step = desk.stored(step + 1)
        desk.press("Free into keys")
        step = desk.stored(step + 1)
        self.assertEqual(page.locator("[data-derived]").count(), 0)
        desk.tab("Timing")
        desk.go(1)
        before = desk.columns()
        desk.press("Moving hold")
        desk.stored(step + 1)
        self.assertEqual(desk.columns()[:2], [1, 5])
        self.assertEqual(desk.columns()[-1], before[-1] + 4)

    def time(self, desk: Blocking) -> None:
        """The time line is zoomed, shifted and fitted, and columns are chosen by one drag."""
        page = desk.page

        def seen() -> tuple[float, float]:
            line = page.get_by_test_id("time")
            return float(line.get_attribute("data-first") or 0), float(line.get_attribute("data-last") or 0)

        def middle(frame: int) -> float:
            box = page.locator(f"[data-column='{frame}']").bounding_box()
            assert box is not None
            return box["x"] + box["width"] / 2

        whole = seen()
        ruler = page.get_by_test_id("ruler").bounding_box()
        assert ruler is not None
        before, pointer = middle(9), int(middle(9))  # a wheel is told on whole pixels
        page.mouse.move(pointer, ruler["y"] + 32)
        page.mouse.wheel(0, -500)
        page.wait_for_function(
            "w => { const t = document.querySelector('[data-testid=time]').dataset; return t.last - t.first < w; }",
            arg=0.6 * (whole[1] - whole[0]),
        )
        # What is under the pointer stays there: the column is as much farther from it as there is more room now.
        nearer = (whole[1] - whole[0]) / (seen()[1] - seen()[0])
        self.assertLess(abs(middle(9) - pointer - nearer * (before - pointer)), 1.0)
        # A frame that is gone to is brought into view; a key shows all of the shot again.
        desk.key("End")
        page.wait_for_function("was => Number(document.querySelector('[data-testid=time]').dataset.first) > was",
                               arg=seen()[0] - 0.005)  # fmt: skip
        desk.key("e")
        page.wait_for_function(
            "f => document.querySelector('[data-testid=time]').dataset.first === f", arg=f"{whole[0]:.2f}"
        )
        self.assertEqual(seen(), whole)
        # A band over the columns chooses those inside of it.
        page.keyboard.down("Alt")
        page.mouse.move(ruler["x"] + 30, ruler["y"] + 8)
        page.mouse.down()
        page.mouse.move(ruler["x"] + 300, ruler["y"] + 8)
        page.mouse.move(middle(9) + 4, ruler["y"] + 8)
        page.mouse.up()
        page.keyboard.up("Alt")
        page.locator("[data-column='9'][aria-pressed=true]").wait_for()
        self.assertEqual(page.locator("[data-column='1'][aria-pressed=true]").count(), 1)

    def living(self, desk: Blocking) -> None:
        """A held figure is kept alive, by how much is judged again and again, and it is taken away."""
        page = desk.page
        step = desk.stored()
        desk.tab("Life")
        page.get_by_role("button", name="Keep alive from 1 to 9").click()
        step = desk.stored(step + 1)
        desk.told("It never moves by more than")
        page.get_by_label("Living hold 1 to 9").wait_for()
        desk.go(5)
        slider = page.get_by_label("Shift of the living hold")
        slider.focus()
        for _ in range(4):
            page.keyboard.press("ArrowLeft")
        page.locator("button[aria-label^='Shift in millimetres: 3.0']").wait_for()
        step = desk.stored(step + 4)
        page.get_by_label("Counts").click()
        step = desk.stored(step + 1)
        page.get_by_role("button", name="Take away", exact=True).click()
        step = desk.stored(step + 1)
        page.get_by_role("button", name="Keep alive from 1 to 9").wait_for()
        page.get_by_role("button", name=re.compile(r"^Shake .* from \d+ to")).click()
        step = desk.stored(step + 1)
        page.get_by_label(re.compile(r"^Shake of ")).wait_for()
        page.get_by_label("A link of the shake of").first.wait_for()
        page.get_by_role("button", name="Take away", exact=True).click()
        desk.stored(step + 1)

    def sheet(self, desk: Blocking) -> None:
        page = desk.page
        desk.key("n")
        page.wait_for_timeout(400)
        self.assertEqual(page.evaluate("() => window.hame.ghosts()").__len__(), 1)
        desk.key("n")
        desk.key("n")
        desk.key("s")
        sheet = page.get_by_test_id("sheet")
        sheet.get_by_role("button", name="Open Neck and head").click()
        sheet.locator("[data-row='head']").wait_for()
        at = self.key_at(desk, "head", 1)
        page.mouse.click(*at)
        sheet.get_by_text("3 keys chosen").wait_for()
        # Ctrl-drag duplicates, across the three channels at once.
        step = desk.stored()
        width = self.key_at(desk, "head", 4)[0] - at[0]
        page.mouse.move(*at)
        page.mouse.down()
        page.mouse.move(at[0] + width / 2, at[1])
        page.mouse.move(at[0] + width, at[1])
        page.keyboard.down("Control")
        page.mouse.up()
        page.keyboard.up("Control")
        step = desk.stored(step + 1)
        self.assertIn(4, desk.columns())
        # A protected part is never touched, and it is said.
        sheet.get_by_role("button", name="Protect: Neck and head").click()
        sheet.get_by_role("button", name="Protected: Neck and head").wait_for()
        page.keyboard.press("Escape")
        page.mouse.click(self.key_at(desk, "head", 2)[0], at[1])  # beside the keys: nothing is chosen
        desk.go(9)
        desk.key("Control+c")
        desk.go(2)
        desk.key("Control+v")
        desk.told("Protected, left as it was")
        step = desk.stored(step + 1)
        sheet.get_by_role("button", name="Protected: Neck and head").click()
        # A box over the rows chooses many, and Delete takes them away.
        first, last = self.key_at(desk, "head", 1), self.key_at(desk, "head", 2)
        page.mouse.move(first[0] + 8, first[1] - 16)
        page.mouse.down()
        page.mouse.move(last[0] + 6, last[1] + 8)
        page.mouse.up()
        desk.key("Escape")
        desk.key("s")

    def key_at(self, desk: Blocking, row: str, frame: int) -> tuple[float, float]:
        """Where a key stands in the sheet."""
        box = desk.page.locator(f"[data-row='{row}']").bounding_box()
        assert box
        x = desk.page.evaluate(
            """frame => { const all = [...document.querySelectorAll('[data-column]')];
                const at = (c) => [Number(c.dataset.column),
                    c.getBoundingClientRect().left + c.getBoundingClientRect().width / 2];
                const [a, b] = [at(all[0]), at(all[all.length - 1])];
                return a[1] + (frame - a[0]) * (b[1] - a[1]) / (b[0] - a[0]); }""",
            frame,
        )
        return x, box["y"] + box["height"] / 2

    def finished_walk(self, page: Page) -> None:
        desk = Blocking.open(page, "Morning round")
        desk.bench("Block")
        desk.tab("Cycle")
        desk.go(4)
        desk.key("n")
        desk.key("s")
        self.picture(page, "sheet")
        page.goto(f"http://127.0.0.1:{self.port}/")
        page.get_by_role("heading", name="Skerry Light").wait_for()

    def test_library_poses_go_from_one_character_to_another(self) -> None:
        page = self.page()
        if PICTURES:
            self.finished_walk(page)
        desk = Blocking.open(page, "Gull on the rail")
        desk.bench("Block")
        desk.go(24)
        self.picture(page, "block")
        desk.tab("Library")
        page.get_by_label("Name for the library").fill("Gull seen")
        desk.press("Store")
        desk.told("Gull seen is in the library")
        # Wick, by half; the tools say whom they act on, and a lock keeps them there.
        desk.act_on("Wick")
        page.get_by_role("button", name="Lock the tools to this character").click()
        body = page.evaluate("([x, y, z]) => window.hame.pixelsOf(x, y, z)", [0.0, 1.2, 0.15])
        stage = page.get_by_test_id("stage").bounding_box()
        assert stage
        page.mouse.click(stage["x"] + body[0], stage["y"] + body[1])
        desk.told("The tools are locked to Wick")
        desk.go(60)
        page.wait_for_timeout(400)
        before = np.array(page.evaluate("() => window.hame.joints()")).reshape(-1, 8)
        page.get_by_role("option", name="Gull seen").click()
        step = desk.stored()
        desk.number("Share in percent", "50")
        step = desk.stored(step + 1)
        after = np.array(page.evaluate("() => window.hame.joints()")).reshape(-1, 8)
        self.assertGreater(np.abs(after - before)[:, :3].max(), 0.15)
        np.testing.assert_allclose(after[0, :3], before[0, :3], atol=1e-5)  # his own place on the stage is kept
        desk.told("This rig has no")  # the coat, beard and cap of the other
        self.assertEqual(self.complaints, [])

    def test_templates_sets_and_strength(self) -> None:
        page = self.page()
        desk = Blocking.open(page)
        desk.bench("Block")
        page.get_by_test_id("block").get_by_role("button", name="Template: Walk").click()
        page.get_by_role("menuitem", name="Run").click()
        desk.press("Lay from 1")
        step = desk.stored(1)
        self.assertEqual(desk.columns(), [1, 5, 9, 13, 17])
        desk.go(40)
        desk.press("Lay from 40")
        desk.told("the shot ends at 49")
        # Toned down by degree, for a chosen part only.
        desk.go(5)
        desk.pick("body")
        desk.pick("chest", "Shift")
        page.get_by_test_id("block").get_by_role("button", name="Parts: Whole character").click()
        page.get_by_role("menuitem", name="Selection (2)").click()
        lower = desk.shown_height()
        desk.number("Strength in percent", "-50")
        step = desk.stored(step + 1)
        page.wait_for_timeout(300)
        self.assertGreater(abs(desk.shown_height() - lower), 0.001)
        # A set with the control it turns about.
        page.get_by_role("button", name="Sets ▾").click()
        page.get_by_role("menuitem", name="Keep the selection as a set…").click()
        page.get_by_label("Name of the set").fill("Core")
        page.get_by_role("button", name="Turns about: The last selected").click()
        page.get_by_role("menuitem", name="body").click()
        page.get_by_role("button", name="Keep", exact=True).click()
        desk.told("The set Core is kept")
        desk.pick("head")
        page.get_by_role("button", name="Sets ▾").click()
        page.get_by_role("menuitem", name="Core").click()
        page.get_by_role("button", name="Parts: Selection (2)").wait_for()
        # Another name and another control, in place of the old.
        desk.pick("head", "Shift")
        page.get_by_role("button", name="Sets ▾").click()
        page.get_by_role("button", name="Change the set Core").click()
        page.get_by_text("Holds 3 controls").wait_for()
        page.get_by_label("Name of the set").fill("Core and head")
        page.get_by_role("button", name="Keep", exact=True).click()
        desk.told("The set Core and head is kept")
        page.get_by_role("button", name="Sets ▾").click()
        page.get_by_role("menuitem", name="Core and head").wait_for()
        self.assertEqual(page.get_by_role("button", name="Change the set Core", exact=True).count(), 0)
        self.assertEqual(self.complaints, [])
