"""Hostile model files: every value replaced by junk ends in the right thing or one sentence."""

import contextlib
import copy
import io
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from scutcher.cli import main
from scutcher.files.content_seal import content_hash

JUNK = (None, True, -1, 0, 1e308, -1e-320, "x", [], {}, [None], ["a"], [1, 2], 10**400, [[1e308]], "\0")


def places(value, path=()):
    """Paths to every value, of lists the first two."""
    yield path
    if isinstance(value, dict):
        for key in value:
            yield from places(value[key], (*path, key))
    elif isinstance(value, list):
        for place in range(min(len(value), 2)):
            yield from places(value[place], (*path, place))


def changed(plain, path, value):
    """With one value in place of another; a missing one where it is `...`."""
    plain = copy.deepcopy(plain)
    inside = plain
    for step in path[:-1]:
        inside = inside[step]
    if value is ...:
        del inside[path[-1]]
    else:
        inside[path[-1]] = value
    return plain


class HostileModels(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(temporary.cleanup)
        cls.folder = Path(temporary.name)
        rng = np.random.default_rng(1)
        axis = np.arange(1000.0, 1032.0, 2.0)
        values = np.exp(-(((axis - 1016) / 6) ** 2)) * rng.uniform(0.5, 1.5, (14, 1)) + 0.3
        values += 0.01 * rng.normal(size=values.shape)
        lines = ["sample,kind," + ",".join(f"{place:g}" for place in axis)]
        for row, own in enumerate(values.tolist()):
            lines.append(f"s{row},{'ab'[row % 2]}," + ",".join(map(repr, own)))
        cls.data = cls.folder / "d.csv"
        cls.data.write_text("\n".join(lines))
        recipe = cls.folder / "r.toml"
        recipe.write_text('[[treat]]\nmethod = "msc"\n[model]\ncomponents = 2\n')
        cls.call("fit", cls.data, "--recipe", recipe, "--out", cls.folder / "pca")
        cls.call(
            "fit", cls.data, "--class", "kind", "--kind", "class-models", "--out", cls.folder / "classes"
        )
        cls.call("unmix", cls.data, "--number", "2", "--out", cls.folder / "shapes")

    @staticmethod
    def call(*arguments):
        out, error = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(error):
            code = main([str(one) for one in arguments])
        return code, error.getvalue().strip()

    def attack(self, kind, sealed):
        plain = json.loads((self.folder / kind / "model.json").read_text())
        if not sealed:
            plain.pop("sha256")
        path, tried = self.folder / "m.json", 0
        for place, at in enumerate(places(plain)):
            if not at or (sealed and place % 3):  # the hash is of all values alike
                continue
            for junk in ((JUNK[place // 2 % len(JUNK)], ...), (JUNK[(7 * place + 3) % len(JUNK)],))[
                place % 2
            ]:
                other = changed(plain, at, junk)
                if other == plain or at == ("sha256",):
                    continue
                path.write_text(json.dumps(other))
                code, said = self.call("apply", path, self.data, "--out", self.folder / "a")
                tried += 1
                if sealed:
                    self.assertEqual(code, 1, (at, junk))
                self.assertIn(code, (0, 1), (at, junk))
                if code:
                    self.assertEqual(len(said.splitlines()), 1, (at, junk, said))
        self.assertGreater(tried, 20 if sealed else 60)

    def test_changed_values_are_seen_by_the_hash(self):
        for kind in ("pca", "classes", "shapes"):
            with self.subTest(kind):
                self.attack(kind, True)

    def test_without_a_hash_they_are_refused_or_harmless(self):
        for kind in ("pca", "classes", "shapes"):
            with self.subTest(kind):
                self.attack(kind, False)

    def test_the_hash_does_not_depend_on_the_order(self):
        self.assertEqual(
            content_hash({"a": 1.5, "b": [1]}), content_hash({"b": [1], "a": 1.5, "sha256": "x"})
        )
        self.assertNotEqual(content_hash({"a": 1.5}), content_hash({"a": 1.25}))


class HostileRecipes(unittest.TestCase):
    def test_extreme_numbers_are_refused_before_anything_is_computed(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            np.save(folder / "d.npy", np.random.default_rng(1).normal(size=(12, 16)))
            for text in (
                '[[treat]]\nmethod = "resample"\nstep = 1e-320\n',
                '[[treat]]\nmethod = "dead-time"\ncounting_time = inf\n',
                '[[treat]]\nmethod = "bin-valleys"\nwidth = inf\n',
                "[validate]\nrepeats = 99999999999999999999\n",
                "[evidence]\npermutations = 99999999999999999999\n",
                "[scale]\nweights = [['x', 1e300]]\n",
                "[model]\ntolerance = nan\n",
                '[unmix]\n[[unmix.shapes]]\nname = "a"\nplaces = [1.0, 16.0]\nvalues = [inf, 1.0]\n',
                "[blocks]\nparts = [[[[[[[[[[[1]]]]]]]]]]]\n",
            ):
                (folder / "r.toml").write_text(text)
                out, recipe = folder / "out", folder / "r.toml"
                with self.subTest(text):
                    code, said = HostileModels.call("fit", folder / "d.npy", "--recipe", recipe, "--out", out)
                    self.assertEqual(code, 1)
                    self.assertEqual(len(said.splitlines()), 1, said)


if __name__ == "__main__":
    unittest.main()
