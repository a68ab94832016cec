"""What charts of series say, as data: true spacing, gaps, stretches, likeness, the sentence, the report."""

import unittest
from dataclasses import replace

import numpy as np

from scutcher.charts.along import along
from scutcher.charts.distances import run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.report.series import series_section
from scutcher.charts.series.difference import Stretch, compared, difference
from scutcher.charts.series.finding import finding
from scutcher.charts.series.pairs import best_rows, triangle
from scutcher.charts.series.picture import picture, true_places, waterfall
from scutcher.charts.series.shifts import shift_rows
from scutcher.charts.series.two_variables import two_variables
from scutcher.charts.series.windows import growing, moving, verdict_rows
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.layouts import GridLayout, SeriesLayout
from scutcher.core.data.series_order import gaps_in, guessed_layout, layout_of, series_order
from scutcher.core.recipes.recipe import ModelSettings, Recipe, recipe_from_plain
from scutcher.core.recipes.unmix_settings import Shape, UnmixSettings
from scutcher.core.series.likeness import Reference, drawn_peak
from scutcher.demo.sets import demo_set
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.orders import order_of
from scutcher.study.evaluation.series import mixture_of, series_of
from tests.core.making import mixed_table, ordered_table

STEP = {"method": "shift-to-peak", "position": 1386.0, "half_width": 10.0}


def drying(unmix=None):
    table, _ = demo_set("drying")
    treat = recipe_from_plain({"treat": [STEP]}).treat
    recipe = Recipe(treat=treat, model=ModelSettings(components=2), unmix=unmix or UnmixSettings())
    state = State.of("drying", table, recipe, "state")
    found = Evaluator().evaluate(table, recipe)
    return state, found, series_of(state, found)


def timed(positions, ordered=True, **more):
    rng = np.random.default_rng(3)
    n = len(positions)
    values = np.outer(np.linspace(1, 0, n), np.hanning(30)) + 0.01 * rng.normal(size=(n, 30))
    make = ordered_table if ordered else mixed_table
    return make(values, properties=(PropertyColumn("time", np.asarray(positions, float), "h"),), **more)


class Orders(unittest.TestCase):
    def test_what_columns_tell(self):
        self.assertEqual(guessed_layout(timed(np.arange(8.0))), SeriesLayout("time"))
        self.assertEqual(guessed_layout(timed(8.0 - np.arange(8.0))), SeriesLayout("time"))
        dated = timed(np.arange(8.0))
        measured = PropertyColumn("taken on", np.arange(8.0), "d since 2026-01-01")
        self.assertEqual(guessed_layout(replace(dated, properties=(measured,))), SeriesLayout("taken on"))
        mixed_up = timed([0, 2, 1, 3, 4, 5, 6, 7])
        self.assertIsNone(guessed_layout(mixed_up))
        repeated = timed(np.arange(8.0), replicates=tuple("aabbccdd"))
        self.assertIsNone(guessed_layout(repeated))
        self.assertIsNone(layout_of(timed(np.arange(8.0)), GridLayout(2, 4)))

    def test_several_series_and_missing_positions(self):
        kinds = ClassColumn("tank", tuple("abababab"))
        table = timed([0, 0, 2, 1, 1, np.nan, 3, 2], classes=(kinds,))
        order = series_order(table, SeriesLayout("time", "tank"))
        self.assertEqual(order.order.tolist(), [0, 4, 2, 6, 1, 3, 7])
        self.assertEqual(order.of(1).tolist(), [1, 3, 7])
        self.assertEqual(order.said(2), "2 h")
        gone = series_order(table, SeriesLayout("pressure"))
        self.assertEqual((gone.title, gone.order.tolist()), ("order", list(range(8))))

    def test_gaps(self):
        self.assertEqual(gaps_in(np.array([0.0, 1, 2, 3, 9, 10, 11])).tolist(), [3])
        self.assertEqual(len(gaps_in(np.arange(9.0))), 0)


class Pictures(unittest.TestCase):
    def test_uneven_steps_are_drawn_true_and_gaps_stay_empty(self):
        positions = np.array([0.0, 1, 2, 3, 4, 12, 13, 14, 16])
        places, rows = true_places(positions, 600)
        self.assertTrue((np.diff(places) > 0).all())
        self.assertEqual(rows[np.abs(places - 8.0).argmin()], -1)
        self.assertEqual(rows[np.abs(places - 15.9).argmin()], 8)
        shown = rows[rows >= 0]
        share = np.mean(shown == 1) / np.mean(shown == 8)
        self.assertLess(share, 2.0)
        state = State.of("t", timed(positions), Recipe(model=ModelSettings(components=2)))
        found = Evaluator().evaluate(state.table, state.recipe)
        chart = picture(series_of(state, found), "plain", 0)
        self.assertTrue(np.isnan(chart.grid.values).all(axis=1).any())

    def test_the_waterfall_is_lifted_by_time(self):
        state, _, series = drying()
        chart = waterfall(state, series)
        lifts = (chart.lines.ys - series.values).mean(axis=1)
        np.testing.assert_allclose(np.diff(lifts, 2), 0.0, atol=1e-9)

    def test_nothing_to_show(self):
        for chart in (
            picture(None, "plain", 0),
            difference(None, Stretch(0, 0), Stretch(1, 1), None, 1, ()),
            triangle(None, None, ""),
            growing(None, None, False),
            moving(None, 5, None),
        ):
            self.assertTrue(chart.is_blank)
            self.assertTrue(chart.empty)


