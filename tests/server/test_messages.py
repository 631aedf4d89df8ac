"""What is said over sockets stands in the API's document, and what is sent is what stands there."""

from __future__ import annotations

import json
from pathlib import Path

from django.test import SimpleTestCase
from pydantic import ValidationError

from server.shots import messages

DOCUMENT = Path(__file__).parents[2] / "server" / "openapi.json"


class MessageTest(SimpleTestCase):
    def test_all_of_it_stands_in_the_document(self) -> None:
        there = json.loads(DOCUMENT.read_text())["components"]["schemas"]
        up = {one["$ref"].rpartition("/")[2] for one in there["Up"]["oneOf"]}
        self.assertEqual(up, {"Begin", "Move", "Turn", "Set", "Pull", "Few", "Try"})
        down = {one["$ref"].rpartition("/")[2] for one in there["Down"]["oneOf"]}
        for name in [*up, *down, "Said"]:
            self.assertIn("properties", there[name], name)

    def test_what_is_not_understood_is_refused(self) -> None:
        good = {"do": "move", "seq": 3, "controls": ["head"], "offset": [0, 0.1, 0]}
        self.assertEqual(messages.UP.validate_python(good).seq, 3)
        places = [0, 0], [0, float("nan"), 0], [0, 1e9, 0]
        for bad in (*({"offset": place} for place in places), {"do": "fly"}, {"seq": -1}, {"axes": "sideways"},
                    {"controls": ["head"] * 2001}):  # fmt: skip
            with self.assertRaises(ValidationError, msg=str(bad)):
                messages.UP.validate_python({**good, **bad})

    def test_what_comes_down_is_told_apart_by_its_type(self) -> None:
        for one in (messages.Passed(seq=1), messages.Failed(seq=-1, message="no"), messages.Traced(seq=2, paths=None),
                    messages.TakeChanged(revision=2, label="Pose", by="Isla"), messages.PathsChanged(),
                    messages.CastChanged(), messages.Came(who="a", name="Isla"),
                    messages.Left(who="a", name="Isla")):  # fmt: skip
            self.assertEqual(messages.DOWN.validate_json(one.model_dump_json()), one)
