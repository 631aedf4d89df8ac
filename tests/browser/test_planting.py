"""Planting in the real interface: a foot that stays, plants found, alerts, and a can that goes from hand to hand."""

from __future__ import annotations

from playwright.sync_api import FloatRect, Page

from tests.browser.base import BrowserTest, Desk

FOOT = "leg.L.goal"


class PlantingTest(BrowserTest):
    def settled(self, page: Page, where: str) -> FloatRect:
        """Where something is on the page, once it stays there: panels take their place after a bench is changed."""
        before = None
        for _ in range(60):
            box = page.locator(where).bounding_box()
            if box is not None and box == before:
                return box
            before = box
            page.wait_for_timeout(250)
        raise AssertionError(f"{where} does not come to rest")

    def test_a_foot_is_planted_held_changed_and_found_again(self) -> None:
        desk = Desk.open(self.page(), "Before dawn")
        page = desk.page
        page.get_by_role("button", name="Plant", exact=True).click()
        rows = page.get_by_role("group", name="Plants")
        rows.wait_for()
        self.assertEqual(rows.locator("text").all_text_contents()[:4], ["L foot", "R foot", "L hand", "R hand"])
        # Keys that carry the body on, then a plant drawn in the row of the left foot.
        desk.pick("body")
        page.get_by_role("button", name="Pose", exact=True).click()
        desk.type("height", "-0.12")
        desk.go(25)
        desk.type("forward", "0.15")
        page.get_by_role("button", name="Plant", exact=True).click()
        box = self.settled(page, f"[data-row='{FOOT}']")
        x = {f: page.locator(f"[data-column='{f}']").bounding_box() for f in (1, 25)}
        assert x[1] is not None and x[25] is not None
        a, b = x[1]["x"] + x[1]["width"] / 2, x[25]["x"] + x[25]["width"] / 2
        y = box["y"] + box["height"] / 2
        page.mouse.move(a, y)
        page.mouse.down()
        page.mouse.move((a + b) / 2, y, steps=4)
        page.mouse.up()
        span = rows.get_by_role("button", name="left foot planted 1 to 13")
        span.wait_for()
        page.locator("button[aria-label^='Planted to: ']").click()
        page.get_by_label("Planted to", exact=True).fill("20")
        page.keyboard.press("Enter")
        rows.get_by_role("button", name="left foot planted 1 to 20").wait_for()
        self.accessible(page, "planting")
        self.picture(page, "planting")
        # Its end is moved by keys, it turns about its heel, is split and lifted, and undo brings it back.
        rows.get_by_role("button", name="left foot planted 1 to 20").focus()
        page.keyboard.press("Alt+Shift+ArrowRight")
        rows.get_by_role("button", name="left foot planted 1 to 21").wait_for()
        page.get_by_role("region", name="Left foot").get_by_role("button", name="Held: fixed").click()
        page.get_by_role("menuitem", name="about the heel").click()
        rows.get_by_role("button", name="left foot planted 1 to 21, turning about the heel").wait_for()
        desk.go(10)
        page.get_by_text("bears 100 %").wait_for()
        page.get_by_role("button", name="left foot", exact=True).get_by_text("planted here").wait_for(state="attached")
        page.get_by_role("button", name="Split at 10").click()
        rows.get_by_role("button", name="left foot planted 10 to 21, turning about the heel").wait_for()
        page.get_by_role("button", name="Lift all").click()
        page.wait_for_function("() => !document.querySelector('[aria-label^=\"left foot planted\"]')")
        desk.key("Control+z")
        rows.get_by_role("button", name="left foot planted 10 to 21, turning about the heel").wait_for()
        # The other foot, found by where it stands.
        page.get_by_role("tab", name="Find").click()
        page.get_by_role("button", name="Plant right foot 1 to 24").click()
        rows.get_by_role("button", name="right foot planted 1 to 24").wait_for()
        # A sole that is brought into the ground is told of, and lifted out of it by one action.
        page.get_by_role("tab", name="Alerts").click()
        page.get_by_text("No faults of contact").wait_for()
        desk.go(24)
        desk.pick("leg.R.goal")
        page.get_by_role("button", name="Pose", exact=True).click()
        desk.type("height", "-0.05")
        page.get_by_role("button", name="Plant", exact=True).click()
        page.get_by_role("tab", name="Alerts").click()
        page.get_by_role("button", name="right foot sinks 50 mm into the ground").click()
        self.accessible(page, "alerts")
        page.get_by_role("button", name="Lift it from ").click()
        page.get_by_role("button", name="sinks").wait_for(state="detached")
        # What a turned chest takes along is told, and put back by one action.
        page.get_by_role("button", name="Pose", exact=True).click()
        desk.pick("chest")
        desk.key("t")
        desk.drag_arm("y", 60, 0)
        page.get_by_text("Went along: neck").wait_for()
        before = desk.stored()
        page.get_by_role("button", name="Keep them where they were").click()
        desk.stored(before + 1)
        page.get_by_role("button", name="Plant", exact=True).click()
        # A turn on the spot makes planted steps.
        page.get_by_role("tab", name="Steps").click()
        desk.go(25)
        page.get_by_role("button", name="Turn", exact=True).last.click()
        rows.get_by_role("button", name="planted 25").first.wait_for()
        self.assertEqual(self.complaints, [])

    def test_the_can_goes_from_hand_to_hand_and_out_in_one_file(self) -> None:
        desk = Desk.open(self.page(), "Filling the lamp")
        page = desk.page
        page.get_by_role("button", name="Props", exact=True).click()
        desk.act_on("Oil can")
        page.locator("[data-control='master']").first.click()
        page.get_by_text("goes by itself").wait_for()
        desk.go(10)
        page.get_by_role("button", name="Carried by: ").click()
        page.get_by_role("menuitem", name="Brannoc", exact=True).click()
        page.get_by_role("button", name="Attach").click()
        rows = page.get_by_role("group", name="Who carries what")
        rows.get_by_role("button", name="Oil can belongs to Brannoc's left hand, 10 to 49").wait_for()
        desk.go(30)
        page.get_by_role("button", name="Carried by: ").click()
        page.get_by_role("menuitem", name="Wick", exact=True).click()
        page.get_by_role("button", name="Attach").click()
        rows.get_by_role("button", name="Oil can belongs to Wick's right hand, 30 to 49").wait_for()
        rows.get_by_role("button", name="Oil can belongs to Brannoc's left hand, 10 to 29").wait_for()
        desk.go(40)
        page.get_by_role("button", name="Let go here").click()
        rows.get_by_role("button", name="Oil can belongs to Wick's right hand, 30 to 40").wait_for()
        self.accessible(page, "who carries what")
        self.picture(page, "carrying")
        # A ring is refused in words.
        desk.act_on("Wick")
        desk.pick("master")
        page.get_by_role("button", name="Carried by: ").click()
        page.get_by_role("menuitem", name="Oil can", exact=True).click()
        desk.go(32)
        page.get_by_role("button", name="Attach").click()
        page.get_by_text("would carry each other round").wait_for()
        page.get_by_role("button", name="Hand-off", exact=True).click()
        with page.expect_download() as waiting:
            page.get_by_role("button", name="Hand off .glb").click()
        self.assertGreater(waiting.value.path().stat().st_size, 100_000)
        self.assertEqual([c for c in self.complaints if "422" not in c], [])
