"""Speed of the whole application on loopback: ``.venv/bin/python -m bench.desk [URL]`` while ``./start`` serves it.

Makes a production of its own, so that nothing of anybody else's is touched.
"""

from __future__ import annotations

import gzip
import http.cookiejar
import json
import statistics
import struct
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright
from websockets.sync.client import connect

from hame.demo import __file__ as demo_file

FLAGS = ["--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-quic",
         "--no-first-run", "--disable-background-networking", "--disable-component-update",
         "--disable-sync"]  # fmt: skip


class Api:
    def __init__(self, url: str) -> None:
        self.url = url
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.csrf = ""
        self.csrf = self("GET", "/api/session")["csrf"]
        self.csrf = self("POST", "/api/session/demo", {"username": "isla"})["csrf"]

    def __call__(self, method: str, path: str, body: Any = None) -> Any:
        raw = self.raw(method, path, None if body is None else json.dumps(body).encode(), "application/json")
        return json.loads(raw) if raw else None

    def raw(self, method: str, path: str, data: bytes | None = None, kind: str = "") -> bytes:
        request = urllib.request.Request(self.url + path, data, method=method)
        request.add_header("X-CSRFToken", self.csrf)
        if kind:
            request.add_header("Content-Type", kind)
        with self.opener.open(request) as answer:
            return bytes(answer.read())

    def cookies(self) -> str:
        return "; ".join(f"{c.name}={c.value}" for c in self.jar)


def say(what: str, seconds: list[float]) -> None:
    ordered = sorted(seconds)
    p95 = ordered[min(int(len(ordered) * 0.95), len(ordered) - 1)]
    print(
        f"{what}: median {statistics.median(ordered) * 1e3:.2f} ms, "
        f"95th percentile {p95 * 1e3:.2f} ms ({len(ordered)} times)"
    )


