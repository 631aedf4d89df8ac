"""Files by the ends of their names: a format that is new is one row."""

from __future__ import annotations

from unittest import TestCase, mock

from hame.errors import BadFile
from hame.formats.gltf_read import Character
from hame.formats.kinds import READERS, Reader, reader_for, suffix_of, writer_for
from hame.intake.intake import take_in
from tests.hame.examples import BRANNOC, brannoc


class FormatTest(TestCase):
    def test_a_file_is_read_by_the_end_of_its_name(self) -> None:
        """A made-up format beside the one that there is: what is read goes the same way from there on."""

        def read(data: bytes, rigid: bool) -> Character:
            if data != b"the keeper":
                raise BadFile("this is not the keeper")
            return brannoc()

        with mock.patch.dict(READERS, {("character", ".keeper"): Reader("the keeper", read)}):
            taken = take_in("Brannoc", b"the keeper", file="Brannoc.KEEPER")
            self.assertEqual(taken.card, take_in("Brannoc", BRANNOC.read_bytes(), file="brannoc.glb").card)
            with self.assertRaisesRegex(BadFile, "not the keeper"):
                take_in("Brannoc", BRANNOC.read_bytes(), file="brannoc.keeper")
        self.assertEqual(suffix_of("brannoc.keeper"), ".glb")

    def test_a_name_that_says_nothing_is_tried_as_the_usual_file(self) -> None:
        for name in ("", "brannoc", "-rock.glb", "brannoc.tar.gz", ".glb"):
            self.assertIs(reader_for("character", name), READERS["character", ".glb"], name)

    def test_what_cannot_be_written_is_refused_in_words(self) -> None:
        self.assertIs(writer_for("motions", "GLB"), writer_for("motions", ".glb"))
        for suffix in ("", "exe", "glb/../x"):
            with self.assertRaisesRegex(BadFile, r"these are: \.glb"):
                writer_for("motions", suffix)
