"""The chart of shares keeps its span; what lies below is marked, not drawn over the edge."""

import unittest

import numpy as np

from scutcher.charts import colours
from scutcher.charts.rank import Shares
from scutcher.desk.painting.handle_plot import HandlePlot
from scutcher.desk.painting.labels import Label
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.strokes import Line, Signs, Whiskers
from scutcher.desk.shell.start import application
from tests.desk.driving import pixels


def shares(q2, error=0.1):
    each = 0.6 * 0.4 ** np.arange(len(q2))
    return Shares(2, each, np.cumsum(each), np.array(q2), np.full(len(q2), error), np.array(q2), each)


class ShareChart(unittest.TestCase):
    def setUp(self):
        application()
        self.plot = HandlePlot()
        self.plot.resize(700, 420)
        self.plot.show()
        self.addCleanup(self.plot.close)

    def curves(self):
        return [stroke for stroke in self.plot.layers.every if isinstance(stroke, Line | Signs)]

    def words(self):
        return [stroke.text for stroke in self.plot.layers.every if isinstance(stroke, Label)]

    def test_span_is_from_nothing_to_all_whatever_q2_is(self):
        for q2 in ([0.5, 0.7, 0.9], [0.5, -0.2, -40.0], [np.nan] * 3):
            with self.subTest(q2):
                self.plot.show_shares(shares(q2), "shares")
                low, high = self.plot.ground.viewRange()[1]
                self.assertAlmostEqual(low, 0.0)
                self.assertAlmostEqual(high, 1.05)

    def test_q2_below_is_marked_with_its_lowest(self):
        self.plot.show_shares(shares([0.5, 0.7, -0.2, -3.0]), "shares")
        self.assertEqual(self.words(), ["Q² below 0, to −3.00"])
        places = [stroke.x.tolist() for stroke in self.curves()]
        self.assertIn([1.0, 2.0], places)  # the line ends where Q² leaves the chart
        self.assertIn([3.0, 4.0], places)
        corner = self.plot.ground.mapViewToDevice(pg.Point(3.0, 0.03))
        picture = pixels(self.plot)
        x, y = round(corner.x()), round(corner.y())
        near = picture[y - 8 : y + 8, x - 8 : x + 8, :3].reshape(-1, 3).astype(int)
        alarm = np.array([int(colours.ALARM[at : at + 2], 16) for at in (1, 3, 5)])
        self.assertGreater((np.abs(near - alarm).max(axis=1) < 40).sum(), 10)
        self.plot.show_shares(shares([0.5, -0.25]), "shares")
        self.assertEqual(self.words(), ["Q² −0.25"])
        self.plot.show_shares(shares([0.5, 0.7]), "shares")
        self.assertEqual(self.words(), [])

    def test_error_bars_stay_inside(self):
        self.plot.show_shares(shares([0.05, 0.98], error=0.3), "shares")
        bars = next(stroke for stroke in self.plot.layers.every if isinstance(stroke, Whiskers))
        np.testing.assert_allclose(bars.low, [0.0, 0.68], atol=1e-12)
        np.testing.assert_allclose(bars.high, [0.35, 1.05], atol=1e-12)


if __name__ == "__main__":
    unittest.main()
