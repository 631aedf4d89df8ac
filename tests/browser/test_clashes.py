"""Two people at one take: what one does lies over nobody else's work, however long it waits."""

from __future__ import annotations

from itertools import pairwise

from playwright.sync_api import Route

from server.shots.models import Edit, Take
from tests.browser.base import BrowserTest, Desk

EDITS = "**/edits"
MEANWHILE = "This was changed meanwhile"


class ClashTest(BrowserTest):
    def take(self) -> Take:
        return Take.objects.get(shot__name="Before dawn")

    def steps(self) -> list[tuple[str, str]]:
        """Who made which steps."""
        made = Edit.objects.filter(take=self.take()).order_by("id")
        return [(by, label) for by, label in made.values_list("user__username", "label")]

    def test_a_drag_that_is_let_go_late_lies_over_nothing_of_others(self) -> None:
        isla = Desk.open(self.page())
        isla.pick("head")
        isla.key("t")
        maud = Desk.open(self.page_as("maud", "Maud"))
        maud.pick("head")
        # Isla has begun to turn the head when Maud types its turn; then Isla lets go.
        isla.drag_arm("y", 40, 0, keep=True)
        maud.type("turn", "17")
        maud.stored(1)
        isla.page.wait_for_function("() => document.querySelector('[data-testid=stored]').dataset.step === '1'")
        isla.page.mouse.up()
        isla.page.get_by_role("heading", name=MEANWHILE).wait_for()
        isla.page.get_by_text("Maud").first.wait_for()
        isla.page.get_by_role("button", name="Leave it as it is now").click()
        self.assertEqual(self.steps(), [("maud", "Head, turn at 1")])
        isla.settles("turn", lambda v: v == 17.0)

        # A step that waits for the line: Maud's comes first, and Isla is asked.
        isla.page.route(EDITS, lambda route: route.abort())
        isla.type("turn", "40")
        isla.page.get_by_text("Not stored since").wait_for()
        maud.type("turn", "25")
        maud.stored(2)
        isla.page.wait_for_function("() => document.querySelector('[data-testid=stored]').dataset.step === '2'")
        isla.page.unroute(EDITS)
        isla.page.get_by_role("heading", name=MEANWHILE).wait_for()
        isla.page.get_by_role("button", name="Make my step on it all the same").click()
        self.assertEqual(isla.stored(3), 3)
        isla.settles("turn", lambda v: v == 40.0)

        # What has nothing to do with the other's work is stored without a word, and one's own steps never clash.
        isla.page.route(EDITS, lambda route: route.abort())
        isla.type("turn", "41")
        isla.type("turn", "+=2")
        isla.type("turn", "+=2")
        maud.pick("chest")
        maud.type("turn", "5")
        maud.stored(4)
        isla.page.unroute(EDITS)
        self.assertEqual(isla.stored(7), 7)
        isla.settles("turn", lambda v: v == 45.0)
        self.assertEqual(isla.page.get_by_role("heading", name=MEANWHILE).count(), 0)
        self.assertEqual(self.complaints, [])

    def test_whatever_is_typed_is_stored_on_a_slow_line(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        desk.pick("head")

        def slow(route: Route) -> None:
            page.wait_for_timeout(700)
            route.continue_()

        page.route(EDITS, slow)
        for n in range(8):
            desk.type("turn", str(10 + n))
            page.wait_for_timeout(100)
        self.assertEqual(desk.stored(8), 8)
        page.unroute(EDITS)
        desk.settles("turn", lambda v: v == 17.0)
        self.assertEqual(len(self.steps()), 8)
        # Drags begun at once one after another: all are stored, each on the one before.
        desk.key("t")
        page.route(EDITS, slow)
        for _ in range(3):
            desk.drag_arm("y", 30, 0)
        self.assertEqual(desk.stored(11), 11)
        page.unroute(EDITS)
        patches = Edit.objects.filter(take=self.take()).order_by("id").values_list("differences__patch", flat=True)[8:]
        dragged = [patch["curves"] for patch in patches]
        self.assertEqual(len(dragged), 3)
        for first, second in pairwise(dragged):
            both = first.keys() & second.keys()
            self.assertTrue(both)
            for channel in both:
                self.assertEqual(second[channel][0], first[channel][1])
        self.assertEqual(self.complaints, [])

    def test_a_step_waits_for_who_made_it(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        desk.pick("head")
        page.route(EDITS, lambda route: route.abort())
        desk.type("turn", "20")
        page.get_by_text("Not stored since").wait_for()
        self.sign_in_elsewhere(page, "Tam, guest")
        page.unroute(EDITS)
        page.get_by_text("until isla signs in").wait_for()
        desk.told("it is stored when isla signs in again")
        self.assertEqual(self.steps(), [])
        self.sign_in_elsewhere(page, "Isla, animator")
        desk.stored(1)
        self.assertEqual(self.steps(), [("isla", "Head, turn at 1")])
        self.assertEqual(self.complaints, [])

    def test_a_step_that_is_stored_though_its_answers_break_is_found_by_its_name(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        desk.pick("head")

        def break_after(route: Route) -> None:
            route.fetch()
            route.fulfill(status=500, content_type="text/html", body="<h1>Server Error</h1>")

        page.route(EDITS, break_after)
        desk.type("turn", "20")
        self.assertEqual(desk.stored(1), 1)
        page.unroute(EDITS)
        desk.settles("turn", lambda v: v == 20.0)
        self.assertEqual(page.get_by_text("Not stored").count(), 0)
        self.assertEqual(self.steps(), [("isla", "Head, turn at 1")])
