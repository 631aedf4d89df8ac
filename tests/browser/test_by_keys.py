"""The desk worked by keys alone, from the sign-in to the hand-off."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import Page

from server.shots.models import Take
from tests.browser.base import BrowserTest, Desk

NEXT_KEY = """([name, reach]) => {
    const here = document.activeElement, there = document.querySelector(name);
    if (here === there) return "";
    const middle = e => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; };
    const [x, y] = middle(here), [tx, ty] = middle(there);
    const [dx, dy] = [tx - x, ty - y];
    const level = Math.abs(dx) > Math.abs(dy) !== (reach % 3 === 2);
    return level ? (dx > 0 ? "ArrowRight" : "ArrowLeft") : dy > 0 ? "ArrowDown" : "ArrowUp";
}"""


class KeysTest(BrowserTest):
    def tab_to(self, page: Page, selector: str, back: bool = False) -> None:
        for _ in range(140):
            page.keyboard.press("Shift+Tab" if back else "Tab")
            if page.evaluate("s => !!document.activeElement?.matches(s)", selector):
                return
        raise AssertionError(f"Tab does not come to {selector}")

    def tab_on(self, page: Page, words: str) -> None:
        """To the link or button that begins with these words."""
        for _ in range(140):
            page.keyboard.press("Tab")
            if page.evaluate("() => document.activeElement?.innerText ?? ''").startswith(words):
                return
        raise AssertionError(f"Tab does not come to {words}")

    def rove_to(self, page: Page, selector: str) -> None:
        """By arrow keys, towards where it stands."""
        for reach in range(60):
            key = page.evaluate(NEXT_KEY, [selector, reach])
            if not key:
                return
            page.keyboard.press(key)
        raise AssertionError(f"the arrow keys do not come to {selector}")

    def focus_seen(self, page: Page) -> None:
        """What has the focus has a line round it of at least two pixels."""
        width, line = page.evaluate(
            """() => { const s = getComputedStyle(document.activeElement);
                return [parseFloat(s.outlineWidth), s.outlineStyle]; }"""
        )
        self.assertNotEqual(line, "none")
        self.assertGreaterEqual(width, 2)

    def enter(self, page: Page, text: str = "") -> None:
        page.keyboard.press("Enter")
        if text:
            page.keyboard.type(text)
            page.keyboard.press("Enter")

    def first_field(self, page: Page) -> str:
        """The first channel that can be typed into."""
        label: Any = page.evaluate(
            """() => [...document.querySelectorAll('[data-testid=channels] button[aria-label*=": "]')]
                .find(b => getComputedStyle(b).cursor === 'ew-resize').getAttribute('aria-label').split(':')[0]"""
        )
        return str(label)

    def rebind(self, desk: Desk) -> None:
        """A command is given another key, and one that another had; both are there again after a reload."""
        page = desk.page
        page.keyboard.press("?")
        page.get_by_role("button", name="key the whole character: Shift+K").click()
        page.keyboard.press("F2")
        page.get_by_role("button", name="key the whole character: F2").wait_for()
        page.get_by_role("button", name="a frame on: →").click()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="a frame on: →").click()
        page.keyboard.press("j")
        page.get_by_role("button", name="a frame on: J").click()
        page.keyboard.press("Control+ArrowRight")
        page.get_by_text("Ctrl+→ does “three frames on” now.").wait_for()
        page.get_by_role("button", name="Take it").click()
        page.get_by_role("button", name="three frames on: no key").wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="hidden")
        desk.go(5)
        page.reload()
        desk.wait_ready()
        page.wait_for_function("() => document.querySelector('[title*=\"(F2)\"]')")
        shown = page.get_by_test_id("frame").locator("button")
        before = int(shown.inner_text())
        self.assertEqual(before, 5)  # a reload comes back to the frame
        page.keyboard.press("Control+ArrowRight")
        self.assertEqual(int(shown.inner_text()), before + 1)
        page.keyboard.press("?")
        page.get_by_role("button", name="As shipped").click()
        page.get_by_role("button", name="a frame on: →").wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="hidden")

    def test_from_selecting_to_handing_off(self) -> None:
        page = self.front_page()
        page.get_by_role("button", name="Isla").wait_for()
        # A mouse that is never used.
        page.evaluate("() => addEventListener('pointerdown', () => (window.hame.mouse = true), true)")
        self.tab_on(page, "Isla")
        self.enter(page)
        page.get_by_text("Before dawn").wait_for()
        self.tab_on(page, "Before dawn")
        self.enter(page)
        desk = Desk(page)
        desk.wait_ready()

        # A control on the body map, one more beside it, and one out of the list.
        self.tab_to(page, "[data-control]")
        self.rove_to(page, "[data-control='head']")
        self.focus_seen(page)
        self.enter(page)
        page.get_by_role("heading", name="head").wait_for()
        self.rove_to(page, "[data-control='chest']")
        page.keyboard.press("Shift+Enter")
        page.get_by_text("and 1 more").wait_for()
        self.rove_to(page, "[data-control='head']")
        self.enter(page)
        page.get_by_text("and 1 more").wait_for(state="hidden")

        # Posed by typing, keyed, and posed again at another frame.
        label = self.first_field(page)
        field = f"[data-testid=channels] button[aria-label^='{label}: ']"
        self.tab_to(page, field)
        self.enter(page, "20")
        desk.stored(1)
        self.assertEqual(desk.value(label), 20)
        page.keyboard.press("Shift+K")
        desk.stored(2)
        for _ in range(4):
            page.keyboard.press("Control+ArrowRight")
        self.assertTrue(page.evaluate("s => document.activeElement.matches(s)", field), "the field has the focus again")
        self.enter(page, "-15")
        desk.stored(3)
        page.keyboard.press("Shift+K")
        desk.stored(4)
        self.assertEqual(desk.columns(), [1, 13])

        # A limb to IK by its switch, and back.
        self.tab_to(page, "[data-limb], [data-control]", back=True)
        self.rove_to(page, "[data-limb='arm.L']")
        before = page.evaluate("() => document.activeElement.getAttribute('aria-label')")
        self.enter(page)
        desk.stored(5)
        self.assertNotEqual(page.locator("[data-limb='arm.L']").get_attribute("aria-label"), before)

        # A column moved by a frame, from the strip.
        self.tab_to(page, "[data-column]")
        page.keyboard.press("End")
        self.enter(page)
        self.assertEqual(page.locator("[data-column='13']").get_attribute("aria-pressed"), "true")
        page.keyboard.press("Alt+ArrowRight")
        desk.stored(6)
        page.locator("[data-column='14']").wait_for()
        page.wait_for_function("() => document.activeElement?.matches?.(\"[data-column='14']\")")

        # The tabs of the Block bench; a breakdown of its Poses tab is laid by its field.
        self.tab_on(page, "Block")
        self.enter(page)
        page.get_by_test_id("block").wait_for()
        self.tab_to(page, "[role=tab]")
        page.keyboard.press("ArrowRight")
        self.focus_seen(page)
        self.enter(page)
        page.get_by_text("the last frame shows the first again").wait_for()

        # Handed off.
        self.tab_on(page, "Hand-off")
        self.enter(page)
        page.get_by_role("heading", name="Hand-off").wait_for()
        self.tab_on(page, "Hand off")
        with page.expect_download() as done:
            self.enter(page)
        self.assertTrue(done.value.suggested_filename.endswith(".glb"))
        self.assertFalse(page.evaluate("() => window.hame.mouse ?? false"))
        self.assertEqual(Take.objects.get(shot__name="Before dawn").revision, 6)
        self.assertEqual(self.complaints, [])

    def test_a_number_is_taken_on_leaving_its_field_and_escape_restores_it(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        desk.pick("head")
        label = self.first_field(page)
        shown = page.get_by_test_id("channels").locator(f"button[aria-label^='{label}: ']").first
        typing = page.get_by_test_id("channels").get_by_label(label, exact=True)
        shown.click()
        typing.fill("12")
        page.get_by_role("heading", name="head").click()
        desk.stored(1)
        desk.settles(label, lambda v: v == 12)
        shown.click()
        typing.fill("33")
        typing.press("Escape")
        self.assertEqual(desk.value(label), 12)
        shown.click()
        typing.press("Tab")  # looked at and left: nothing is made of it
        page.wait_for_timeout(400)
        self.assertEqual(desk.stored(), 1)
        # Tab has gone on to the next number, where a sum is worked out.
        second = page.evaluate("() => document.activeElement.getAttribute('aria-label')")
        self.assertNotEqual(second, label)
        page.keyboard.type("5+3")
        page.keyboard.press("Enter")
        desk.stored(2)
        desk.settles(second, lambda v: v == 8)
        # A digit on a number begins to type, and looks from nowhere; what is no number is said, what is cut as well.
        page.keyboard.press("3")
        page.keyboard.press("Enter")
        desk.stored(3)
        desk.settles(second, lambda v: v == 3)
        page.keyboard.press("Enter")
        page.keyboard.type("abc")
        page.keyboard.press("Enter")
        desk.told("“abc” is no number")
        frame = page.get_by_test_id("frame").locator("button")
        frame.focus()
        page.keyboard.type("500")
        page.keyboard.press("Enter")
        desk.told("Frame is at most")
        self.rebind(desk)
        self.assertEqual(self.complaints, [])