def furnish(api: Api) -> tuple[dict[str, Any], dict[str, Any]]:
    """A shot of one character and a shot of two, in a production of the benchmark's own."""
    production = api("POST", "/api/productions", {"name": f"Bench {time.strftime('%H:%M:%S')}"})["id"]
    data = (Path(demo_file).parent / "data" / "brannoc.glb").read_bytes()
    edge = "----bench"
    form = (
        (f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="keeper.glb"\r\n\r\n').encode()
        + data
        + f"\r\n--{edge}--\r\n".encode()
    )
    character = json.loads(
        api.raw("POST", f"/api/productions/{production}/characters", form, f"multipart/form-data; boundary={edge}")
    )
    one, two = (
        api(
            "POST",
            f"/api/productions/{production}/shots",
            {"name": name, "character_ids": [character["id"]] * n, "start": 1, "end": 240},
        )
        for name, n in (("One", 1), ("Two", 2))
    )
    return one, two


def drags(api: Api, shot: dict[str, Any]) -> None:
    take, cast = shot["takes"][0]["id"], shot["cast"][0]["id"]
    url = api.url.replace("http", "ws") + f"/live/takes/{take}"
    with connect(url, additional_headers={"Cookie": api.cookies(), "Origin": api.url}) as socket:

        def ask(message: dict[str, Any]) -> None:
            socket.send(json.dumps(message))
            while isinstance(socket.recv(), str):
                pass

        ask({"do": "begin", "seq": 0, "casting": cast, "frame": 1})
        for what, wish in (
            ("drag a foot", {"do": "move", "controls": ["leg.L.goal"], "axes": "world"}),
            ("drag ten controls", {"do": "move", "axes": "world", "controls": [
                "body", "leg.L.goal", "leg.R.goal", "leg.L.pole", "leg.R.pole", "arm.L.goal", "arm.R.goal",
                "arm.L.pole", "arm.R.pole", "master"]}),
            ("pull a hand, five grips", {"do": "pull", "controls": ["arm.L.hand"], "grips": [
                {"part": "leg.L.foot", "grade": "fast"}, {"part": "leg.R.foot", "grade": "fast"},
                {"part": "arm.R.hand", "grade": "fast"}, {"part": "head", "grade": "firm"},
                {"part": "chest", "grade": "loose"}]}),
        ):  # fmt: skip
            times = []
            for n in range(500):
                begun = time.perf_counter()
                ask({**wish, "seq": n + 1, "offset": [0.0, 0.0008 * n, 0.0006 * n]})
                times.append(time.perf_counter() - begun)
            say(f"{what}, there and back through the socket", times)


def edits(api: Api, shot: dict[str, Any]) -> int:
    take, cast = shot["takes"][0]["id"], shot["cast"][0]["id"]
    path = f"/api/takes/{take}/edits"
    revision = 0

    def edit(change: dict[str, Any], looked: int | None = None, **named: str | None) -> dict[str, Any]:
        """The answer to a step; to one that says which frame is looked at with frames, which are let go here."""
        nonlocal revision
        told = {"revision": revision, "casting": cast, "edit": change, "looked": looked, **named}
        body = api.raw("POST", path, json.dumps(told).encode(), "application/json")
        if looked is not None:
            (length,) = struct.unpack_from("<I", body)
            body = body[4 : 4 + length]
        answer: dict[str, Any] = json.loads(body)
        revision = answer["revision"]
        return answer

    edit({"kind": "key", "frame": 1})
    edit({"kind": "pose", "frame": 5, "values": {"head/ry": 0.5, "body/ty": -0.05}, "keying": "whole"})
    while (
        keys := sum(len(rows) for rows in api("GET", f"/api/takes/{take}")["clips"][str(cast)]["curves"].values())
    ) < 10_000:
        frames = sorted(
            {row[0] for rows in api("GET", f"/api/takes/{take}")["clips"][str(cast)]["curves"].values() for row in rows}
        )
        edit({"kind": "duplicate", "frames": frames, "by": max(frames) - min(frames) + 4})
    changes: list[tuple[str, int, Callable[[int], dict[str, Any]]]] = [
        (f"one edit of one channel on {keys:,} keys", 40,
         lambda n: {"kind": "pose", "frame": 101, "values": {"head/ry": 0.01 * (n + 1)}, "keying": "changed"}),
        ("moving a whole column (200 curves)", 20,
         lambda n: {"kind": "move", "frames": [101 + n % 2], "by": 1 - 2 * (n % 2)}),
        ("inserting a frame early (nearly all keys move)", 10,
         lambda n: {"kind": "insert", "after": 20, "count": 1 - 2 * (n % 2)}),
    ]  # fmt: skip
    for what, times, change in changes:
        for how, looked in (("stored", None), ("stored, with the frames that it changed", 101)):
            taken = []
            for n in range(times):
                begun = time.perf_counter()
                edit(change(n), looked)
                taken.append(time.perf_counter() - begun)
            say(f"{what}, {how}", taken)
    taken = []
    for n in range(40):
        begun = time.perf_counter()
        another = {"kind": "breakdown", "frame": 103, "share": 0.01 * n}
        edit(another, 103, id=f"bench-step-{n}", instead=f"bench-step-{n - 1}" if n else None)
        taken.append(time.perf_counter() - begun)
    say("another amount in the place of the last step, with its frames", taken[1:])
    return int(shot["id"])


CLICK = """() => new Promise((done) => {
  const stored = document.querySelector('[data-testid=stored]');
  const step = () => `${stored.dataset.step} ${stored.textContent}`;
  const before = step();
  const begun = performance.now();
  const look = () => {
    if (stored.dataset.state === 'stored' && step() !== before)
                requestAnimationFrame(() => done(performance.now() - begun));
    else setTimeout(look, 1);
  };
  for (const way of ['keydown', 'keyup'])
    document.body.dispatchEvent(new KeyboardEvent(way, { key: 'k', code: 'KeyK', bubbles: true }));
  look();
})"""


def browser(api: Api, one: dict[str, Any], two: dict[str, Any]) -> None:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        context = chromium.new_context(viewport={"width": 1280, "height": 800})
        context.add_init_script("window.hame = {}")  # what the stage tells measurements
        page = context.new_page()
        whole = _scripts_of(page)
        page.goto(api.url)
        page.get_by_role("button", name="Isla").click()
        page.get_by_role("heading", name="Shots").wait_for()
        _desk(page, api, one)
        again = context.new_page()
        context.new_cdp_session(again).send("Network.setCacheDisabled", {"cacheDisabled": True})
        opened = _scripts_of(again)
        _desk(again, api, one)
        again.close()
        for what, scripts in (("first load of the desk", opened), ("the same by way of signing in and shots", whole)):
            print(f"{what}: {sum(scripts.values()) / 1000:.0f} kB of script, gzipped, in {len(scripts)} files")
        page.locator("[data-control='head']").click()
        times = []
        for n in range(20):
            # On to the next frame that has no keys yet (columns stand on every fourth).
            page.keyboard.press("Shift+ArrowRight" if n and n % 3 == 0 else "ArrowRight")
            page.wait_for_timeout(400)
            times.append(page.evaluate(CLICK) / 1e3)
        say("keying a control on 10,000 keys, from the key press to redrawn, software GL", times)
        _desk(page, api, two)
        page.keyboard.press("Space")
        page.wait_for_timeout(500)
        page.evaluate("() => { window.hame.costs.length = 0; }")
        page.wait_for_timeout(6000)
        costs = page.evaluate("() => [...window.hame.costs]")
        rate = page.get_by_test_id("rate").inner_text()
        page.keyboard.press("Space")
        say("script for a played frame, two characters, stage and three sights", [c / 1e3 for c in costs])
        print(f"playing two characters in software GL: {rate}")
        chromium.close()


def _scripts_of(page: Page) -> dict[str, int]:
    """The bytes of each script that a page loads, gzipped, as they come."""
    scripts: dict[str, int] = {}
    page.on(
        "response",
        lambda r: scripts.update({r.url: len(gzip.compress(r.body(), 9))}) if r.url.endswith(".js") else None,
    )
    return scripts


X_LETTER = """() => {
  const letters = [...document.querySelectorAll('[data-testid=stage] > span')];
  const box = letters.find((l) => l.textContent === 'x' && l.style.display !== 'none').getBoundingClientRect();
  const stage = document.querySelector('[data-testid=stage]').getBoundingClientRect();
  const [x, y] = window.hame.handle();
  return [box.x + box.width / 2, box.y + box.height / 2, stage.x + x, stage.y + y];
}"""


def redraws(api: Api, shots: dict[str, dict[str, Any]]) -> None:
    """How often a second the stage is drawn while something is dragged, and while it plays, without a graphics card."""
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        for scale in (1.0, 0.5):  # as people have it, and as the browser tests draw
            context = chromium.new_context(viewport={"width": 1280, "height": 800}, device_scale_factor=scale)
            page = context.new_page()
            page.add_init_script("window.hame = {}")
            page.goto(api.url)
            page.get_by_role("button", name="Isla").click()
            page.get_by_role("heading", name="Shots").wait_for()
            for who, shot in shots.items():
                _desk(page, api, shot)
                page.locator("[data-control='head']").click()
                page.wait_for_timeout(1500)
                x, y, mx, my = page.evaluate(X_LETTER)
                x, y = x + 0.2 * (mx - x), y + 0.2 * (my - y)
                page.mouse.move(x, y)
                page.mouse.down()
                page.evaluate("() => { window.hame.costs.length = 0; }")
                begun, n = time.perf_counter(), 0
                while time.perf_counter() - begun < 5:
                    page.mouse.move(x + (n % 40) / 2, y + n % 7)
                    page.wait_for_timeout(10)
                    n += 1
                dragged = page.evaluate("() => window.hame.costs.length") / (time.perf_counter() - begun)
                page.keyboard.press("Escape")
                page.mouse.up()
                page.wait_for_timeout(1500)
                page.keyboard.press("Space")
                page.wait_for_timeout(800)
                page.evaluate("() => { window.hame.costs.length = 0; }")
                begun = time.perf_counter()
                page.wait_for_timeout(5000)
                played = page.evaluate("() => window.hame.costs.length") / (time.perf_counter() - begun)
                page.keyboard.press("Space")
                print(
                    f"redraws a second, {who}, software GL, {scale:g} pixels a point: "
                    f"{dragged:.1f} dragging, {played:.1f} playing"
                )
            context.close()
        chromium.close()


def _desk(page: Page, api: Api, shot: dict[str, Any]) -> None:
    page.goto(f"{api.url}/shots/{shot['id']}")
    page.wait_for_function("() => window.hame?.ready?.() && !document.querySelector('[data-testid=connection]')")
    page.wait_for_timeout(3500)


def main() -> None:
    api = Api(sys.argv[1].rstrip("/") if len(sys.argv) > 1 else "http://127.0.0.1:8000")
    one, two = furnish(api)
    drags(api, one)
    edits(api, one)
    browser(api, one, two)
    again, both = furnish(api)
    redraws(api, {"one figure": again, "two figures": both})


if __name__ == "__main__":
    main()
