"""What lies near the hand: the amount of the last step, groups, guides, and parts moved until they touch."""

from __future__ import annotations

import time
from collections.abc import Callable

from playwright.sync_api import Page, Route

from hame.clip.clip import Clip
from server.jobs import tasks
from server.jobs.models import Job
from server.shots import store
from server.shots.models import Casting, Edit, Guide, Take
from tests.browser.base import BrowserTest
from tests.browser.blocking import Blocking


class UnderTheHandTest(BrowserTest):
    def test_amounts_groups_guides_and_what_touches(self) -> None:
        page = self.page()
        desk = Blocking.open(page, "Over the bollard")
        desk.act_on("Wick")
        self._amount(page, desk)
        self._groups(page, desk)
        self._touches(page, desk)
        self._flies(page, desk)
        self._guides(page, desk)

    def _amount(self, page: Page, desk: Blocking) -> None:
        desk.bench("Block")
        desk.go(27)
        steps = Edit.objects.count()
        step = desk.stored()
        slider = page.get_by_role("slider", name="Breakdown")
        slider.focus()
        slider.press("ArrowRight")
        step = desk.stored(step + 1)
        bar = page.get_by_role("group", name="Amount of the last step")
        amount = bar.get_by_role("slider")
        # Answers that come late: what the hand asks for in between is left out, the last is what counts.
        page.route("**/edits", self._late)
        for _ in range(5):
            amount.press("ArrowRight")
        page.wait_for_function("() => !document.querySelector('[data-testid=stored]').dataset.state.match(/wait/)")
        bar.get_by_label("Favour of the last step in percent").first.wait_for()
        page.unroute("**/edits")
        page.wait_for_timeout(900)
        desk.stored()
        named = Edit.objects.filter(remade=False).latest("id").label
        self.assertEqual(named, "Breakdown 56% at 27")
        self.assertEqual(Edit.objects.filter(remade=False).count(), steps + 1)
        # One key shows what stood before, and back, with nothing asked for.
        page.wait_for_timeout(400)
        asked: list[str] = []
        page.on("request", lambda request: asked.append(request.url))
        joints = page.evaluate("() => window.hame.joints()")
        page.keyboard.press("q")
        before = bar.get_by_role("button", name="Before")
        page.wait_for_function("was => String(window.hame.joints()) !== String(was)", arg=joints)
        self.assertEqual(before.get_attribute("aria-pressed"), "true")
        page.keyboard.press("q")
        page.wait_for_timeout(200)
        self.assertEqual(page.evaluate("() => window.hame.joints()"), joints)
        # What is told of the take is asked for on a rhythm of its own, and may fall between.
        self.assertEqual([url for url in asked if "/api/takes" in url and "/faults?" not in url], [])
        # It is of the frame on which it was asked for.
        page.keyboard.press("q")
        page.wait_for_function(
            "() => document.querySelector('[aria-label=\"Amount of the last step\"] [aria-pressed=true]')"
        )
        desk.go(28)
        self.assertEqual(before.get_attribute("aria-pressed"), "false")
        desk.go(27)
        self.assertEqual(page.evaluate("() => window.hame.joints()"), joints)
        desk.key("Control+z")
        bar.wait_for(state="detached")
        desk.stored()

    @staticmethod
    def _late(route: Route) -> None:
        time.sleep(0.4)
        route.continue_()

    def _groups(self, page: Page, desk: Blocking) -> None:
        desk.bench("Pose")
        desk.pick("head")
        page.get_by_role("button", name="Show", exact=True).click()
        page.get_by_label("Name of a new group").fill("Looks")
        page.get_by_role("button", name="Group", exact=True).click()
        own = page.get_by_role("group", name="Groups of Wick")
        own.get_by_label("Looks (1)").click()
        page.keyboard.press("Escape")
        page.locator("[data-control='head']").wait_for(state="detached")
        page.reload()
        desk.wait_ready()
        desk.act_on("Wick")
        page.locator("[data-control='neck']").wait_for()
        self.assertEqual(page.locator("[data-control='head']").count(), 0)
        page.get_by_role("button", name="Show", exact=True).click()
        page.get_by_label("Looks (1)").click()
        page.get_by_role("button", name="Drop the group Looks").click()
        page.keyboard.press("Escape")
        page.locator("[data-control='head']").wait_for()

    def _touches(self, page: Page, desk: Blocking) -> None:
        desk.go(30)
        desk.pick("leg.L.goal")
        before = desk.value("height")
        step = desk.stored()
        page.get_by_role("button", name="Until it touches…").click()
        page.get_by_role("button", name="Until it touches", exact=True).click()
        step = desk.stored(step + 1)
        # It comes down on the bollard, whose top is 0.3 m over the ground, and not through it.
        desk.settles("height", lambda now: 0.1 < before - now < 0.25)
        page.get_by_role("button", name="Body until the knee is at").click()
        step = desk.stored(step + 1)
        desk.told("the body went")
        for _ in range(2):
            desk.key("Control+z")
        desk.settles("height", lambda now: abs(before - now) < 1e-3)

    def _flies(self, page: Page, desk: Blocking) -> None:
        desk.bench("Weight")
        flight = page.get_by_test_id("flight")
        before = int(flight.locator("button[aria-label^='Frames of the flight']").inner_text())
        page.locator("[data-row=bearers] [data-flight]").wait_for()
        step = desk.stored()
        desk.number("Height of the flight from 23", "60", within="flight")
        step = desk.stored(step + 1)
        desk.told("that rises 58 cm")
        page.wait_for_function(
            "n => parseInt(document.querySelector(\"[aria-label^='Frames of the flight']\").innerText) > n", arg=before
        )
        named = Edit.objects.latest("id").label
        self.assertIn("60 cm high", named)
        desk.tab("Alerts")
        page.get_by_role("list", name="Faults").wait_for()
        desk.number("Lands with more than, weights", "50", within="weight-bench")
        page.wait_for_function("() => !document.querySelector('[aria-label=Faults]').innerText.includes('Wick: lands')")
        desk.key("Control+z")
        step = desk.stored(step + 1)
        # A landing is answered, as deep as the last step says.
        desk.tab("Answers")
        page.get_by_role("list", name="What happens").get_by_text("Landing").wait_for()
        page.get_by_role("button", name="Give at the landing of 36").click()
        step = desk.stored(step + 1)
        desk.told("It lands with")
        page.get_by_role("slider", name="Deep of the last step").press("ArrowRight")
        page.get_by_text("Gives", exact=True).wait_for()
        page.wait_for_timeout(900)
        step = desk.stored()
        self.assertEqual(Edit.objects.filter(remade=False).latest("id").label[:10], "Give at 36")
        desk.key("Control+z")
        desk.stored(step + 1)
        page.get_by_text("Gives", exact=True).wait_for(state="detached")
        page.get_by_role("button", name="Carry on at the landing of 36").click()
        step = desk.stored(step + 2)
        desk.go(38)
        panel = page.get_by_role("region", name="Carries through")
        panel.get_by_text("Goes along with the landing").wait_for()
        desk.number("Past it in percent", "40", within="weight-bench")
        step = desk.stored(step + 1)
        [span] = self._clip().tracks["carry-through"]
        self.assertEqual((span.overshoot, span.of), (0.4, "landing"))
        panel.get_by_role("button", name="Take away").click()
        step = desk.stored(step + 1)
        self._falls(page, desk)
        desk.tab("Balance")
        desk.bench("Pose")

    @staticmethod
    def _clip() -> Clip:
        wick = Casting.objects.get(shot__name="Over the bollard", name="Wick")
        return store.open_clip(Take.objects.get(shot=wick.shot), wick.pk)

    def _falls(self, page: Page, desk: Blocking) -> None:
        """Limp from a frame on: worked out, seen beside the motion, left, and taken."""
        desk.tab("Fall")
        desk.go(28)
        desk.number("Frames of the fall", "6", within="weight-bench")
        steps = Edit.objects.count()
        for end in ("Leave it", "Take it"):
            page.get_by_role("button", name="Let it fall").click()
            page.get_by_text("Being worked out").wait_for()
            tasks.run_job.func(Job.objects.latest("pk").pk)  # as the worker does, which no test has
            page.get_by_role("button", name="See it play").wait_for()
            self.assertEqual(Edit.objects.count(), steps)
            before = desk.stored()
            page.get_by_role("button", name=end).click()
            page.get_by_role("button", name="See it play").wait_for(state="detached")
            if end == "Take it":
                desk.stored(before + 1)
        self.assertEqual(Edit.objects.latest("id").label, "Limp from 28 for 6 frames")
        desk.key("Control+z")
        desk.stored(before + 2)

    @staticmethod
    def _soon(page: Page, is_so: Callable[[], bool]) -> None:
        """Waits until what the page shows already is stored as well."""
        for _ in range(100):
            if is_so():
                return
            page.wait_for_timeout(100)

    def _guides(self, page: Page, desk: Blocking) -> None:
        def draw(kind: str) -> None:
            page.get_by_role("button", name="Show", exact=True).click()
            page.get_by_role("group", name="Guides").get_by_role("button", name=kind, exact=True).click()

        desk.key("1")  # from the front, where a guide can lie on the picture
        page.wait_for_timeout(400)
        stage = page.get_by_test_id("stage").bounding_box()
        x, y = page.evaluate("() => window.hame.handle()")
        assert stage is not None
        draw("Line")
        desk.told("Click one end of it")
        page.keyboard.press("Escape")
        page.get_by_text("Click one end of it").wait_for(state="detached")
        self.assertEqual(Guide.objects.count(), 0)
        draw("Line")
        high = y - 60
        for at in (x - 150, x + 150):
            page.mouse.click(stage["x"] + at, stage["y"] + high)
        page.locator("[data-guides] > g").wait_for(state="attached")
        self._soon(page, Guide.objects.exists)
        self.assertEqual(Guide.objects.get().kind, "line")
        # An end of it is dragged alone, and back again.
        for by in (30, -30):
            level = Guide.objects.get().points
            end, mouse = (stage["x"] + x - 150, stage["y"] + high + max(-by, 0)), page.mouse
            mouse.move(*end)
            mouse.down()
            mouse.move(end[0], end[1] + by, steps=4)
            mouse.up()
            self._soon(page, lambda level=level: Guide.objects.get().points != level)
            now = Guide.objects.get().points
            self.assertEqual([abs(a[1] - b[1]) < 1e-6 for a, b in zip(level, now, strict=True)], [False, True])
        # The middle of the handle, let go four pixels beside the guide, lies on it.
        mouse = page.mouse
        mouse.move(stage["x"] + x, stage["y"] + y)
        step = desk.stored()
        mouse.down()
        for n in range(1, 9):
            mouse.move(stage["x"] + x, stage["y"] + y - 56 * n / 8)
            page.wait_for_timeout(15)
        mouse.up()
        desk.stored(step + 1)
        page.wait_for_timeout(500)
        _, now = page.evaluate("() => window.hame.handle()")
        self.assertAlmostEqual(now, high, delta=1.0)
        desk.key("Control+z")
        page.get_by_role("button", name="Show", exact=True).click()
        page.get_by_role("button", name="Take away guide 1").click()
        page.locator("[data-guides] > g").wait_for(state="detached")
        self._soon(page, lambda: not Guide.objects.exists())
        self.assertEqual(Guide.objects.count(), 0)
        # On the picture of the shot camera it lies where it was drawn, whatever the camera does.
        page.keyboard.press("Escape")
        desk.key("6")
        page.get_by_role("button", name="Show", exact=True).click()
        page.get_by_label("On the picture of this view").check()
        page.get_by_role("group", name="Guides").get_by_role("button", name="Point", exact=True).click()
        page.mouse.click(stage["x"] + stage["width"] / 2, stage["y"] + stage["height"] / 2 - 50)
        page.locator("[data-guides] > g").wait_for(state="attached")
        self._soon(page, Guide.objects.exists)
        guide = Guide.objects.get()
        [[across, up, _]] = guide.points
        self.assertEqual((guide.view, abs(across) < 0.01, 0.1 < up < 0.4), ("camera", True, True))
