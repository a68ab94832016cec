"""Text is set in a process of its own: what comes back, how it is stopped, and that nothing of it is left."""

import io
import json
import os
import shutil
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from pypdfium2 import PdfDocument

from scutcher.charts.report import typesetting
from scutcher.charts.report.typesetting import Typesetter, serve
from scutcher.core.errors import FileError
from scutcher.core.progress import Stopped

PAGE, STYLE = "<html><body><h1>Lots of wool — µg/kg</h1></body></html>", "@page { size: A4 }"
LONG = f"<html><body>{'<p>wool <b>and</b> wool</p>' * 20_000}</body></html>"


def words(pdf):
    return PdfDocument(pdf)[0].get_textpage().get_text_range()


class Apart(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        own = mock.patch.object(tempfile, "tempdir", self.folder.name)
        own.start()
        self.addCleanup(own.stop)
        self.setter = Typesetter()
        self.addCleanup(self.setter.end)

    def left(self):
        return sorted(os.listdir(self.folder.name))

    def test_one_process_sets_one_text_after_the_other(self):
        self.assertIn("Lots of wool — µg/kg", words(self.setter.pdf(PAGE, STYLE)))
        process = self.setter._process
        self.assertIn("Second", words(self.setter.pdf("<p>Second</p>", STYLE)))
        self.assertIs(self.setter._process, process)
        (folder,) = self.left()
        self.assertEqual(os.listdir(Path(self.folder.name) / folder), [])
        self.setter.end()
        self.assertIsNotNone(process.returncode)
        self.assertEqual(self.left(), [])

    def test_nothing_is_fetched_from_elsewhere(self):
        secret = Path(self.folder.name) / "secret.svg"
        secret.write_text('<svg xmlns="http://www.w3.org/2000/svg"><text y="9">hidden words</text></svg>')
        inside = secret.read_text().replace("hidden", "shown").replace('"', "%22").replace(" ", "%20")
        page = f'<img src="{secret.as_uri()}"><img src="data:image/svg+xml,{inside}"><p>the rest</p>'
        said = words(self.setter.pdf(page, STYLE))
        self.assertIn("the rest", said)
        self.assertIn("shown words", said)
        self.assertNotIn("hidden", said)

    def test_one_that_has_ended_is_replaced_unseen(self):
        self.setter.pdf(PAGE, STYLE)
        self.setter._process.kill()
        self.assertIn("Lots of wool", words(self.setter.pdf(PAGE, STYLE)))
        with mock.patch.object(
            self.setter._process, "poll", return_value=None
        ):  # it ends just after the look
            self.setter._process.kill()
            time.sleep(0.2)
            self.assertIn("Lots of wool", words(self.setter.pdf(PAGE, STYLE)))

    def test_nobody_waits_for_what_is_stopped(self):
        self.setter.pdf(PAGE, STYLE)
        process, asked = self.setter._process, []

        def watch(share):
            asked.append(share)
            return len(asked) < 3

        with self.assertRaises(Stopped):
            self.setter.pdf(LONG, STYLE, watch)
        self.assertEqual(asked, [0.0] * 3)
        self.assertIsNotNone(process.returncode)
        self.assertEqual(self.left(), [])
        self.assertIn("Lots of wool", words(self.setter.pdf(PAGE, STYLE)))

    def test_a_process_that_breaks_each_time_is_one_sentence(self):
        breaks = mock.patch.object(typesetting.sys, "executable", shutil.which("false"))
        with breaks, self.assertRaises(FileError) as caught:
            self.setter.pdf(PAGE, STYLE)
        self.assertIn("could not be set", caught.exception.problem)
        self.assertEqual(self.left(), [])


class OtherSide(unittest.TestCase):
    """What the process does, without one."""

    def served(self, asked):
        inner, outer = os.pipe()
        answers = io.BytesIO()
        with tempfile.TemporaryDirectory() as name, open(inner, "rb") as reading:
            for one, words in ((typesetting.PAGE, "<p>a</p>"), (typesetting.STYLE, "")):
                (Path(name) / one).write_text(words)
            with open(outer, "wb") as writing:
                writing.write(asked)
                writing.flush()
                with mock.patch.object(typesetting, "IDLE", 0.05):
                    serve(reading, answers, Path(name))
            return answers.getvalue(), sorted(os.listdir(name))

    def test_without_the_library_of_the_system_it_says_so(self):
        with mock.patch.dict("sys.modules"), mock.patch("builtins.__import__", side_effect=_no_pango):
            answers, there = self.served(b"\n")
        self.assertIn("Pango", json.loads(answers)[0])
        self.assertNotIn(typesetting.MADE, there)

    def test_it_ends_where_nothing_comes(self):
        self.assertEqual(self.served(b""), (b"", [typesetting.PAGE, typesetting.STYLE]))


def _no_pango(name, *rest, _import=__import__):
    if name.startswith("weasyprint"):
        raise OSError("cannot load library 'libpango-1.0-0'")
    return _import(name, *rest)
