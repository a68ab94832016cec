"""`scutcher groups`: every file against figures by hand, and what is refused."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from tests.cli.test_commands import call, rows_of


def write_lots(path, n=48, p=15, classes=("ash", "birch", "cedar"), seed=2):
    """Lots of two scans in three classes."""
    rng = np.random.default_rng(seed)
    codes = np.repeat(np.arange(n // 2) % 3, 2)
    values = (1.5 * rng.normal(size=(3, p)))[codes] + np.repeat(rng.normal(size=(n // 2, p)), 2, axis=0)
    values += 0.1 * rng.normal(size=(n, p))
    lines = ["sample,lot,wood," + ",".join(str(1000 + 10 * c) for c in range(p))]
    for row in range(n):
        figures = ",".join(f"{v:.8f}" for v in values[row])
        lines.append(f"s{row},lot{row // 2},{classes[codes[row]]},{figures}")
    path.write_text("\n".join(lines) + "\n")
    return np.round(values, 8), codes


class Groups(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        cls.data, cls.out = cls.folder / "wood.csv", cls.folder / "out"
        cls.values, cls.codes = write_lots(cls.data)
        cls.common = (cls.data, "--class", "wood", "--replicate", "lot", "--components", "3")
        cls.code, cls.said, cls.err = call("groups", *cls.common, "--out", cls.out)
        cls.summary = json.loads((cls.out / "summary.json").read_text())

    def test_every_file(self):
        self.assertEqual((self.code, self.err), (0, ""))
        names = {Path(line).name for line in self.said.split()}
        wanted = {
            "assignments.csv",
            "mixups.csv",
            "centres.csv",
            "differences.csv",
            "ratios.csv",
            "summary.json",
        }
        self.assertEqual(names, wanted)

    def test_distances_between_centres_by_hand(self):
        z = self.values - self.values.mean(axis=0)
        t = z @ np.linalg.svd(z, full_matrices=False)[2][:3].T
        middles = np.array([t[self.codes == c].mean(axis=0) for c in range(3)])
        away = t - middles[self.codes]
        inverse = np.linalg.inv(away.T @ away / (48 - 3))
        way = middles[0] - middles[2]
        rows = rows_of(self.out / "centres.csv")
        self.assertEqual(list(rows[0]), ["class", "ash", "birch", "cedar"])
        self.assertAlmostEqual(float(rows[0]["cedar"]), np.sqrt(way @ inverse @ way), places=8)

    def test_assignments_mix_ups_and_shares_agree(self):
        rows = rows_of(self.out / "assignments.csv")
        self.assertEqual(list(rows[0]), ["sample", "class", "assigned", "right"])
        right = [row["right"] == "yes" for row in rows]
        self.assertEqual(right, [row["class"] == row["assigned"] for row in rows])
        self.assertAlmostEqual(self.summary["share_right"], np.mean(right))
        mixed = rows_of(self.out / "mixups.csv")
        self.assertEqual(sum(float(row[row["class"]]) for row in mixed), sum(right))
        self.assertEqual(sum(float(v) for row in mixed for k, v in row.items() if k != "class"), 48)

    def test_summary(self):
        for key in ("classes", "components", "method", "share_right", "guessing", "by_components", "p_value",
                    "doubtful"):  # fmt: skip
            self.assertIn(key, self.summary)
        self.assertEqual(self.summary["classes"], ["ash", "birch", "cedar"])
        self.assertEqual((self.summary["components"], self.summary["method"]), (3, "nearest-centre"))
        self.assertAlmostEqual(self.summary["guessing"], 1 / 3)
        self.assertAlmostEqual(self.summary["by_components"][2], self.summary["share_right"])
        self.assertLess(self.summary["p_value"], 0.02)

    def test_differences_by_hand(self):
        rows = rows_of(self.out / "differences.csv")
        wanted = self.values[self.codes == 0].mean(axis=0) - self.values[self.codes == 1].mean(axis=0)
        np.testing.assert_allclose([float(row["ash − birch"]) for row in rows], wanted, atol=1e-12)
        for row in rows:
            self.assertLess(float(row["ash − birch low"]), float(row["ash − birch"]))
            self.assertGreater(float(row["ash − birch high"]), float(row["ash − birch"]))

    def test_other_methods_repeats_and_the_recipe(self):
        recipe = self.folder / "r.toml"
        method = '[groups]\nmethod = "nearest-neighbours"\nneighbours = 3\npermutations = 29\n'
        recipe.write_text(f"{method}[validate]\nrepeats = 2\n")
        out = self.folder / "knn"
        code, _, err = call("groups", *self.common, "--recipe", recipe, "--out", out)
        self.assertEqual((code, err), (0, ""))
        found = json.loads((out / "summary.json").read_text())
        self.assertEqual((found["method"], found["neighbours"]), ("nearest-neighbours", 3))
        self.assertEqual(found["distance"], "scores")
        self.assertAlmostEqual(found["p_value"] * 30, round(found["p_value"] * 30))
        call("groups", *self.common, "--recipe", recipe, "--method", "discriminant", "--out", out)
        self.assertEqual(json.loads((out / "summary.json").read_text())["method"], "discriminant")

    def refused(self, *arguments):
        code, _, err = call("groups", *arguments, "--out", self.folder / "none")
        self.assertEqual(code, 1)
        self.assertEqual(err.count("\n"), 1)
        return err

    def test_what_cannot_be_told_apart_is_refused(self):
        bare = self.folder / "bare.csv"
        bare.write_text("sample,1,2,3\n" + "\n".join(f"a{r},{r},{r * r},{r % 3}" for r in range(8)) + "\n")
        self.assertIn("has no class column", self.refused(bare))
        self.assertIn("wood", self.refused(self.data, "--class", "metal"))
        one = self.folder / "one.csv"
        one.write_text(
            "sample,kind,1,2,3\n" + "\n".join(f"a{r},x,{r},{r * r},{r % 3}" for r in range(8)) + "\n"
        )
        self.assertIn("1 class has two", self.refused(one, "--class", "kind"))

    def test_a_class_of_one_is_named(self):
        lone = self.folder / "lone.csv"
        text = (
            self.data.read_text().replace("s0,lot0,ash", "s0,lot0,yew").replace("s1,lot0,ash", "s1,lot0,yew")
        )
        lone.write_text(text)
        out = self.folder / "lone"
        code, _, _ = call("groups", lone, "--class", "wood", "--replicate", "lot", "--out", out)
        found = json.loads((out / "summary.json").read_text())
        self.assertEqual((code, found["not_judged"], found["judged"]), (0, ["yew"], 46))
        self.assertEqual(rows_of(out / "assignments.csv")[0]["assigned"], "")


if __name__ == "__main__":
    unittest.main()
