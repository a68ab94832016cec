"""New samples on several tables: those that made the model, some tables only, and who disagrees."""

import json
import unittest
from dataclasses import replace

import numpy as np

from scutcher.core.blocks.projection import on_blocks
from scutcher.core.blocks.saved_blocks import saved_blocks
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError, InputError
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.files.blocks_json import write_blocks_model
from scutcher.files.class_models_json import read_any_model
from scutcher.files.content_seal import sealed
from scutcher.study.evaluation.blocks import fitted_sources, source_of
from tests.folder import InFolder

NAMES, SIZES = ("nir", "bench", "curves"), (60, 8, 40)
WAYS = [np.random.default_rng(9).normal(size=(4, size)) for size in SIZES]


def tables(n, seed, first=0):
    """Two common directions, one of the first table alone, and noise."""
    rng = np.random.default_rng(seed)
    hidden, own = rng.normal(size=(n, 2)), rng.normal(size=(n, 1))
    found = []
    for name, size, ways in zip(NAMES, SIZES, WAYS, strict=True):
        values = 5.0 + hidden @ ways[:2] + (own @ ways[2:3] if name == "nir" else 0.0)
        values = values + 0.2 * rng.normal(size=values.shape)
        positions = None if name == "bench" else np.arange(1000.0, 1000.0 + size)
        axis = Axis(tuple(f"v{place}" for place in range(size)), positions)
        found.append(Table(values, axis, tuple(f"s{first + row}" for row in range(n)), name=name))
    return found


