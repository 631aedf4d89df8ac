"""The real interface in headless Chromium, before a real server process on the test database."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any, ClassVar, Self

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client, TransactionTestCase
from playwright.sync_api import Browser, Page, Playwright, sync_playwright

from server.productions.models import Membership, Production
from server.shots import store
from tests.browser.serving import Loaded, Serving

ROOT = Path(__file__).parents[2]
PICTURES = os.environ.get("HAME_PICTURES")  # a folder: the tests leave pictures of the main views there
# Without a graphics card the stage is drawn by SwiftShader; laying the page together by it too took twice as long.
FLAGS = [
    "--no-sandbox", "--disable-gpu-rasterization", "--disable-gpu-compositing", "--use-gl=angle",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader", "--disable-quic",
    "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


# Which of the stage's tools lie under a message; none, since messages stand at the foot of the stage.
COVERED = """() => {
    const boxes = selector => [...document.querySelectorAll(selector)].map(e => [e, e.getBoundingClientRect()]);
    const over = (a, b) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;
    const messages = boxes('.notistack-SnackbarContainer .notistack-Snackbar');
    return boxes('[data-testid=stage-bar] button')
        .filter(([, tool]) => messages.some(([, message]) => over(tool, message)))
        .map(([tool]) => tool.getAttribute('aria-label') || tool.textContent);
}"""


class BrowserTest(TransactionTestCase):
    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]
    demo: ClassVar[bytes | None] = None
    still: ClassVar = not PICTURES  # menus and dialogs come and go at once, as for those who ask for less motion
    loaded: ClassVar[Loaded | None] = None  # by the first test that needs it, for all of the process

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        # Playwright keeps an event loop in this thread; Django may still use the database from it.
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    def setUp(self) -> None:
        store.forget()  # another test's clips, of takes with the same numbers, may have had the same revisions
        self.server: Serving | None = None
        self.addCleanup(self.kill_server, signal.SIGKILL)  # also where setting up fails half way
        # Played in a process of its own, as ./start does it.
        self.env = {**os.environ, "HAME_DB_NAME": connection.settings_dict["NAME"], "HAME_DEMO": "1"}
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            self.port = s.getsockname()[1]
        self.begin_server()  # it gets going while the demo is laid
        self.lay_demo()
        self.await_server()
        self.pages: list[Page] = []
        self.complaints: list[str] = []

    def tearDown(self) -> None:
        for page in self.pages:
            page.context.close()
        self.kill_server(signal.SIGTERM)

    def lay_demo(self) -> None:
        """The demo as it is loaded; from the second test on, out of a copy of what was loaded."""
        base = connection.settings_dict
        reach = ["--no-defaults", f"-h{base['HOST']}", f"-P{base['PORT']}", f"-u{base['USER']}", base["NAME"]]
        env = {**self.env, "MYSQL_PWD": base["PASSWORD"]}
        if BrowserTest.demo is None:
            subprocess.run([sys.executable, "manage.py", "loaddemo"], cwd=ROOT, env=self.env, check=True)
            copy = ["mariadb-dump", *reach[:-1], "--no-create-info", "--replace", "--hex-blob", reach[-1]]
            BrowserTest.demo = subprocess.run(copy, env=env, check=True, stdout=subprocess.PIPE).stdout
        else:
            subprocess.run(["mariadb", *reach], env=env, check=True, input=BrowserTest.demo)

    def start_server(self) -> None:
        self.begin_server()
        self.await_server()

    def begin_server(self) -> None:
        self.server = self.process(self.port)

    def process(self, port: int) -> Serving:
        """A server process on a port."""
        if "REDIS_URL" not in self.env:
            BrowserTest.loaded = BrowserTest.loaded or Loaded(self.env)
            return BrowserTest.loaded.begin(port)
        return subprocess.Popen(
            [sys.executable, "-m", "uvicorn", "server.asgi:application", "--host", "127.0.0.1", "--port", str(port),
             "--log-level", "warning", "--ws-per-message-deflate", "false"], cwd=ROOT, env=self.env,
             stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip

    def await_server(self, port: int | None = None) -> None:
        for _ in range(300):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port or self.port}/api/session", timeout=2).read()
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the server did not start")

    def kill_server(self, how: int) -> None:
        if self.server is not None:
            self.server.send_signal(how)
            self.server.wait()
            self.server = None

    def page(self, account: str = "isla", port: int | None = None) -> Page:
        """A page of its own with an account signed in, at the shots of its production."""
        client = Client()
        client.force_login(get_user_model().objects.get(username=account))
        page = self._opened()
        base = f"http://127.0.0.1:{port or self.port}/"
        page.context.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value, "url": base}])
        page.goto(base)
        page.get_by_role("heading", name="Skerry Light").wait_for()
        return page

    def signed_in(self, account: str) -> Page:
        """The same by way of the front page."""
        page = self.front_page()
        page.get_by_role("button", name=account).click()
        page.get_by_role("heading", name="Skerry Light").wait_for()
        return page

    def sign_in_elsewhere(self, page: Page, account: str) -> None:
        """In another tab of the same browser: out, and in as somebody else."""
        other = page.context.new_page()
        other.goto(f"http://127.0.0.1:{self.port}/")
        other.get_by_role("button", name="Sign out").click()
        other.get_by_role("button", name=account).click()
        other.get_by_role("heading", name="Skerry Light").wait_for()
        other.close()

    def page_as(self, username: str, first_name: str, role: str = "animator") -> Page:
        """A page of its own for somebody who plays no part in the demo, at the shots of its production."""
        user = get_user_model().objects.get_or_create(username=username, defaults={"first_name": first_name})[0]
        production = Production.objects.get(name="Skerry Light")
        Membership.objects.get_or_create(production=production, user=user, defaults={"role": role})
        return self.page(username)

    def front_page(self) -> Page:
        """A page of its own, not signed in."""
        page = self._opened()
        page.goto(f"http://127.0.0.1:{self.port}/")
        self.picture(page, "sign-in")
        return page

    def _opened(self) -> Page:
        # Drawn without a graphics card: half the pixels each way cost a quarter, and the layout stays the same.
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800},
            device_scale_factor=1 if PICTURES else 0.5,
            accept_downloads=True,
            reduced_motion="reduce" if self.still else "no-preference",
        )
        if not PICTURES:  # smooth edges without a graphics card are the slowest part of a test
            look = '{"state":{"desk":"day","smooth":false},"version":0}'
            context.add_init_script(f"localStorage.getItem('hame-look') ?? localStorage.setItem('hame-look', '{look}')")
        context.add_init_script("window.hame = {}")  # what the stage tells tests
        page = context.new_page()
        page.set_default_timeout(90_000)  # software drawing on a busy machine takes its time
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("request", self._watch)
        self.pages.append(page)
        return page

    def _watch(self, request: Any) -> None:
        if "//127.0.0.1:" not in request.url and not request.url.startswith(("data:", "blob:")):
            self.complaints.append(f"asks another host: {request.url}")

    def accessible(self, page: Page, name: str) -> None:
        """Nothing on the page breaks the rules of WCAG 2.1 A and AA that axe-core can check (W3C; Deque's axe-core)."""
        page.wait_for_timeout(500)  # colours that change over a moment have changed
        page.evaluate((ROOT / "web/node_modules/axe-core/axe.min.js").read_text())
        rules = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]
        found = page.evaluate("rules => axe.run(document, { runOnly: rules })", rules)
        wrong = [(v["id"], [n["html"][:200] for n in v["nodes"][:3]]) for v in found["violations"]]
        self.assertEqual(wrong, [], name)
        self.assertGreater(len(found["passes"]), 5, f"{name}: hardly anything was looked at")

    def picture(self, page: Page, name: str) -> None:
        if PICTURES:
            page.wait_for_timeout(900)
            page.wait_for_load_state("networkidle")
            page.wait_for_function("() => !window.hame.allDrawn || window.hame.allDrawn()")
            page.screenshot(path=str(Path(PICTURES) / f"{name}.png"))


