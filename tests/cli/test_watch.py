"""A folder is watched: whole files are projected once; half-written and foreign ones and kills do no harm."""

import csv
import gc
import os
import pathlib
import signal
import subprocess
import sys
import time
import tracemalloc
import unittest

import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.models.pca.saved_model import project
from scutcher.files.model_json import write_model
from scutcher.study import watching
from scutcher.study.watching import Watching
from tests.cli.test_commands import call
from tests.core.making import ordered_table, random_spectra
from tests.core.models.pca.test_saved_model import model_of
from tests.folder import InFolder

P = 30


class Folder(InFolder, unittest.TestCase):
    def setUp(self):
        super().setUp()
        self.table = ordered_table(random_spectra(30, P))
        self.model = model_of(self.table, treat=[{"method": "snv"}], model={"components": 2})
        self.inbox, self.out = self.folder / "inbox", self.folder / "strip.csv"
        self.inbox.mkdir()

    def write(self, name, values, lot="s"):
        text = "id," + ",".join(self.table.axis.labels) + "\n"
        for row, cells in enumerate(np.atleast_2d(values).tolist()):
            text += f"{lot}{row}," + ",".join(map(repr, cells)) + "\n"
        (self.inbox / name).write_text(text)
        return text

    def rows(self):
        with self.out.open(newline="") as stream:
            return list(csv.DictReader(stream))

    def twice(self, watched):
        return [*watched.look(), *watched.look()]

    def test_distances_are_those_of_apply(self):
        self.write("a.csv", self.table.values[:3])
        found = self.twice(Watching(self.model, self.inbox, self.out))
        wanted = project(self.model, self.table.take(np.arange(3)))
        np.testing.assert_allclose([float(row["t2"]) for row in self.rows()], wanted.t2, rtol=1e-12)
        np.testing.assert_allclose([float(row["q"]) for row in self.rows()], wanted.q, rtol=1e-9)
        self.assertEqual([one.sample for one in found], ["s0", "s1", "s2"])

    def test_an_alien_names_its_channels(self):
        values = self.table.values[0].copy()
        values[11] += 60.0
        self.write("alien.csv", values)
        (one,) = self.twice(Watching(self.model, self.inbox, self.out))
        self.assertEqual(one.belongs, "no")
        self.assertIn("Q", one.why)
        self.assertEqual(one.channels[0], self.table.axis.name(11))

    def test_a_file_is_read_only_when_it_is_whole(self):
        watched = Watching(self.model, self.inbox, self.out)
        text = self.write("a.csv", self.table.values[:2])
        path = self.inbox / "a.csv"
        for share in (0.3, 0.5, 0.8):
            path.write_text(text[: int(len(text) * share)])
            self.assertEqual(watched.look(), [])
        path.write_text(text)
        self.assertEqual(watched.look(), [])
        self.assertEqual(len(watched.look()), 2)
        self.assertEqual(watched.look(), [])
        self.assertFalse(watched.waits)

    def test_a_file_that_pauses_half_written_is_read_once_it_goes_on(self):
        watched = Watching(self.model, self.inbox, self.out)
        text = self.write("a.csv", self.table.values[:1])
        path = self.inbox / "a.csv"
        path.write_text(text[: len(text) // 4])
        self.assertEqual([*watched.look(), *watched.look(), *watched.look()], [])
        path.write_text(text)
        self.assertEqual([one.belongs != "" for one in self.twice(watched)], [True])

    def test_foreign_files_are_written_down_with_the_reason_and_stop_nothing(self):
        (self.inbox / "notes.txt").write_text("Do not touch the lamp.\n")
        (self.inbox / "picture.png").write_bytes(os.urandom(300))
        (self.inbox / ".hidden").write_text("x")
        (self.inbox / "below").mkdir()
        self.write("good.csv", self.table.values[:1])
        watched = Watching(self.model, self.inbox, self.out)
        for _ in range(watching.PATIENCE + 2):
            watched.look()
        rows = {row["file"]: row for row in self.rows()}
        self.assertEqual(sorted(rows), ["good.csv", "notes.txt", "picture.png"])
        self.assertNotEqual(rows["good.csv"]["q"], "")
        for name in ("notes.txt", "picture.png"):
            self.assertEqual((rows[name]["belongs"], rows[name]["q"]), ("", ""))
            self.assertNotEqual(rows[name]["why"], "")

    def test_a_strip_that_was_cut_off_loses_no_file_and_doubles_none(self):
        for name in ("a.csv", "b.csv"):
            self.write(name, self.table.values[:3])
        self.twice(Watching(self.model, self.inbox, self.out))
        whole = self.out.read_bytes()
        start = whole.index(b"\n") + 1
        for cut in (
            start,
            start + 1,
            start + 40,
            len(whole) - 1,
            len(whole) - 60,
            len(whole) - 200,
            len(whole),
        ):
            self.out.write_bytes(whole[:cut])
            self.twice(Watching(self.model, self.inbox, self.out))
            with self.subTest(cut):
                self.assertEqual(sorted(self.out.read_bytes().splitlines()), sorted(whole.splitlines()))

    def test_many_files_need_little_memory(self):
        watched = Watching(self.model, self.inbox, self.out)
        sizes = []
        for turn in range(4):
            for place in range(20):
                self.write(f"{turn}-{place}.csv", self.table.values[place % 30])
            self.assertEqual(len(self.twice(watched)), 20)
            if turn == 0:
                tracemalloc.start()
                self.addCleanup(tracemalloc.stop)
            gc.collect()
            if turn:
                interned = tracemalloc.Filter(
                    False, pathlib.__file__
                )  # names of paths: a table that all share
                kept = tracemalloc.take_snapshot().filter_traces([interned]).statistics("filename")
                sizes.append(sum(each.size for each in kept))
        self.assertLess((sizes[-1] - sizes[0]) / 40, 4000)  # bytes a file

    def test_what_is_no_strip_is_left_alone(self):
        self.out.write_text("my,own,table\n1,2,3\n")
        with self.assertRaises(FileError) as caught:
            Watching(self.model, self.inbox, self.out)
        self.assertIn("strip.csv holds something else.", str(caught.exception))
        self.assertEqual(self.out.read_text(), "my,own,table\n1,2,3\n")
        with self.assertRaises(FileError):
            Watching(self.model, self.folder / "none", self.folder / "new.csv")

    def test_the_command_ends_with_3_and_runs_the_alarm(self):
        write_model(self.folder / "model.json", self.model)
        values = self.table.values[:2].copy()
        values[1, 11] += 60.0
        self.write("a.csv", values)
        told = self.folder / "told.txt"
        script = self.folder / "tell.py"
        script.write_text(f"import sys\nopen({str(told)!r}, 'a').write(' '.join(sys.argv[1:]) + '\\n')\n")
        code, said, wrong = call(
            "watch", self.folder / "model.json", self.inbox, "--out", self.out, "--once",
            "--every", "0.01", "--alarm", f"{sys.executable} {script}",
        )  # fmt: skip
        self.assertEqual((code, wrong), (3, ""))
        self.assertIn("a.csv s0: belongs", said)
        self.assertIn("a.csv s1: does not belong (past", said)
        self.assertTrue(told.read_text().startswith("a.csv s1 past"))
        self.assertEqual(len(told.read_text().splitlines()), 1)
        self.write("b.csv", self.table.values[:1])
        code, said, wrong = call(
            "watch", self.folder / "model.json", self.inbox, "--out", self.out, "--once",
            "--every", "0.01", "--alarm", "no-such-command",
        )  # fmt: skip
        self.assertEqual((code, wrong), (0, ""))

    def test_killed_and_started_again(self):
        write_model(self.folder / "model.json", self.model)
        command = [sys.executable, "-m", "scutcher", "watch", self.folder / "model.json", self.inbox]
        command += ["--out", self.out, "--every", "0.05"]
        for turn in range(2):
            for place in range(5):
                self.write(f"{turn}-{place}.csv", self.table.values[place])
            started = subprocess.Popen(list(map(str, command)), stdout=subprocess.DEVNULL)
            self.addCleanup(started.wait)
            self.addCleanup(started.kill)
            while not self.out.exists() or len(self.rows()) < 5 * turn + 3:
                self.assertIsNone(started.poll())
                time.sleep(0.02)
            started.send_signal(signal.SIGKILL)
            started.wait()
        call(*command[3:], "--once")
        names = [row["file"] for row in self.rows()]
        self.assertEqual(
            sorted(names), sorted(f"{turn}-{place}.csv" for turn in range(2) for place in range(5))
        )
