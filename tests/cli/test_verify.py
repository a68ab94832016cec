"""What was made is looked at again: changed models, changed files, the same decisions on other data."""

import csv
import json
import shutil
import sqlite3
import tempfile
import unittest
from contextlib import closing
from pathlib import Path

from scutcher import __version__
from scutcher.demo.sets import write_demo_sets
from scutcher.files.hashes import content_hash
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study
from scutcher.study.storage.study_file import StudyFile
from tests.cli.test_commands import QUICK, call
from tests.few_sections import only_sections
from tests.folder import InFolder


class Again(InFolder, unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        """What all begin with is made once, in the folder that each of them then has to itself."""
        home = tempfile.TemporaryDirectory()
        cls.addClassCleanup(home.cleanup)
        cls.begun, cls.own = Path(home.name) / "begun", Path(home.name) / "own"
        cls.data, cls.study = cls.own / "intake-nir.csv", cls.own / "intake.scutch"
        cls.model = cls.own / "out" / "model.json"
        write_demo_sets(cls.own, ["intake-nir"])
        recipe = cls.own / "r.toml"
        recipe.write_text('[[treat]]\nmethod = "snv"\n[model]\ncomponents = 3\n' + QUICK)
        code, _, said = call(
            "fit", cls.data, "--recipe", recipe, "--replicate", "lot", "--class", "year",
            "--out", cls.own / "out", "--study", cls.study,
        )  # fmt: skip
        assert code == 0, said
        cls.own.rename(cls.begun)

    def prepare(self):
        self.folder = self.own
        shutil.copytree(self.begun, self.own)
        self.addCleanup(shutil.rmtree, self.own)

    def changed(self, row, factor):
        """The data with one sample at another size in half of its channels."""
        with self.data.open() as stream:
            header, *lines = list(csv.reader(stream))
        start = header.index("1100")
        for column in range(start, (start + len(header)) // 2):
            lines[row][column] = repr(float(lines[row][column]) * factor)
        path = self.folder / "other.csv"
        with path.open("w", newline="") as stream:
            csv.writer(stream).writerows([header, *lines])
        return path, lines[row][header.index("id") if "id" in header else 0]

    def test_a_model_and_a_study_hold(self):
        code, said, wrong = call("verify", self.model)
        self.assertEqual((code, wrong), (0, ""))
        self.assertIn("holds: model.json is as Scutcher wrote it", said)
        self.assertIn("a model of 3 components", said)
        code, said, wrong = call("verify", self.study)
        self.assertEqual((code, wrong), (0, ""))
        self.assertIn("intake-nir.csv, unchanged since", said)
        self.assertIn("can be fitted again: 3 components", said)

    def test_every_result_says_by_what_it_was_made(self):
        groups, classes = self.folder / "groups", self.folder / "classes"
        applied, mixed = self.folder / "applied", self.folder / "mixed"
        asked = ("--class", "year", "--replicate", "lot")
        for arguments in (
            ("groups", self.data, *asked, "--out", groups),
            ("fit", self.data, *asked, "--kind", "class-models", "--out", classes),
            ("apply", self.model, self.data, "--out", applied),
            ("unmix", self.data, "--replicate", "lot", "--number", "2", "--out", mixed),
        ):
            code, _, said = call(*arguments)
            self.assertEqual(code, 0, said)
        hashed = content_hash(self.data)
        for folder in (self.folder / "out", groups, classes, applied, mixed):
            for path in (folder / "summary.json", folder / "model.json"):
                if not path.exists():
                    continue
                with self.subTest(path.relative_to(self.folder)):
                    made = json.loads(path.read_text())["made"]
                    self.assertEqual(made["program"], f"scutcher {__version__}")
                    self.assertIn("numpy", made["libraries"])
                    self.assertIn(hashed, [one["sha256"] for one in made["files"]])
                    self.assertTrue(made["by"] and made["at"])
                    if path.name == "model.json":
                        self.assertEqual(call("verify", path)[0], 0)

    def test_a_report_holds_until_it_is_changed(self):
        report, opened = self.folder / "r.html", Study.open(self.study)
        opened.do(only_sections("question", "decisions"))
        opened.close()
        self.assertEqual(call("report", self.study, "--out", report)[0], 0)
        code, told, _ = call("verify", report)
        self.assertEqual(code, 0)
        self.assertIn("It tells of a log whose last seal is", told)
        report.write_text(report.read_text().replace("Question and data", "Question and answer"))
        code, told, said = call("verify", report)
        self.assertEqual(code, 1)
        self.assertIn("was changed after it was written", told + said)
        (self.folder / "plain.html").write_text("<p>x")
        self.assertIn("cannot be told", call("verify", self.folder / "plain.html")[1])

    def test_a_changed_model_does_not(self):
        plain = json.loads(self.model.read_text())
        plain["centre"][3] += 1e-9
        self.model.write_text(json.dumps(plain))
        code, said, wrong = call("verify", self.model)
        self.assertEqual(code, 1)
        self.assertTrue(said.startswith("does not hold: model.json was changed after it was written"))
        self.assertEqual(len(wrong.splitlines()), 1)

    def test_a_model_without_a_hash_cannot_be_told(self):
        plain = json.loads(self.model.read_text())
        del plain["sha256"]
        self.model.write_text(json.dumps(plain))
        code, said, _ = call("verify", self.model)
        self.assertEqual(code, 0)
        self.assertIn("cannot be told: model.json has no hash", said)

    def test_changed_and_missing_files_of_a_study(self):
        self.data.write_text(self.data.read_text() + "\n")
        code, said, _ = call("verify", self.study)
        self.assertEqual(code, 1)
        self.assertIn("is not the file that was read; its contents differ", said)
        self.data.unlink()
        code, said, _ = call("verify", self.study)
        self.assertEqual(code, 0)
        self.assertIn("is not there, so it cannot be compared", said)

    def test_a_study_that_another_program_wrote_into(self):
        with closing(sqlite3.connect(self.study)) as link, link:
            link.execute("UPDATE log SET what = 'nothing was done'")
        code, said, _ = call("verify", self.study)
        self.assertEqual(code, 1)
        self.assertIn("was changed by another program", said)

    def test_other_files_are_refused_in_one_line(self):
        for name in ("intake-nir.csv", "none.json"):
            code, said, wrong = call("verify", self.folder / name)
            self.assertEqual((code, said, len(wrong.splitlines())), (1, "", 1))

    def test_the_same_data_give_the_same_figures(self):
        code, said, wrong = call("replay", self.study, "--data", self.data)
        self.assertEqual((code, wrong), (0, ""))
        self.assertRegex(said, r"^Nothing differs: \d{2,} figures are the same, and so is every flag\.\n$")

    def test_other_data_differ_in_figures_and_flags(self):
        path, name = self.changed(5, 1.4)
        code, said, _ = call("replay", self.study, "--data", path)
        self.assertEqual(code, 0)
        figures, flags = said.split("flags that differ")
        self.assertIn("q_limit.value: ", figures)
        self.assertIn("explained[1]: ", figures)
        self.assertNotIn("seconds", said)
        self.assertRegex(flags, rf"{name}: past nothing → past [^\n]*T²")

    def test_decisions_follow_the_names_of_samples(self):
        file = StudyFile.open(self.study)
        study = Study(file.state(file.history.place.now))
        study.do(SetAside((5, 7), "wet"))
        file.keep("do", "set aside", study.state)
        name, lost = (study.state.table.ids[row] for row in (5, 7))
        file.close()
        with self.data.open() as stream:
            header, *lines = list(csv.reader(stream))
        kept = [line for place, line in enumerate(lines) if place != 7]
        path = self.folder / "other.csv"
        with path.open("w", newline="") as stream:
            csv.writer(stream).writerows([header, *reversed(kept)])
        code, said, wrong = call("replay", self.study, "--data", path)
        self.assertEqual((code, wrong), (0, ""))
        self.assertIn(f"1 sample set aside or watched then are not in these files: {lost}.", said)
        self.assertNotIn(name, said.split("figures")[0])
        self.assertNotIn("  samples:", said)
