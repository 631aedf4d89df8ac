"""Several figures and props in a shot, and the main views as axe-core reads them."""

from __future__ import annotations

from playwright.sync_api import Page

from server.shots.models import Difference, Edit, Shot
from tests.browser.base import BrowserTest, Desk


class CastTest(BrowserTest):
    def who(self, page: Page) -> list[str]:
        page.get_by_role("list", name="Who plays").wait_for()
        return [box.input_value() for box in page.get_by_role("list", name="Who plays").get_by_role("textbox").all()]

    def test_three_figures_and_two_props_from_nothing(self) -> None:
        page = self.page()
        self.accessible(page, "shots")
        page.get_by_role("button", name="New shot…").click()
        page.get_by_label("Name").fill("All at the lamp")
        self.accessible(page, "a new shot")
        for name in ("Wick", "Oil can"):
            page.get_by_role("button", name=f"{name} once more").click()
        page.get_by_role("button", name="Begin").click()
        desk = Desk(page)
        desk.wait_ready()
        shot = Shot.objects.get(name="All at the lamp")
        other = self.page("tam")
        other.goto(page.url)
        Desk(other).wait_ready()

        page.get_by_role("button", name="Cast", exact=True).click()
        self.assertEqual(self.who(page), ["Brannoc", "Oil can", "Wick"])
        for name in ("Wick", "Signal lamp (prop)"):
            page.get_by_role("button", name="Who comes to play: ").click()
            page.get_by_role("menuitem", name=name, exact=True).click()
            page.get_by_role("button", name="Add to the cast").click()
            page.get_by_role("textbox", name=f"Name of {'Wick 2' if name == 'Wick' else 'Signal lamp'}").wait_for()
        self.accessible(page, "the cast")
        box = page.get_by_role("textbox", name="Name of Wick 2")
        box.fill("Wick's cousin")
        box.press("Enter")
        page.get_by_role("textbox", name="Name of Wick's cousin").wait_for()
        page.get_by_role("button", name="Wick's cousin one up").click()
        cousin = "Wick's cousin"
        third = "[aria-label='Who plays'] li:nth-child(3) input"
        page.wait_for_function("([at, name]) => document.querySelector(at)?.value === name", arg=[third, cousin])
        page.get_by_role("button", name="Take out Oil can").click()
        page.get_by_role("button", name="Bring back").click()
        page.get_by_role("textbox", name="Name of Oil can").wait_for()
        wanted = ["Brannoc", "Wick's cousin", "Wick", "Signal lamp", "Oil can"]
        self.assertEqual(self.who(page), wanted)
        page.get_by_role("button", name="Close").click()

        # All are on the stage, beside one another, on the other page too.
        page.get_by_role("button", name="Acts on: ").click()
        named = page.get_by_role("group", name="Whom the tools act on").get_by_role("group")
        named.first.wait_for()
        self.assertEqual([item.get_attribute("aria-label") for item in named.all()], wanted)
        page.keyboard.press("Escape")
        other.get_by_role("button", name="Cast", exact=True).click()
        other.get_by_role("textbox", name="Name of Oil can").wait_for()
        self.assertEqual(self.who(other), wanted)
        self.assertTrue(other.get_by_role("textbox", name="Name of Wick", exact=True).is_disabled())
        # A prop is posed and keyed as a figure is.
        desk.act_on("Signal lamp")
        part = page.locator("[data-control]").last
        part.click()
        page.get_by_test_id("channels").wait_for()
        desk.key("Shift+k")
        desk.stored(1)
        # Two figures and the lamp are keyed as one: one step, which one undo takes back.
        desk.go(7)
        desk.join("Brannoc", "Wick")
        page.get_by_role("button", name="Acts on: Signal lamp and 2 more").wait_for()
        desk.key("Shift+k")
        desk.stored(2)
        self.assertEqual(desk.columns(), [1, 7])
        step = Edit.objects.filter(take__shot=shot).latest("id")
        self.assertIn("Signal lamp", step.label)
        self.assertEqual(Difference.objects.filter(edit=step).count(), 3)
        desk.key("Control+c")
        desk.told("The whole pose of Signal lamp, Brannoc, Wick at 7 is copied")
        desk.go(11)
        # Who is hidden stays hidden while cards are drawn of all.
        page.get_by_role("button", name="Acts on: ").click()
        page.get_by_role("group", name="Signal lamp", exact=True).get_by_role("button", name="Alone").click()
        page.keyboard.press("Escape")
        lamp = page.evaluate("() => window.hame.drawn()")
        self.assertEqual(len(lamp), 1)
        desk.key("Control+v")
        desk.stored(3)
        page.wait_for_function("() => window.hame.allDrawn()")
        self.assertEqual(page.evaluate("() => window.hame.drawn()"), lamp)
        self.assertEqual(desk.columns(), [1, 7, 11])
        for undone in (4, 5):
            desk.key("Control+z")
            desk.stored(undone)
        self.assertEqual(desk.columns(), [1])
        self.assertEqual([c.name for c in shot.cast.filter(taken_out_at=None).order_by("place")], wanted)
        self.assertEqual(self.complaints, [])

    def test_the_main_views_are_read_without_fault(self) -> None:
        desk = Desk.open(self.page(), "Filling the lamp")
        page = desk.page
        desk.pick("head")
        self.accessible(page, "the desk")
        page.get_by_role("button", name="List").click()
        page.get_by_role("button", name="Sheet").click()
        page.get_by_role("button", name="Reference").click()
        self.accessible(page, "list, sheet and reference")
        stage = page.get_by_test_id("stage").bounding_box()
        page.get_by_role("button", name="History").click()
        page.get_by_role("list", name="Steps").get_by_role("button").first.wait_for()
        self.accessible(page, "history")
        self.assertEqual(page.get_by_test_id("stage").bounding_box(), stage, "the history lies beside the stage")
        self.assertEqual(page.locator(".MuiBackdrop-root").count(), 0, "and does not dim it")
        page.keyboard.press("Escape")
        page.get_by_role("list", name="Steps").wait_for(state="detached")
        page.get_by_role("button", name="Block", exact=True).click()
        for tab in ("Poses", "Cycle", "Timing", "Life", "Library"):
            page.get_by_role("tab", name=tab).click()
            page.wait_for_timeout(300)
            self.accessible(page, tab)
        page.get_by_role("button", name="Hand-off", exact=True).click()
        page.get_by_role("button", name="Night desk").click()
        self.accessible(page, "hand-off at night")
        desk.key("?")
        page.wait_for_timeout(400)
        self.accessible(page, "help")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Day desk").click()
        page.get_by_title("To the shots").click()
        page.locator("a[href^='/characters/']").first.click()
        page.get_by_role("group", name="Skeleton").wait_for()
        self.accessible(page, "a character")
        # Its joints are gone through by keys.
        page.locator("[data-joint]").first.focus()
        page.keyboard.press("ArrowUp")
        there = page.evaluate("() => document.activeElement.dataset.joint")
        self.assertTrue(there)
        page.keyboard.press("Enter")
        page.locator(f"input[value='{there}']").first.wait_for()
        front = self.front_page()
        front.get_by_role("button", name="Isla").wait_for()
        self.accessible(front, "sign-in")
        self.assertEqual(self.complaints, [])

    def test_on_a_small_screen_six_channels_stay_in_reach(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        page.set_viewport_size({"width": 1366, "height": 650})
        page.wait_for_timeout(500)
        desk.pick("body")
        rows = page.evaluate(
            """() => { const box = document.querySelector('[data-testid=channels]').getBoundingClientRect();
                return [...document.querySelectorAll('[data-testid=channels] button[aria-label*=": "]')].filter(b => {
                    const r = b.getBoundingClientRect();
                    return getComputedStyle(b).cursor === 'ew-resize' && r.top >= box.top && r.bottom <= box.bottom
                        && r.right <= innerWidth; }).length; }"""
        )
        self.assertGreaterEqual(rows, 6)
        stage = page.get_by_test_id("stage").bounding_box()
        assert stage
        self.assertGreater(stage["width"], 500)
        self.assertGreater(stage["height"], 380)
        self.picture(page, "small")
