"""Thumbnails of the demo's shots: shipped as the application itself draws them."""

from __future__ import annotations

import io
import os
from pathlib import Path
from unittest import skipUnless

from PIL import Image

import hame.demo
from server.shots.models import Shot
from tests.browser.base import BrowserTest, Desk

DATA = Path(hame.demo.__file__).parent / "data"


class DemoPicturesTest(BrowserTest):
    @skipUnless(os.environ.get("HAME_DEMO_PICTURES"), "draws the shipped thumbnails anew when asked to")
    def test_drawing_them_anew(self) -> None:
        page = self.page()
        page.context.add_init_script("localStorage.removeItem('hame-look')")  # smooth edges
        page.context.add_init_script("window.hame = { thumbnails: true }")  # also without a change
        wished = os.environ["HAME_DEMO_PICTURES"]  # 1 is all of them, else the name of one
        for shot in Shot.objects.order_by("pk") if wished == "1" else Shot.objects.filter(name=wished):
            with page.expect_response(lambda r: r.request.method == "PUT" and "thumbnail" in r.url) as done:
                page.goto(f"http://127.0.0.1:{self.port}/shots/{shot.pk}")
                Desk(page).wait_ready()
            self.assertTrue(done.value.ok)
            shot.refresh_from_db()
            answer = page.request.get(f"http://127.0.0.1:{self.port}/api/shots/{shot.pk}/thumbnail.png")
            target = DATA / f"{shot.name.lower().replace(' ', '-')}.png"
            Image.open(io.BytesIO(answer.body())).convert("RGB").quantize(128).save(target, optimize=True)