class NewSamples(InFolder):
    @classmethod
    def setUpClass(cls):
        cls.old = tables(60, 1)
        plain = ({"treat": [{"method": "gaussian-smooth"}]}, {"scale": {"method": "sd"}}, {})
        sources = [
            source_of(table, recipe_from_plain(own), table.name)
            for table, own in zip(cls.old, plain, strict=True)
        ]
        cls.fitted = fitted_sources(sources, BlocksSettings())
        cls.model = saved_blocks(cls.fitted)

    def given(self, some, *names):
        return {table.name: table for table in some if not names or table.name in names}

    def test_those_that_made_it_come_back(self):
        found = on_blocks(self.model, self.given(self.old))
        self.assertEqual(found.ids, self.fitted.matched.ids)
        for one in self.fitted.model.components:
            label = self.fitted.label(one)
            if len(one.blocks) > 1:
                place = found.labels.index(label)
                np.testing.assert_allclose(found.scores[:, place], one.consensus, atol=0.05)
            for b in one.blocks:
                np.testing.assert_allclose(found.block_scores[(label, NAMES[b])], one.scores[b], atol=1e-9)

    def test_one_table_alone_says_nearly_the_same_of_new_samples(self):
        new = tables(200, 2, first=500)
        whole = on_blocks(self.model, self.given(new))
        common = [place for place, label in enumerate(whole.labels) if label.startswith("common")]
        self.assertEqual(len(common), 2)
        for name in NAMES:
            alone = on_blocks(self.model, self.given(new, name))
            self.assertEqual(alone.measured.sum(axis=1).tolist(), [1] * 200)
            for place in common:
                r = np.corrcoef(alone.scores[:, place], whole.scores[:, place])[0, 1]
                self.assertGreater(r, 0.95, name)
            lonely = [place for place, label in enumerate(alone.labels) if label.startswith("only nir")]
            unknown = np.isnan(alone.scores[:, lonely]).all()
            self.assertEqual(unknown, name != "nir")

    def test_samples_that_some_tables_lack(self):
        new = tables(20, 3, first=500)
        new[1] = new[1].take(np.arange(5, 15))
        found = on_blocks(self.model, self.given(new))
        self.assertEqual(found.measured[:, 1].tolist(), [5 <= row < 15 for row in range(20)])
        whole = on_blocks(self.model, self.given(tables(20, 3, first=500)))
        common = whole.labels.index("common 1")
        np.testing.assert_allclose(found.scores[5:15, common], whole.scores[5:15, common], atol=1e-12)
        self.assertTrue(np.isfinite(found.scores[:, common]).all())

    def test_the_one_whose_values_are_another_ones(self):
        new = tables(30, 4, first=500)
        scores = on_blocks(self.model, self.given(new)).scores[:, 0]
        one, two = int(scores.argmax()), int(scores.argmin())
        values = new[1].values.copy()
        values[one] = values[two]
        new[1] = new[1].with_values(values)
        found = on_blocks(self.model, self.given(new))
        past = {entry.sample for entry in found.apart if entry.past}
        self.assertEqual(past, {f"s{500 + one}"})
        self.assertTrue(all("bench" in entry.pair for entry in found.apart if entry.past))

    def test_few_new_samples_are_past_the_limit_by_chance(self):
        wrong = 0
        for seed in range(40):
            found = on_blocks(self.model, self.given(tables(25, 100 + seed, first=500)))
            wrong += any(entry.past for entry in found.apart)
        self.assertLessEqual(wrong, 7)  # 2 of 40 are due

    def test_repeats_are_averaged(self):
        new = tables(6, 5, first=500)
        twice = new[0].take(np.repeat(np.arange(6), 2))
        twice = replace(
            twice, ids=tuple(f"r{row}" for row in range(12)), replicates=tuple(np.repeat(new[0].ids, 2))
        )
        found, plain = (on_blocks(self.model, {"nir": table}) for table in (twice, new[0]))
        np.testing.assert_allclose(found.scores, plain.scores, atol=1e-12)

    def test_one_wild_scan_of_three_does_not_move_the_median_nor_the_first(self):
        new = tables(6, 5, first=500)[0]
        rows = np.repeat(np.arange(6), 3)
        values = new.values[rows]
        values[2::3] += 50.0
        ids = tuple(f"r{row}" for row in range(18))
        thrice = replace(new.take(rows).with_values(values), ids=ids, replicates=tuple(np.repeat(new.ids, 3)))
        plain = on_blocks(self.model, {"nir": new}).scores
        for how in ("median", "first"):
            found = on_blocks(replace(self.model, repeats=how), {"nir": thrice})
            np.testing.assert_allclose(found.scores, plain, atol=1e-12)
        self.assertGreater(np.nanmax(abs(on_blocks(self.model, {"nir": thrice}).scores - plain)), 1e-3)

    def test_the_way_through_a_file(self):
        path = self.folder / "model.json"
        write_blocks_model(path, replace(self.model, repeats="median"))
        new = self.given(tables(10, 6, first=500))
        again = read_any_model(path)
        self.assertEqual(again.repeats, "median")
        here, there = (on_blocks(model, new) for model in (self.model, again))
        np.testing.assert_array_equal(here.scores, there.scores)
        self.assertEqual(here.apart, there.apart)

    def test_damaged_files_are_refused(self):
        path = self.folder / "model.json"
        write_blocks_model(path, self.model)
        plain = json.loads(path.read_text())
        for change in (
            lambda p: p["blocks"].pop(), lambda p: p["sets"][0].update(blocks=[2, 1]),
            lambda p: p["sets"][0]["weights"].pop(), lambda p: p["blocks"][0].update(centre=[1.0]),
            lambda p: p.update(samples=-1), lambda p: p["blocks"][0].update(name=p["blocks"][1]["name"]),
            lambda p: p["sets"][0].update(seen=[[["x"]]]), lambda p: p.update(version=9),
        ):  # fmt: skip
            made = json.loads(json.dumps(plain))
            change(made)
            path.write_text(json.dumps(sealed({k: v for k, v in made.items() if k != "sha256"})))
            with self.assertRaises(FileError):
                read_any_model(path)

    def test_what_is_no_table_of_it(self):
        for given, words in (({}, "No table"), ({"pie": self.old[0]}, "no table 'pie'")):
            with self.assertRaisesRegex(InputError, words):
                on_blocks(self.model, given)
        with self.assertRaises(InputError):
            on_blocks(self.model, {"nir": self.old[1]})


if __name__ == "__main__":
    unittest.main()
