"""What charts of several tables say, as data: shares, consensus, cells, the sentence, the report."""

import unittest

import numpy as np

from scutcher.charts.blocks.check import broken_pattern, check_chart, score_columns
from scutcher.charts.blocks.consensus import cell, consensus, pairs_of
from scutcher.charts.blocks.finding import finding
from scutcher.charts.blocks.shares import numbers, share_bars
from scutcher.charts.blocks.tables import apart_rows, loading_strip, outside_rows, why_strip
from scutcher.charts.report.blocks import blocks_section
from scutcher.core.blocks.matching import BlockSource, match
from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import ModelError
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import ScaleSettings
from scutcher.demo.sets import demo_set
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.blocks import BlocksBy
from scutcher.study.document.state import has_several_tables
from scutcher.study.evaluation.blocks import (
    checked_blocks,
    fitted_blocks,
    key_of,
    rows_of,
    source_of,
)
from scutcher.study.storage.plain_state import state_from_plain, state_to_plain
from tests.core.making import ordered_table, random_spectra


class ThreeTables(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.study = demo_study("three-tables")
        cls.addClassCleanup(cls.study.close)
        cls.state = cls.study.state
        cls.fitted = fitted_blocks(cls.state)
        cls.checked = checked_blocks(cls.state, cls.fitted)
        cls.none = np.full(48, -1, dtype=np.intp)

    def test_a_shared_piece_says_how_sure_it_is(self):
        first = self.fitted.model.components[0]
        bars = share_bars(self.fitted, self.checked, False)
        said = next(piece.said for piece in bars[0].pieces if piece.kind == "common")
        held = self.checked.held_of(first)
        self.assertIn(f"{held.agreement:.2f} on samples left out", said)
        self.assertIn(f"found in {held.segments} of {held.of} segments", said)
        self.assertIn(f"p {self.checked.p_of(first):.3f}", said)
        self.assertTrue(all("agreement" not in piece.said for piece in bars[0].pieces if piece.kind == "own"))
        self.assertNotIn("agreement", share_bars(self.fitted, None, False)[0].pieces[0].said)

    def test_bars_add_up_to_the_whole(self):
        for bar in share_bars(self.fitted, self.checked, False):
            self.assertAlmostEqual(sum(piece.share for piece in bar.pieces), 1.0, places=9)
        header, rows = numbers(share_bars(self.fitted, self.checked, True))
        self.assertEqual(header, ["table", "component", "kind", "share"])
        self.assertEqual(len(rows), 6)

    def test_the_plane_is_in_standard_deviations(self):
        pair = pairs_of(self.fitted)[:2]
        chart = consensus(self.fitted, self.checked, pair, self.none, self.none, "all")
        self.assertAlmostEqual(float(np.std(chart.marks.x, ddof=1)), 1.0, places=6)
        spoke = next(curve for curve in chart.curves if curve.role == "quiet")
        self.assertEqual(len(spoke.x), 3 * 48)
        plain = consensus(self.fitted, self.checked, pair, self.none, self.none, "none")
        self.assertEqual(plain.curves, ())

    def test_scores_against_scores(self):
        chart, columns = check_chart(self.fitted), score_columns(self.fitted)
        np.testing.assert_allclose(np.diag(chart.grid.values), 1.0, atol=1e-9)
        self.assertEqual(chart.tick_names[:3], ("C1 drying-curves", "C1 bench", "C1 intake-nir"))
        for broken in broken_pattern(self.fitted):
            self.assertNotEqual(columns[broken.one].block, columns[broken.other].block)
        one = cell(self.fitted, ("a", columns[0].values), ("b", columns[1].values), self.none, self.none)
        self.assertIn("r 0.9", one.note)

    def test_who_does_not_fit_and_why(self):
        planted = next(iter(demo_set("bench")[1]["values_of_another_lot"]))
        first = apart_rows(self.fitted, self.checked)[0]
        self.assertEqual((first[0], first[3]), (planted, "bench"))
        one = self.checked.apart[0]
        chart = why_strip(self.fitted, 1, one.row, one.component)
        away = float(chart.lines.ys.sum())
        self.assertIn(f"{away:.2f}".replace("-", "−"), chart.note)
        own = next(place for place, c in enumerate(self.fitted.model.components) if c.blocks == (2,))
        self.assertTrue(why_strip(self.fitted, 1, 0, own).is_blank)
        self.assertTrue(loading_strip(self.fitted, 0, (own, own)).is_blank)

    def test_outside_columns_and_the_sentence(self):
        header, rows = outside_rows(self.fitted, self.checked)
        self.assertEqual(rows[0][0], "run order")
        self.assertEqual(header[1:3], ["C1", "C2"])
        moisture = next(row for row in rows if row[0] == "moisture / %")
        self.assertTrue(str(moisture[1]).endswith("*"))
        rows = [own.tolist() for own in rows_of(self.state, self.fitted)]
        pieces = finding(self.fitted, self.checked, rows)
        picked = next(own for _, own in pieces if own)
        self.assertEqual(len(picked), 3)  # the scans of the lot

    def test_the_report_has_it(self):
        parts = blocks_section(self.state)
        words = " ".join(getattr(part, "words", "") for part in parts)
        self.assertIn("common to all 3 tables", words)
        self.assertEqual(sum(type(part).__name__ == "Picture" for part in parts), 5)
        practice = demo_study("practice")
        self.addCleanup(practice.close)
        self.assertEqual(blocks_section(practice.state), [])

    def test_settings_are_commands_and_are_stored(self):
        settings = BlocksSettings(match="field", ranks=(("bench", 3),), without=("bench",))
        changed = BlocksBy(settings)
        self.assertIn("matched by field; bench in 3 components; without bench", changed.label(self.state))
        state = changed.apply(self.state)
        self.assertNotEqual(key_of(state), key_of(self.state))
        kept = {}

        def put(value):
            kept[f"k{len(kept)}"] = value
            return f"k{len(kept) - 1}"

        again = state_from_plain(state_to_plain(state, put, put), kept.__getitem__)
        self.assertEqual(again.blocks, settings)
        self.assertTrue(has_several_tables(state))


class Matching(unittest.TestCase):
    def source(self, name, ids, **more):
        values = random_spectra(len(ids), 20, len(name))
        table = ordered_table(values, **more)
        return BlockSource(name, table, tuple(ids), (), ScaleSettings())

    def test_repeats_are_averaged_and_what_is_missing_is_said(self):
        lots = [f"L{k}" for k in range(10)]
        one = self.source("one", [lot for lot in lots for _ in range(2)])
        other = self.source("other", [*lots[:9], "X"])
        found = match([one, other])
        self.assertEqual(found.ids, tuple(lots[:9]))
        self.assertEqual(found.only, {"L9": ("one",), "X": ("other",)})
        self.assertIn("9 samples in all 2 tables; 2 in some only", found.said())
        treated = found.treated(np.arange(9))
        means = one.table.values.reshape(10, 2, 20).mean(axis=1)[:9]
        np.testing.assert_allclose(treated[0].z, means - means.mean(axis=0), atol=1e-12)
        self.assertIn("a sample is the mean of its rows", found.said())
        pairs = one.table.values.reshape(10, 2, 20)[:9]
        for how, wanted in (("median", np.median(pairs, axis=1)), ("first", pairs[:, 0])):
            z = match([one, other], how).treated(np.arange(9))[0].z
            np.testing.assert_allclose(z, wanted - wanted.mean(axis=0), atol=1e-12)
        train, left = found.refit(np.arange(6), np.arange(6, 9))
        np.testing.assert_allclose(left[0], means[6:] - means[:6].mean(axis=0), atol=1e-12)
        self.assertEqual(train[1].shape, (6, 20))

    def test_too_few_are_refused(self):
        one = self.source("one", [f"a{k}" for k in range(9)])
        with self.assertRaisesRegex(ModelError, "one and other have 0 samples in common"):
            match([one, self.source("other", [f"b{k}" for k in range(9)])])

    def test_a_class_column_can_match(self):
        kinds = ClassColumn("lot", tuple("abcdefgh"))
        table = ordered_table(random_spectra(8, 20), classes=(kinds,))
        study = demo_study("practice")
        self.addCleanup(study.close)
        source = source_of(table, study.state.recipe, "t", "lot")
        self.assertEqual(source.keys, tuple("abcdefgh"))


if __name__ == "__main__":
    unittest.main()
