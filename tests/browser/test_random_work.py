"""Two people work on one take at random, over a line that loses and delays, with a server that is killed once, and with
somebody else signed in for a while in the browser of one of them.

Whatever they make is stored once, as they meant it, or they are asked; and at the end both pages show what is stored.
"""

from __future__ import annotations

import json
import os
import random
import signal
import time
from contextlib import suppress
from typing import Any

from playwright.sync_api import Error, Page, Route

from server.shots.models import Edit, Take
from tests.browser.base import BrowserTest, Desk

SECONDS = float(os.environ.get("HAME_RANDOM_WORK", "60"))
CONTROLS = ("head", "chest", "neck")
ASKED = "This was changed meanwhile"


class RandomWorkTest(BrowserTest):
    def test_every_step_is_stored_once_as_it_was_meant_or_asked_about(self) -> None:
        rng = random.Random(11)
        people = [Desk.open(self.page()), Desk.open(self.page_as("maud", "Maud"))]
        sent: dict[str, Any] = {}  # what each step said, by its name
        for desk in people:
            desk.page.route("**/api/takes/*/edits", lambda route: self.weather(route, rng, sent))
            desk.pick("head")
        until = time.monotonic() + SECONDS
        killed = changed = False
        typed = 0
        self.left, self.blocked = 0, False
        while time.monotonic() < until:
            desk = rng.choice(people)
            self.answer(desk.page)
            act = rng.random()
            if act < 0.15:
                self.pick(desk, rng.choice(CONTROLS))
            elif act < 0.25:
                desk.key(rng.choice(("ArrowLeft", "ArrowRight")))
                desk.page.wait_for_timeout(100)
            elif act < 0.3:
                desk.key("Control+z")
            elif self.type(desk, f"{rng.uniform(-20, 20):.1f}"):
                typed += 1
            if not killed and time.monotonic() > until - SECONDS / 2:
                killed = True
                self.kill_server(signal.SIGKILL)
                self.start_server()
            if not changed and time.monotonic() > until - SECONDS / 4:
                changed = True
                typed += self.changes_person(people[0])
        for desk in people:
            desk.page.unroute("**/api/takes/*/edits")
        for desk in people:
            self.settle(desk)
        take = Take.objects.get(shot__name="Before dawn")
        made = {e.key: e for e in Edit.objects.filter(take=take).select_related("user") if e.key}
        self.assertGreater(typed, 4)  # a slow machine does some seven in its time
        # What is not stored was asked about and left; a value that was there already is no step.
        missing = [key for key in sent if key not in made]
        self.assertLessEqual(len(missing), self.left + 2, [sent[key] for key in missing])
        # Each name once, by who made it, and nothing that nobody sent.
        for key, edit in made.items():
            if key in sent:
                self.assertEqual(edit.user.get_username(), sent[key]["by"])
                [(address, value)] = sent[key]["edit"]["values"].items()
                patch = edit.differences.get().patch
                rows = {row[0]: row[1] for row in patch["curves"].get(address, [[], []])[1]}
                self.assertAlmostEqual(rows[sent[key]["edit"]["frame"]], value, places=6)
        # Both pages say the truth, and the same.
        take.refresh_from_db()
        shown = []
        for desk in people:
            desk.stored(take.revision)
            desk.pick("head")
            desk.go(1)
            shown.append([desk.value(label) for label in ("turn", "nod", "tilt") if self.has(desk, label)])
        self.assertEqual(shown[0], shown[1])
        self.assertEqual(self.complaints, [])

    def weather(self, route: Route, rng: random.Random, sent: dict[str, Any]) -> None:
        """A line as it can be: mostly fine, sometimes slow, lost before it arrives, lost after, or broken."""
        body = json.loads(route.request.post_data or "{}")
        sent[body["id"]] = body
        luck = rng.random()
        try:
            if self.blocked:
                route.abort()
            elif luck < 0.6:
                route.continue_()
            elif luck < 0.75:
                time.sleep(rng.uniform(0.1, 0.6))
                route.continue_()
            elif luck < 0.85:
                route.abort()
            elif luck < 0.95:
                route.fetch()
                route.abort()
            else:
                route.fetch()
                route.fulfill(status=500, content_type="text/html", body="<h1>Server Error</h1>")
        except Error:
            with suppress(Error):  # or it was handled as the weather ended
                route.abort()  # the server is away

    def changes_person(self, desk: Desk) -> int:
        """Somebody else signs in for a while in another tab: what waits meanwhile stays its maker's."""
        self.blocked = True
        typed = 0
        for value in (3.3, -4.4, 5.5):
            typed += self.type(desk, f"{value}")
            desk.page.wait_for_timeout(400)
        self.sign_in_elsewhere(desk.page, "Tam, guest")
        self.blocked = False
        desk.page.wait_for_timeout(1500)
        self.sign_in_elsewhere(desk.page, "Isla, animator")
        return typed

    def pick(self, desk: Desk, control: str) -> None:
        try:
            desk.page.locator(f"[data-control='{control}']").click(timeout=2000)
        except Error:  # a question stands before it
            self.answer(desk.page)

    def type(self, desk: Desk, text: str) -> bool:
        try:
            desk.page.get_by_test_id("channels").locator("button[aria-label^='turn: ']").first.click(timeout=2000)
            box = desk.page.get_by_test_id("channels").get_by_label("turn", exact=True)
            box.fill(text, timeout=2000)
            box.press("Enter")
        except Error:  # a question stands before it
            self.answer(desk.page)
            return False
        return True

    def answer(self, page: Page) -> None:
        if page.get_by_role("heading", name=ASKED).count():
            page.get_by_role("button", name="Leave it as it is now").click()
            self.left += 1

    def settle(self, desk: Desk) -> None:
        """Answers what is asked until all is stored."""
        for _ in range(600):
            self.answer(desk.page)
            if desk.page.get_by_test_id("stored").get_attribute("data-state") == "stored":
                return
            desk.page.wait_for_timeout(100)
        raise AssertionError(f"steps still wait: {desk.page.inner_text('body')[:90]!r}")

    def has(self, desk: Desk, label: str) -> bool:
        return bool(desk.page.get_by_test_id("channels").locator(f"button[aria-label^='{label}: ']").count())