class Desk:
    """The desk as a person uses it."""

    def __init__(self, page: Page) -> None:
        self.page = page

    @classmethod
    def open(cls, page: Page, shot: str = "Before dawn") -> Self:
        page.get_by_text(shot, exact=True).click()
        desk = cls(page)
        desk.wait_ready()
        return desk

    def wait_ready(self) -> None:
        self.page.get_by_test_id("stage").wait_for()
        self.page.wait_for_function("() => !document.querySelector('[data-testid=connection]')")
        self.page.wait_for_function("() => window.hame?.ready?.()")
        self.page.wait_for_timeout(500)

    def pick(self, control: str, *modifiers: str) -> None:
        self.page.locator(f"[data-control='{control}']").click(modifiers=list(modifiers))  # type: ignore[arg-type]

    def stored(self, least: int | None = None) -> int:
        """Waits until all is stored; the number of the step."""
        # One look decides and answers: between two the next step may already be on its way.
        found = self.page.wait_for_function(
            """least => { const s = document.querySelector('[data-testid=stored]');
                const step = Number(s.dataset.step);
                return s.dataset.state === 'stored' && step >= least ? { step } : false; }""",
            arg=least if least is not None else 0,
        )
        return int(found.json_value()["step"])

    def value(self, label: str) -> float:
        """A channel's number as it is shown."""
        found = self.page.get_by_test_id("channels").locator(f"button[aria-label^='{label}: ']").first
        return float(found.inner_text().replace("−", "-"))

    def settles(self, label: str, right: Callable[[float], bool]) -> None:
        """Waits until a channel's number is as it should be: a pose is fetched before it is shown."""
        for _ in range(300):
            if right(self.value(label)):
                return
            self.page.wait_for_timeout(50)
        raise AssertionError(f"{label} stays at {self.value(label)}")

    def type(self, label: str, text: str) -> None:
        self.page.get_by_test_id("channels").locator(f"button[aria-label^='{label}: ']").first.click()
        box = self.page.get_by_test_id("channels").get_by_label(label, exact=True)
        box.fill(text)
        box.press("Enter")

    def offset(self, axis: str, text: str, tool: str = "move") -> None:
        self.type(f"{tool} by {axis}", text)

    def letter(self, axis: str) -> tuple[float, float]:
        """Where the handle's letter stands on the page."""
        self.page.wait_for_function(
            """axis => [...document.querySelectorAll('[data-testid=stage] > span')]
                .some(s => s.textContent === axis && s.style.display === 'block')""",
            arg=axis,
        )
        x, y = self.page.evaluate(
            """axis => { const t = [...document.querySelectorAll('[data-testid=stage] > span')]
                .find(s => s.textContent === axis && s.style.display !== 'none');
                const r = t.getBoundingClientRect(); return [r.left + r.width / 2, r.top + r.height / 2]; }""",
            axis,
        )
        return x, y

    def resting_letters(self) -> list[tuple[float, float]]:
        """Where the three letters stand once the handle is drawn as it was last asked for."""
        before: list[tuple[float, float]] = []
        for _ in range(60):
            now = [self.letter(a) for a in "xyz"]
            if now == before:
                return now
            before = now
            self.page.wait_for_timeout(60)
        raise AssertionError("the handle does not come to rest")

    def drag_arm(self, axis: str, dx: float, dy: float, keep: bool = False, before_release: Any = None) -> None:
        """Drags the handle's arm by its end, in steps as a hand does."""
        others = self.resting_letters()
        x, y = others["xyz".index(axis)]
        # The arm ends a little inside its letter, on the way to the centre of the three.
        cx, cy = self._centre(others)
        x, y = x + 0.2 * (cx - x), y + 0.2 * (cy - y)
        mouse = self.page.mouse
        mouse.move(x, y)
        mouse.down()
        for n in range(1, 9):
            mouse.move(x + dx * n / 8, y + dy * n / 8)
            self.page.wait_for_timeout(15)
        if before_release:
            before_release()
        if not keep:
            mouse.up()

    def _centre(self, letters: list[tuple[float, float]]) -> tuple[float, float]:
        box = self.page.evaluate(
            """() => { const c = document.querySelector('[data-testid=stage]').getBoundingClientRect();
                return [c.left, c.top]; }"""
        )
        origin = self.page.evaluate("() => window.hame?.handle?.() ?? null")
        return (box[0] + origin[0], box[1] + origin[1]) if origin else letters[0]

    def go(self, frame: int) -> None:
        self.page.get_by_test_id("frame").locator("button").click()
        box = self.page.get_by_test_id("frame").get_by_label("Frame")
        box.fill(str(frame))
        box.press("Enter")
        self.page.wait_for_function(
            "f => document.querySelector('[data-testid=frame] button')?.textContent === String(f)", arg=frame
        )
        self.page.wait_for_timeout(150)

    def key(self, keys: str) -> None:
        self.page.keyboard.press(keys)

    def choose(self, label: str, option: str) -> None:
        self.page.locator(f"button[aria-label^='{label}: ']").click()
        self.page.get_by_role("menuitem", name=option).click()

    def act_on(self, name: str) -> None:
        self.page.locator("button[aria-label^='Acts on: ']").click()
        self.page.get_by_role("group", name=name, exact=True).get_by_role("button", name=name, exact=True).click()

    def join(self, *names: str) -> None:
        """Takes others of the cast in, as a whole."""
        self.page.locator("button[aria-label^='Acts on: ']").click()
        for name in names:
            self.page.get_by_role("group", name=name, exact=True).get_by_label("as well").click()
        self.page.keyboard.press("Escape")

    def columns(self) -> list[int]:
        return [int(c) for c in self.page.eval_on_selector_all("[data-column]", "cs => cs.map(c => c.dataset.column)")]

    def told(self, words: str) -> None:
        self.page.get_by_text(words).first.wait_for()
        covered = self.page.evaluate(COVERED)
        assert not covered, f"messages cover {covered}"
