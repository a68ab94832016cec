"""The command line as a stranger calls it: files, figures, words and exit codes."""

import contextlib
import csv
import io
import json
import os
import struct
import subprocess
import tempfile
import tomllib
import unittest
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

import numpy as np
from msgspec.structs import replace

from scutcher.cli import main
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.validation.evidence import KEYS
from scutcher.demo.sets import demo_recipe
from scutcher.study.document.study import Study
from tests.few_sections import only_sections

QUICK = """
[evidence]
permutations = 19
halves = 1
[groups]
permutations = 19
[validate]
segments = 4
"""
"""Where nobody looks at what is found by many draws."""


def call(*arguments):
    """Exit code, stdout, stderr."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main([str(argument) for argument in arguments])
    return code, out.getvalue(), err.getvalue()


def rows_of(path):
    with path.open() as stream:
        return list(csv.DictReader(stream))


class Commands(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        call("demo-data", cls.folder)
        cls.data = cls.folder / "intake-nir.csv"
        cls.recipe = cls.folder / "r.toml"
        cls.recipe.write_text('[[treat]]\nmethod = "snv"\n[model]\ncomponents = 3\n')
        cls.out = cls.folder / "out"
        cls.code, cls.said, _ = call(
            "fit", cls.data, "--recipe", cls.recipe, "--replicate", "lot", "--class", "year", "--full",
            "--out", cls.out,
        )  # fmt: skip
        cls.summary = json.loads((cls.out / "summary.json").read_text())

    def test_fit_writes_every_file_and_says_which(self):
        self.assertEqual(self.code, 0)
        names = [
            "summary.json",
            "scores.csv",
            "loadings.csv",
            "distances.csv",
            "model.json",
            "treated.csv",
            "residuals.csv",
        ]
        self.assertEqual([Path(line).name for line in self.said.split()], names)

    def test_the_command_of_the_readme_takes_names_from_where_it_is_called(self):
        run = Path(__file__).parents[2] / "run"
        called = subprocess.run(
            ["sh", run, "cli", "treat", self.data.name, "--recipe", "r.toml", "--out", "t.csv"],
            cwd=self.folder,
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual((called.returncode, called.stderr), (0, ""))
        self.assertTrue((self.folder / "t.csv").exists())

    def test_figures_agree_with_a_fit_by_hand(self):
        with self.data.open() as stream:
            header, *lines = list(csv.reader(stream))
        start = header.index("1100")
        x = np.array([[float(cell or "nan") for cell in line[start:]] for line in lines])
        x = x[~np.isnan(x).any(axis=1)]
        varies = x.std(axis=0) > 0  # the others take part in the treatments as measured, not in the model
        x = (x - x.mean(axis=1, keepdims=True)) / x.std(axis=1, ddof=1, keepdims=True)
        z = (x - x.mean(axis=0))[:, varies]
        eigenvalues = np.linalg.eigvalsh(z @ z.T)[::-1] / (len(z) - 1)
        np.testing.assert_allclose(self.summary["eigenvalues"][:6], eigenvalues[:6], rtol=1e-9)
        self.assertAlmostEqual(self.summary["total_variance"], (z**2).sum() / (len(z) - 1), places=9)
        residuals = np.array(
            [
                [float(v) for k, v in row.items() if k != "sample"]
                for row in rows_of(self.out / "residuals.csv")
            ]
        )
        q = [float(row["q"]) for row in rows_of(self.out / "distances.csv")]
        np.testing.assert_allclose((residuals**2).sum(axis=1), q, rtol=1e-9)

    def test_summary_has_every_key(self):
        for key in (
            "samples", "variables", "rank", "components", "engine", "total_variance", "eigenvalues",
            "explained", "explained_cumulative", "q2", "press", "validation", "t2_limit", "q_limit",
            "joint", "evidence", "left_out", "gaps", "warnings", "seconds_fit",
        ):  # fmt: skip
            self.assertIn(key, self.summary)
        self.assertEqual(set(self.summary["evidence"]), set(KEYS))
        self.assertEqual(len(self.summary["eigenvalues"]), self.summary["rank"])
        self.assertEqual(self.summary["components"], 3)
        self.assertEqual(self.summary["samples"], 143)

    def test_validation_is_in_the_summary(self):
        q2, press = self.summary["q2"], self.summary["press"]
        self.assertEqual(self.summary["validation"] | {"seed": 1}, {
            "scheme": "random", "segments": 7, "repeats": 1, "seed": 1, "block": 35,
        })  # fmt: skip
        self.assertGreater(q2[2], q2[0])
        self.assertLess(q2[2], self.summary["explained_cumulative"][2])
        self.assertEqual(self.summary["evidence"]["lowest-press"], int(np.argmin(press)) + 1)

    def test_engines_give_the_same_figures(self):
        quick = self.folder / "engines.toml"
        quick.write_text(self.recipe.read_text() + QUICK)
        for engine in ("exact", "gram", "nipals", "randomised"):
            out = self.folder / engine
            code, _, err = call("fit", self.data, "--recipe", quick, "--engine", engine, "--out", out)
            self.assertEqual((code, err), (0, ""))
            summary = json.loads((out / "summary.json").read_text())
            self.assertEqual(summary["engine"], engine)
            np.testing.assert_allclose(summary["eigenvalues"][:3], self.summary["eigenvalues"][:3], rtol=1e-7)
            self.assertAlmostEqual(
                summary["q_limit"]["value"] / self.summary["q_limit"]["value"], 1, places=6
            )

    def test_gap_policies(self):
        quick = self.folder / "gaps.toml"
        quick.write_text("[model]\ncomponents = 3\n" + QUICK)
        for policy, samples in (("fill-mean", 144), ("fill-median", 144), ("nipals", 144), ("em", 144)):
            with self.subTest(policy):
                out = self.folder / policy
                code, _, err = call("fit", self.data, "--recipe", quick, "--gaps", policy, "--out", out)
                self.assertEqual((code, err), (0, ""))
                summary = json.loads((out / "summary.json").read_text())
                self.assertEqual(summary["samples"], samples)
                self.assertEqual(summary["gaps"]["samples"], ["L06-1"])

    def test_apply_to_the_training_samples_gives_their_scores_back(self):
        out = self.folder / "applied"
        code, said, err = call(
            "apply", self.out / "model.json", self.data, "--out", out, "--limits", "fitted"
        )
        self.assertEqual((code, err), (0, ""))
        self.assertEqual(
            [Path(line).name for line in said.split()], ["scores.csv", "distances.csv", "summary.json"]
        )
        for name, columns in (("scores.csv", ("PC1", "PC3")), ("distances.csv", ("t2", "q", "joint"))):
            was = {row["sample"]: row for row in rows_of(self.out / name)}
            now = {row["sample"]: row for row in rows_of(out / name)}
            self.assertEqual(set(was), set(now))
            for sample in was:
                for column in columns:
                    self.assertAlmostEqual(float(now[sample][column]), float(was[sample][column]), places=8)
        summary = json.loads((out / "summary.json").read_text())
        self.assertEqual(summary["t2_limit"]["method"], "f")
        self.assertGreater(summary["t2_limit"]["value"], self.summary["t2_limit"]["value"])
        self.assertEqual(summary["left_out"]["samples"][0]["sample"], "L06-1")

    def test_apply_from_a_study(self):
        study = self.folder / "kept.scutch"
        call("fit", self.data, "--recipe", self.recipe, "--out", self.folder / "k", "--study", study)
        code, _, err = call("apply", study, self.data, "--out", self.folder / "k2")
        self.assertEqual((code, err), (0, ""))
        self.assertEqual(rows_of(self.folder / "k" / "scores.csv")[0]["PC1"][:12],
                         rows_of(self.folder / "k2" / "scores.csv")[0]["PC1"][:12])  # fmt: skip

    def test_report_as_html_and_pdf(self):
        study, quick = self.folder / "told.scutch", self.folder / "quick.toml"
        quick.write_text(self.recipe.read_text() + QUICK)
        call("fit", self.data, "--recipe", quick, "--out", self.folder / "t", "--study", study)
        for name in ("told.html", "told.pdf"):
            code, said, err = call("report", study, "--out", self.folder / name)
            self.assertEqual((code, err, said.strip()), (0, "", str(self.folder / name)))
            opened = Study.open(study)  # on paper only the recipe: how pages are laid out has its own tests
            opened.do(only_sections("recipe"))
            opened.close()
        text = (self.folder / "told.html").read_text()
        for words in ("143 samples × 700 variables", "L06-1", "gaps: 10 of 700", "broken stick", "snv"):
            self.assertIn(words, text)
        self.assertGreaterEqual(text.count("<figure>"), 9)
        self.assertEqual(text.count("<figure>"), text.count("<figcaption>"))
        self.assertNotIn("http-equiv", text)
        self.assertTrue((self.folder / "told.pdf").read_bytes().startswith(b"%PDF"))
        code, _, err = call("report", study, "--out", self.folder / "told.doc")
        self.assertEqual((code, err.count("\n")), (1, 1))

    def test_treat_writes_the_treated_channels_under_their_new_headers(self):
        recipe = self.folder / "treat.toml"
        recipe.write_text('[[treat]]\nmethod = "bin-equal"\nwidth = 8.0\n')
        out = self.folder / "treated.csv"
        code, said, _ = call("treat", self.data, "--recipe", recipe, "--out", out)
        self.assertEqual(code, 0)
        self.assertEqual(said.splitlines(), [str(out), "left out: L06-1 (gaps: 10 of 700 variables)"])
        rows = rows_of(out)
        self.assertEqual(list(rows[0])[:3], ["sample", "1103", "1111"])
        self.assertEqual(len(rows), 143)
        raw = rows_of(self.data)[0]
        mean = np.mean([float(raw[str(channel)]) for channel in (1100, 1102, 1104, 1106)])
        self.assertAlmostEqual(float(rows[0]["1103"]), mean)

    def test_left_out_are_named_with_reasons(self):
        left_out = self.summary["left_out"]
        self.assertEqual([entry["variable"] for entry in left_out["variables"]], ["1318", "1866"])
        self.assertEqual(
            {entry["reason"] for entry in left_out["variables"]}, {"constant: the same value in every sample"}
        )
        self.assertEqual((self.summary["variables"], self.summary["variables_used"]), (700, 698))
        self.assertEqual(left_out["samples"], [{"sample": "L06-1", "reason": "gaps: 10 of 700 variables"}])

    def test_loadings_have_a_row_of_zeros_for_a_constant_variable(self):
        rows = {row["variable"]: row for row in rows_of(self.out / "loadings.csv")}
        self.assertEqual(len(rows), 700)
        self.assertEqual([float(rows["1318"][f"PC{a}"]) for a in (1, 2, 3)], [0.0, 0.0, 0.0])

    def test_scores_carry_classes_and_properties(self):
        rows = rows_of(self.out / "scores.csv")
        self.assertEqual(
            list(rows[0]),
            ["sample", "year", "retting", "field", "moisture / %", "fineness / tex", "time / min"]
            + [f"PC{a}" for a in (1, 2, 3)],
        )
        self.assertEqual(len(rows), 143)

    def test_flags_follow_the_limits(self):
        limits = {"t2": self.summary["t2_limit"]["value"], "q": self.summary["q_limit"]["value"]}
        limits["joint"] = self.summary["joint"]["limit"]
        for row in rows_of(self.out / "distances.csv"):
            for name, limit in limits.items():
                self.assertEqual(row[f"{name}_past"], "yes" if float(row[name]) > limit else "no")

    def test_mixed_variables_are_scaled_to_sd_by_default(self):
        path = self.folder / "bench.csv"
        path.write_text("id,lignin,moisture\na,1,100\nb,2,300\nc,4,250\nd,3,120\n")
        self.assertEqual(call("fit", path, "--out", self.folder / "m")[0], 0)
        summary = json.loads((self.folder / "m" / "summary.json").read_text())
        self.assertEqual((summary["scale"], summary["scale_default"]), ("sd", True))
        self.assertAlmostEqual(summary["total_variance"], 2.0)
        self.assertIn("the default for a table of mixed variables", summary["warnings"][0])

    def test_unusable_data_are_one_line_and_exit_1(self):
        bad = self.folder / "bad.csv"
        bad.write_text("id,1,2\na,1,2\nb,1\n")
        flat = self.folder / "flat.csv"
        flat.write_text("id,1,2\na,1,2\nb,1,2\n")
        (self.folder / "small.csv").write_text("id,1100,1102\na,1,2\nb,2,1\n")
        (self.folder / "wide.toml").write_text('[[treat]]\nmethod = "savitzky-golay"\nwindow = 998\n')
        single = self.folder / "single.csv"
        single.write_text("id,1,2\na,1,2\n")
        for arguments in (
            ("fit", bad, "--out", self.folder / "x"),
            ("fit", flat, "--out", self.folder / "x"),
            ("fit", single, "--out", self.folder / "x"),
            ("fit", self.folder / "none.csv", "--out", self.folder / "x"),
            ("fit", self.data, "--components", "500", "--out", self.folder / "x"),
            ("fit", self.data, "--recipe", bad, "--out", self.folder / "x"),
            ("fit", self.data, "--out", self.data),
            ("apply", bad, self.data, "--out", self.folder / "x"),
            ("apply", self.out / "summary.json", self.data, "--out", self.folder / "x"),
            ("apply", self.out / "model.json", self.folder / "small.csv", "--out", self.folder / "x"),
            ("treat", self.data, "--recipe", self.folder / "none.toml", "--out", self.folder / "x"),
            ("treat", self.data, "--recipe", self.folder / "wide.toml", "--out", self.folder / "x"),
            ("treatments", "snw"),
            ("demo-data", self.data / "x"),
        ):
            with self.subTest(arguments=arguments):
                code, out, err = call(*arguments)
                self.assertEqual((code, out), (1, ""))
                self.assertEqual(err.count("\n"), 1)
                self.assertTrue(err.startswith("scutcher: "))
                self.assertNotIn("Traceback", err)
                self.assertFalse((self.folder / "x").exists())

    def test_wrong_calls_are_exit_2(self):
        for arguments in (("fit",), ("nothing",), ("fit", self.data, "--out", "x", "--components", "0")):
            with self.subTest(arguments=arguments):
                self.assertEqual(call(*arguments)[0], 2)

    def test_demo_without_a_display_writes_pictures_tables_and_a_summary(self):
        folder = self.folder / "pictures"
        few = recipe_from_plain(tomllib.loads(QUICK))
        demo = replace(demo_recipe(), evidence=few.evidence, groups=few.groups, validate=few.validate)
        with mock.patch("scutcher.demo.sets.demo_recipe", return_value=demo):
            code, out, _ = call("demo", "--pictures", folder)
        self.assertEqual(code, 0)
        self.assertIn("treatments: snv; centre mean, scale none", out)
        self.assertIn("Q past its 95 % limit", out)
        names = {path.name for path in folder.iterdir()}
        self.assertLessEqual(
            {"inspect.png", "samples.png", "scores.csv", "loadings.csv", "summary.txt", "summary.json"}, names
        )
        for path in folder.glob("*.png"):
            self.assertEqual(path.read_bytes()[:8], b"\x89PNG\r\n\x1a\n")
            self.assertEqual(struct.unpack(">II", path.read_bytes()[16:24]), (1280, 800))
        self.assertEqual(call("demo", "nothing", "--pictures", folder)[0], 1)

    def test_install_writes_entry_icon_and_type(self):
        home = self.folder / "share"
        with mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(home)}):
            code, out, _ = call("install")
        self.assertEqual(code, 0)
        entry = (home / "applications" / "scutcher.desktop").read_text()
        self.assertIn("MimeType=application/x-scutcher-study", entry)
        command = entry.split('Exec="')[1].split('"')[0]
        self.assertTrue(Path(command).exists())
        for path in out.split():
            self.assertTrue(Path(path).exists())
        ElementTree.parse(home / "mime" / "packages" / "scutcher.xml")
        ElementTree.parse(home / "icons" / "hicolor" / "scalable" / "apps" / "scutcher.svg")

    def test_lists(self):
        code, out, _ = call("treatments", "snv")
        self.assertEqual(code, 0)
        self.assertIn("Barnes, Dhanoa & Lister", out)
        self.assertIn("snv", call("treatments")[1])
        listed = call("formats")[1]
        self.assertIn(".csv", listed)
        self.assertEqual(
            len({line.index("  read") for line in listed.splitlines() if line[:1] != "E"}), 1
        )  # one column
        self.assertEqual(call("--version")[0], 0)
