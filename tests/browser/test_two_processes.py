"""Pages on two server processes that share a Redis: what one stores the other shows, also after a rest or a loss."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import tempfile

from tests.browser.base import BrowserTest, Desk


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


class TwoProcessesTest(BrowserTest):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.redis_port, self.folder = free_port(), folder.name
        self.begin_redis()
        self.addCleanup(lambda: self.end_redis())
        os.environ["REDIS_URL"] = f"redis://127.0.0.1:{self.redis_port}/0"
        self.addCleanup(os.environ.pop, "REDIS_URL")
        super().setUp()

    def begin_redis(self) -> None:
        self.redis = subprocess.Popen(
            ["redis-server", "--port", str(self.redis_port), "--bind", "127.0.0.1", "--save", "", "--dir", self.folder],
            stdout=subprocess.DEVNULL,
        )

    def end_redis(self) -> None:
        self.redis.kill()
        self.redis.wait()

    def test_pages_see_each_others_steps_and_cast(self) -> None:
        second = free_port()
        other = self.process(second)
        self.addCleanup(other.wait)
        self.addCleanup(other.send_signal, signal.SIGTERM)
        self.await_server(second)
        one, two = Desk.open(self.page()), Desk.open(self.page(port=second))
        one.pick("body")
        two.pick("body")
        one.type("height", "-0.1")
        one.stored(1)
        two.settles("height", lambda v: v == -0.1)
        # After a rest that is longer than one wait for a message.
        one.page.wait_for_timeout(7000)
        two.type("height", "-0.2")
        two.stored(2)
        one.settles("height", lambda v: v == -0.2)

        # Without Redis steps are stored all the same; both pages are on one state again when it is back.
        self.end_redis()
        one.page.get_by_test_id("connection").wait_for()
        one.key("Shift+k")  # what is dragged or typed is computed over the socket; a key goes without it
        one.stored(3)
        self.begin_redis()
        for desk in (one, two):
            desk.page.get_by_test_id("connection").wait_for(state="hidden")
        two.stored(3)
        two.type("height", "-0.4")
        two.stored(4)
        one.settles("height", lambda v: v == -0.4)

        # Who is here, and a cast that grows, go across too.
        one.page.wait_for_function("() => document.querySelector('[title^=\"Here now: \"]')")
        one.page.get_by_role("button", name="Cast", exact=True).click()
        one.page.get_by_role("button", name="Add to the cast").click()
        two.page.locator("button[aria-label^='Acts on: ']").wait_for()
        self.assertEqual(self.complaints, [])
