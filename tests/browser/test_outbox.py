"""Steps on their way: lost answers, a server that fails, another take opened, a clash, a panel that breaks."""

from __future__ import annotations

import json
from threading import Thread
from typing import Any

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client
from playwright.sync_api import Page, Route

from server.productions.models import Membership, Production
from server.shots.models import Edit, Shot, Take
from tests.browser.base import BrowserTest, Desk

EDITS = "**/edits"


class OutboxTest(BrowserTest):
    def steps(self) -> list[str]:
        return list(Edit.objects.filter(take__shot__name="Before dawn").order_by("id").values_list("label", flat=True))

    def state(self, page: Page, state: str) -> None:
        page.wait_for_function(
            "s => document.querySelector('[data-testid=stored]').dataset.state === s", arg=state, timeout=60_000
        )

    def typed(self, desk: Desk, value: str) -> None:
        desk.type("turn", value)

    def test_a_step_is_made_once_and_none_is_dropped(self) -> None:
        # So long that of the frames of a step only the one that is looked at comes along with its answer.
        Shot.objects.filter(name="Before dawn").update(end=200)
        desk = Desk.open(self.page())
        page = desk.page
        desk.pick("head")

        # The step is stored and its frames cannot be fetched: it is not made again, and they come later.
        failed: list[str] = []

        def fail_twice(route: Route) -> None:
            if len(failed) < 2:
                failed.append(route.request.url)
                route.abort()
            else:
                route.continue_()

        page.route("**/motion?*", fail_twice)
        self.typed(desk, "20")
        self.assertEqual(desk.stored(1), 1)
        desk.settles("turn", lambda v: v == 20.0)
        with page.expect_response(lambda answer: "/motion?" in answer.url and answer.ok):
            pass  # after the two that were lost
        page.unroute("**/motion?*")
        self.assertEqual(len(failed), 2)
        self.assertEqual(self.steps(), ["Head, turn at 1"])

        # The answer is lost: the same step is sent again under its name, is there once, and nothing false is said.
        sent: list[str] = []

        def lose_answer(route: Route) -> None:
            sent.append(json.loads(route.request.post_data or "{}")["id"])
            if len(sent) == 1:
                route.fetch()
                route.abort()
            else:
                route.continue_()

        page.route(EDITS, lose_answer)
        self.typed(desk, "25")
        self.assertEqual(desk.stored(2), 2)
        page.unroute(EDITS)
        self.assertEqual((len(sent), len(set(sent)), len(self.steps())), (2, 1, 2))
        self.assertEqual(page.get_by_text("was not made").count(), 0)

        # The server breaks on one step every time: it is set aside with the reason, and the next ones go on.
        broken: list[int] = []

        def break_on(route: Route) -> None:
            values = json.loads(route.request.post_data or "{}")["edit"].get("values", {})
            if any(abs(value - 0.5236) < 1e-3 for value in values.values()):
                broken.append(1)
                route.fulfill(status=500, content_type="text/html", body="<h1>Server Error</h1>")
            else:
                route.continue_()

        page.route(EDITS, break_on)
        self.typed(desk, "30")
        desk.told("Not stored: pose at 1")
        self.typed(desk, "35")
        desk.stored(3)
        self.assertEqual(len(broken), 3)
        page.unroute(EDITS)
        page.get_by_role("button", name="1 step set aside").click()
        page.get_by_role("button", name="Try it again").click()
        desk.stored(4)
        desk.settles("turn", lambda v: v == 30.0)
        page.get_by_role("button", name="set aside").wait_for(state="detached")

        # The server is away: steps wait, it is said since when, and all of them arrive in order.
        page.route(EDITS, lambda route: route.abort())
        self.typed(desk, "40")
        self.state(page, "waiting")
        page.get_by_text("Not stored since").wait_for()
        desk.pick("chest")
        self.typed(desk, "10")
        page.get_by_text("2 steps wait").wait_for()
        desk.go(5)  # reading goes on meanwhile
        warned: list[str] = []
        page.on("dialog", lambda dialog: (warned.append(dialog.type), dialog.dismiss()))
        page.evaluate(
            "() => { const e = new Event('beforeunload', { cancelable: true }); "
            "window.warned = !window.dispatchEvent(e); }"
        )
        self.assertTrue(page.evaluate("() => window.warned"))
        page.unroute(EDITS)
        self.assertEqual(desk.stored(6), 6)
        self.assertEqual(self.steps()[-2:], ["Head, turn at 1", "Chest, turn at 1"])
        self.assertEqual(self.complaints, [])

    def test_a_step_stays_with_the_take_it_was_made_on(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        first = Take.objects.get(shot__name="Before dawn")
        second = Take.objects.create(shot=first.shot, name="Second try")
        page.reload()
        desk.wait_ready()
        page.get_by_role("button", name="Take: Second try").click()
        page.get_by_role("menuitem", name=first.name, exact=True).click()
        page.get_by_role("button", name=f"Take: {first.name}").wait_for()
        desk.wait_ready()
        held: list[Route] = []
        page.route(EDITS, lambda route: held.append(route))
        desk.pick("head")
        self.typed(desk, "20")
        self.state(page, "storing")
        page.get_by_role("button", name=f"Take: {first.name}").click()
        page.get_by_role("menuitem", name="Second try", exact=True).click()
        page.get_by_role("button", name="Take: Second try").wait_for()
        desk.wait_ready()
        while not held:
            page.wait_for_timeout(50)
        held[0].continue_()
        self.state(page, "stored")
        page.unroute(EDITS)
        self.assertEqual(desk.stored(), 0)  # the open take has no step
        made = dict(Edit.objects.filter(take__in=[first, second]).values_list("take_id", "label"))
        self.assertEqual(made, {first.pk: "Head, turn at 1"})
        # What is put away is out of the menu, and comes back from there.
        page.get_by_role("button", name="Take: Second try").click()
        page.get_by_role("menuitem", name="Put this take away").click()
        page.get_by_role("button", name=f"Take: {first.name}").click()
        self.assertEqual(page.get_by_role("menuitem", name="Second try").count(), 0)
        page.get_by_role("menuitem", name="Takes put away…").click()
        page.get_by_role("button", name="Bring back").click()
        desk.told("Second try is back")
        page.get_by_role("button", name="Close").click()
        self.assertEqual(self.complaints, [])

    def as_lead(self, method: str, path: str, data: Any = None) -> None:
        """Asks the very server that the page talks to, as Maud, who leads the production."""
        lead = get_user_model().objects.get_or_create(username="maud", defaults={"first_name": "Maud"})[0]
        production = Production.objects.get(name="Skerry Light")
        Membership.objects.get_or_create(production=production, user=lead, defaults={"role": "lead"})
        client = Client()
        client.force_login(lead)
        base = f"http://127.0.0.1:{self.port}"
        context = self.browser.new_context()
        context.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value, "url": base}])
        token = context.request.get(f"{base}/api/session").json()["csrf"]
        answer = context.request.fetch(f"{base}{path}", method=method, data=data,
                                       headers={"X-CSRFToken": token, "Referer": base})  # fmt: skip
        self.assertEqual(answer.status, 200, answer.text())
        context.close()

    def meanwhile(self, values: dict[str, float], told: bool = False) -> None:
        """A step that somebody else makes; ``told`` if the page is to hear of it at once."""
        take = Take.objects.select_related("shot").get(shot__name="Before dawn")
        other = get_user_model().objects.get_or_create(username="maud", defaults={"first_name": "Maud"})[0]
        production = take.shot.production_id
        Membership.objects.get_or_create(production_id=production, user=other, defaults={"role": "lead"})
        client = Client()
        client.force_login(other)
        body = {"revision": take.revision, "casting": take.shot.cast.get().pk,
                "edit": {"kind": "pose", "frame": 1, "values": values}}  # fmt: skip
        if told:
            self.as_lead("POST", f"/api/takes/{take.pk}/edits", body)
            return
        # In a thread of its own: this one has the event loop that drives the browser.
        answers: list[int] = []

        def post() -> None:
            answer = client.post(f"/api/takes/{take.pk}/edits", json.dumps(body), content_type="application/json")
            answers.append(answer.status_code)
            connection.close()

        thread = Thread(target=post)
        thread.start()
        thread.join()
        self.assertEqual(answers, [200])

    def test_others_steps_a_true_clash_and_what_would_move(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        desk.pick("head")
        done: list[int] = []

        def after(values: dict[str, float]) -> Any:
            """Lets somebody else's step be stored while this page's is on its way."""

            def handler(route: Route) -> None:
                if not done:
                    done.append(1)
                    self.meanwhile(values)
                route.continue_()

            return handler

        # Another part: both steps are made, and nobody is asked.
        page.route(EDITS, after({"neck/rx": 0.2}))
        self.typed(desk, "20")
        self.assertEqual(desk.stored(2), 2)
        page.unroute(EDITS)
        self.assertEqual(self.steps(), ["Pose neck at 1", "Head, turn at 1"])
        # The same channel: the person is asked, and sees whose step it was.
        done.clear()
        page.route(EDITS, after({"head/ry": 0.9}))
        self.typed(desk, "25")
        page.get_by_role("heading", name="This was changed meanwhile").wait_for()
        page.get_by_text("Maud's “Pose head at 1”").wait_for()
        page.get_by_role("button", name="Make my step on it all the same").click()
        self.assertEqual(desk.stored(4), 4)
        page.unroute(EDITS)
        desk.settles("turn", lambda v: v == 25.0)
        # Undo takes back one's own step, past the other's.
        self.meanwhile({"chest/rx": 0.1}, told=True)
        desk.stored(5)
        desk.key("Control+z")
        desk.told("only your own step was taken back")
        desk.stored(6)
        desk.settles("turn", lambda v: abs(v - 51.57) < 0.1)
        # A limb that cannot stand in the other mode as it does: by how much it would move is said first.
        self.meanwhile({"leg.L.goal/roll": 0.69, "leg.L.toe/rx": -1.2, "body/ty": -0.1}, told=True)
        desk.stored(7)
        desk.pick("leg.L.goal")
        desk.key("i")
        page.get_by_role("heading", name="Something would move by this").wait_for()
        page.get_by_text("would turn by").or_(page.get_by_text("would move by")).first.wait_for()
        page.get_by_role("button", name="Leave it as it is").click()
        self.assertEqual(desk.stored(), 7)
        desk.key("i")
        page.get_by_role("button", name="Change it anyway").click()
        desk.stored(8)
        self.assertEqual(self.complaints, [])

    def test_a_broken_panel_leaves_the_desk_and_a_refused_socket_rests(self) -> None:
        desk = Desk.open(self.page())
        page = desk.page
        page.route("**/poses*", lambda route: route.fulfill(status=200, content_type="application/json", body="{}"))
        page.get_by_role("button", name="Block", exact=True).click()
        page.get_by_role("tab", name="Library").click()
        page.get_by_text("The bench stopped working.").wait_for()
        page.get_by_role("button", name="Pose", exact=True).click()
        desk.pick("head")
        self.typed(desk, "20")
        desk.stored(1)
        self.complaints.clear()  # the error is on the page, where it belongs
        # Taken out of the production: the socket is closed, says so, and is not tried again and again.
        tries: list[str] = []
        page.on("websocket", lambda socket: tries.append(socket.url))
        isla = get_user_model().objects.get(username="isla")
        production = Production.objects.get(name="Skerry Light")
        self.as_lead("DELETE", f"/api/productions/{production.pk}/members/isla")
        page.get_by_text("Not connected").wait_for(timeout=60_000)
        page.wait_for_timeout(3000)
        self.assertLessEqual(len(tries), 1)
        Membership.objects.create(user=isla, production=production, role="animator")
        page.get_by_role("button", name="Connect", exact=True).click()
        page.get_by_test_id("connection").wait_for(state="detached")