class Differences(unittest.TestCase):
    def test_likeness_of_what_is_alike(self):
        _, _, series = drying()
        a, b = Stretch(0, 2), Stretch(28, 30)
        own = a.mean(series) - b.mean(series)
        reference = Reference(series.places, 3.0 * own + 0.2 + 1e-3 * series.places)
        found = compared(series, a, b, reference, 1, ())
        self.assertAlmostEqual(found.likeness, 1.0, places=9)
        np.testing.assert_allclose(found.laid_over, own, atol=1e-9)
        far = compared(series, a, b, drawn_peak(series.places, 1330.0, 5.0), 1, ())
        self.assertLess(abs(far.likeness), 0.3)
        short = Reference(np.array([1400.0, 1450.0, 1500.0]), np.array([0.0, 1.0, 0.0]))
        self.assertTrue(np.isnan(compared(series, a, b, short, 1, ()).laid_over[0]))

    def test_stretches_stay_inside(self):
        self.assertEqual(Stretch(29, 31).within(31), Stretch(28, 30))
        self.assertEqual(Stretch(-2, 0).within(31), Stretch(0, 2))
        self.assertEqual(Stretch(0, 9).within(4), Stretch(0, 3))


class Sentences(unittest.TestCase):
    def test_of_a_series_with_shapes(self):
        _, found, series = drying()
        ids = found.treated.ids
        how = UnmixSettings(
            shapes=(Shape(name="wet", samples=ids[:3]), Shape(name="dry", samples=ids[-3:])), rule="free"
        )
        mixture = mixture_of(found, series.order, how)
        pieces = finding(series, mixture, series.windows())
        words = "".join(text for text, _ in pieces)
        self.assertIn("From wet to dry: half at 52", words)
        self.assertIn("by 84 min a third change shows", words)
        rows = next(rows for text, rows in pieces if text.startswith("52"))
        self.assertEqual(len(rows), 1)

    def test_shapes_that_are_not_determined_are_called_so(self):
        _, found, series = drying()
        mixture = mixture_of(found, series.order, UnmixSettings(number=2))
        words = "".join(text for text, _ in finding(series, mixture, None))
        self.assertIn("2 shapes found and not determined, range 0.", words)
        self.assertNotIn("half", words)

    def test_of_noise(self):
        rng = np.random.default_rng(1)
        table = ordered_table(
            rng.normal(size=(30, 40)), properties=(PropertyColumn("time", np.arange(30.0), "h"),)
        )
        state = State.of("noise", table, Recipe(model=ModelSettings(components=2)))
        series = series_of(state, Evaluator().evaluate(table, state.recipe))
        words = "".join(text for text, _ in finding(series, None, series.windows()))
        self.assertEqual(words, "30 spectra over time: no component goes along it.")

    def test_verdicts_pairs_and_shifts(self):
        _, found, series = drying()
        rows = verdict_rows(series)
        self.assertEqual([row[5] for row in rows[:3]], ["goes along", "goes along", "noise"])
        pairs = series.search(2, 1, 0.0, (), 1).pairs(drawn_peak(series.places, 1512.0, 14.0))
        first = best_rows(series, pairs)[0]
        self.assertGreater(float(first[1]), 100.0)
        truth = demo_set("drying")[1]["shift_channels"]
        for name, _, shift, band in shift_rows(found):
            self.assertLess(abs(float(shift) / 0.8 - truth[name]), 0.05 + 2.0 * float(band))

    def test_two_variables(self):
        state = State.of("t", timed(np.arange(9.0), ordered=False), Recipe(model=ModelSettings(components=2)))
        found = Evaluator().evaluate(state.table, state.recipe)
        chart = two_variables(state, series_of(state, found), (2.0, 5.0))
        self.assertEqual((chart.x_title, chart.y_title), ("b", "e"))
        np.testing.assert_array_equal(chart.curves[0].x, state.table.values[:, 1])


class Along(unittest.TestCase):
    def test_time_in_place_of_run_order(self):
        kinds = ClassColumn("stretch", tuple("aaaabbbb"))
        table = timed([0, 1, 2, 3, 20, 21, 22, 23], classes=(kinds,))
        state = State.of("t", table, Recipe(model=ModelSettings(components=2)), "stretch")
        found = Evaluator().evaluate(table, state.recipe)
        chart = along(run_order(state, found, "q"), order_of(state), colouring_of(state))
        self.assertEqual((chart.title, chart.x_title), ("Distance in time", "time / h"))
        np.testing.assert_array_equal(chart.marks.x, table.properties[0].values)
        names = [curve.name.strip() for curve in chart.curves if curve.name]
        self.assertEqual(names, ["gap of 17 h", "a", "b"])
        same = run_order(state, found, "q")
        self.assertIs(along(same, None, colouring_of(state)), same)


class Reported(unittest.TestCase):
    def test_the_section(self):
        table = demo_set("drying")[0]
        how = UnmixSettings(
            shapes=(Shape(name="wet", samples=table.ids[:3]), Shape(name="dry", samples=table.ids[-3:]))
        )
        state, found, _ = drying(how)
        parts = series_section(state, found)
        words = " ".join(getattr(part, "words", "") for part in parts)
        self.assertIn("another shape is needed", words)
        self.assertEqual(sum(type(part).__name__ == "Picture" for part in parts), 5)
        state = State.of("b", demo_set("bench")[0], Recipe())
        self.assertEqual(series_section(state, Evaluator().evaluate(state.table, Recipe(), True)), [])


if __name__ == "__main__":
    unittest.main()
