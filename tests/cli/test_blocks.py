"""`blocks` on the command line: the demo's planted lot, files, what is refused."""

import csv
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from scutcher.demo.sets import demo_set
from scutcher.files.writing import write_csv
from tests.cli.test_commands import call

SNV = '[[treat]]\nmethod = "snv"\n'
BENCH = '[scale]\nmethod = "sd"\n[model]\ngaps = "fill-mean"\n'


class Blocks(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.temporary.cleanup)
        cls.folder = Path(cls.temporary.name)
        cls.names = ("intake-nir", "bench", "drying-curves")
        for name in cls.names:
            write_csv(demo_set(name)[0], cls.folder / f"{name}.csv")
        for name, text in (("snv", SNV), ("bench", BENCH), ("none", "")):
            (cls.folder / f"{name}.toml").write_text(text)

    def files(self, *names):
        return [self.folder / f"{name}.csv" for name in names or self.names]

    def recipes(self):
        return [
            part for name in ("snv", "bench", "none") for part in ("--recipe", self.folder / f"{name}.toml")
        ]

    def test_the_lot_whose_bench_values_are_another_ones(self):
        out = self.folder / "out"
        code, printed, error = call("blocks", *self.files(), "--match", "lot", *self.recipes(), "--out", out)
        self.assertEqual((code, error), (0, ""))
        summary = json.loads((out / "summary.json").read_text())
        planted = next(iter(demo_set("bench")[1]["values_of_another_lot"]))
        first = summary["disagree"][0]
        self.assertEqual((first["sample"], first["named"]), (planted, "bench"))
        self.assertEqual(summary["samples"], 48)
        self.assertEqual(summary["components"]["common"], 2)
        for path in printed.split():
            self.assertTrue(Path(path).exists())
        with (out / "shares.csv").open() as stream:
            rows = list(csv.DictReader(stream))
        for name in self.names:
            total = sum(float(row["share"]) for row in rows if row["block"] == name)
            self.assertAlmostEqual(total, 1.0, places=9)
        with (out / "agreement.csv").open() as stream:
            common = next(csv.DictReader(stream))
        self.assertGreater(float(common["held_out"]), 0.5)
        self.assertGreaterEqual(int(common["back_in"]), 36)
        self.assertEqual(common["draws"], "40")
        shares = {one["name"]: one["predicted_from_others"] for one in summary["blocks"]}
        self.assertGreater(shares["drying-curves"], 0.8)
        with (out / "outside.csv").open() as stream:
            beside = [row for row in csv.DictReader(stream) if row["column"] == "moisture / %"]
        self.assertGreater(max(abs(float(row["value"])) for row in beside), 0.8)
        self.assertTrue((out / "loadings-bench.csv").exists())

    def test_new_samples_in_all_tables_or_some(self):
        out, new = self.folder / "made", self.folder / "new"
        call("blocks", *self.files(), "--match", "lot", *self.recipes(), "--repeats", "median", "--out", out)
        self.assertEqual(json.loads((out / "summary.json").read_text())["repeats"], "median")
        self.assertEqual(call("verify", out / "model.json")[0], 0)
        code, _, error = call("apply", out / "model.json", *self.files(), "--out", new)
        self.assertEqual((code, error), (0, ""))
        with (new / "consensus.csv").open() as stream:
            whole = {row["sample"]: row for row in csv.DictReader(stream)}
        self.assertEqual(len(whole), 48)
        self.assertEqual(whole["L05"]["measured in"], ";".join(self.names))
        summary = json.loads((new / "summary.json").read_text())
        planted = next(iter(demo_set("bench")[1]["values_of_another_lot"]))
        with (new / "disagree.csv").open() as stream:
            farthest = next(csv.DictReader(stream))
        self.assertEqual(farthest["sample"], planted)
        self.assertIn("bench", (farthest["block"], farthest["other block"]))
        self.assertEqual(summary["made"]["files"][0]["name"], "model.json")
        self.assertEqual(call("apply", out / "model.json", *self.files("bench"), "--out", new)[0], 0)
        with (new / "consensus.csv").open() as stream:
            alone = {row["sample"]: row for row in csv.DictReader(stream)}
        self.assertEqual(alone["L05"]["measured in"], "bench")
        pairs = [(float(alone[name]["common 1"]), float(whole[name]["common 1"])) for name in alone]
        self.assertGreater(np.corrcoef(np.array(pairs).T)[0, 1], 0.9)
        self.assertEqual(alone["L05"]["only intake-nir 1"], "")
        code, _, error = call("apply", out / "model.json", *self.files("bench", "bench"), "--out", new)
        self.assertEqual((code, error.count("\n")), (1, 1))
        self.assertIn("Two files are of the table bench", error)
        self.assertTrue((out / "block-scores.csv").exists())

    def test_one_table_cut_into_blocks(self):
        recipe = self.folder / "cut.toml"
        recipe.write_text(
            SNV
            + '[[blocks.parts]]\nname = "short"\nlast = 1700\n[[blocks.parts]]\nname = "long"\nfirst = 1702\n'
        )
        out = self.folder / "cut"
        code, _, error = call(
            "blocks", self.files("intake-nir")[0], "--match", "lot", "--recipe", recipe, "--out", out
        )
        self.assertEqual((code, error), (0, ""))
        summary = json.loads((out / "summary.json").read_text())
        self.assertEqual([block["name"] for block in summary["blocks"]], ["short", "long"])
        self.assertGreater(summary["components"]["common"], 0)

    def test_refused_in_one_line(self):
        for given, said in (
            ([self.files("bench")[0]], "Two to five"),
            ([*self.files("bench", "drying-curves"), "--rank", "bench=99"], "NAME=K"),
            ([*self.files("bench", "drying-curves"), "--rank", "bench=20"], "components of bench"),
            ([self.files("bench")[0], self.files("bench")[0]], "Two tables are called bench"),
        ):
            with self.subTest(said):
                code, _, error = call(
                    "blocks", *given, "--recipe", self.folder / "bench.toml", "--out", self.folder / "no"
                )
                self.assertEqual(code, 1)
                self.assertIn(said, error)
                self.assertEqual(len(error.strip().splitlines()), 1, error)

    def test_samples_that_some_tables_lack_are_placed_and_predicted(self):
        bench = demo_set("bench")[0]
        rows = np.array([row for row, name in enumerate(bench.ids) if name not in ("L05", "L20")])
        less = self.folder / "less" / "bench.csv"
        less.parent.mkdir()
        write_csv(bench.take(rows), less)
        files = [*self.files("intake-nir"), less, *self.files("drying-curves")]
        decided = self.folder / "decided.toml"
        decided.write_text(f'{SNV}[blocks]\ncounts = [[["intake-nir", "bench", "drying-curves"], 1]]\n')
        recipes = ["--recipe", decided, *self.recipes()[2:]]
        out = self.folder / "some"
        code, _, error = call("blocks", *files, "--match", "lot", *recipes, "--out", out)
        self.assertEqual((code, error), (0, ""))
        summary = json.loads((out / "summary.json").read_text())
        self.assertEqual(summary["components"]["common"], 1)  # as decided
        self.assertEqual(summary["decided"][0]["components"], 1)
        with (out / "incomplete.csv").open() as stream:
            rows = list(csv.DictReader(stream))
        self.assertEqual([row["sample"] for row in rows], ["L05", "L20"])
        self.assertEqual(rows[0]["measured in"], "intake-nir;drying-curves")
        with (out / "predicted-bench.csv").open() as stream:
            predicted = list(csv.DictReader(stream))
        self.assertEqual([row["sample"] for row in predicted], ["L05", "L20"])
        measured = bench.values[bench.ids.index("L20"), bench.axis.labels.index("fineness / tex")]
        spread = np.nanstd(bench.values[:, bench.axis.labels.index("fineness / tex")])
        self.assertLess(abs(float(predicted[1]["fineness / tex"]) - measured), spread)


if __name__ == "__main__":
    unittest.main()
