"""The demo set: deterministic, and every planted fault is where the truth says."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from scutcher.core.data.constant_variables import leave_out_dead
from scutcher.demo.intake_nir import intake_nir
from scutcher.demo.sets import demo_recipe, write_demo_sets
from scutcher.study.evaluation.evaluator import Evaluator


class IntakeNir(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.table, cls.truth = intake_nir()
        cls.found = Evaluator().evaluate(leave_out_dead(cls.table), demo_recipe())
        cls.ids = [cls.table.ids[row] for row in cls.found.usable.rows]

    def lot_of(self, name):
        return name.split("-")[0]

    def test_shape_and_classes(self):
        self.assertEqual(self.table.shape, (144, 700))
        self.assertEqual([len(column.levels) for column in self.table.classes], [4, 4, 2])
        self.assertEqual(len(set(self.table.replicates)), 48)

    def test_the_same_every_time(self):
        again = intake_nir.__wrapped__()[0]
        np.testing.assert_array_equal(again.values, self.table.values)

    def test_dead_channels_are_the_ones_left_out(self):
        dead = sorted(float(self.found.table.axis.labels[c]) for c in self.found.usable.left_out_columns)
        self.assertEqual(dead, self.truth["dead_channels_nm"])

    def test_gaps_are_where_the_truth_says(self):
        rows, columns = np.nonzero(self.table.gaps())
        self.assertEqual({self.table.ids[row] for row in rows}, {self.truth["gaps"]["sample"]})
        places = self.table.axis.positions[columns]
        self.assertEqual((places.min(), places.max()), (2012.0, 2030.0))
        self.assertEqual(len(columns), self.truth["gaps"]["channels"])

    def test_oily_lot_has_the_largest_q_and_wet_lot_a_large_t2(self):
        model = self.found.model
        worst = [self.lot_of(self.ids[row]) for row in np.argsort(-model.q)[:3]]
        self.assertEqual(set(worst), {self.truth["oily_lot"]["lot"]})
        far = {self.ids[row] for row in np.flatnonzero(model.t2 > 2.0 * model.t2_limit.value)}
        wet = {name for name in self.ids if self.lot_of(name) == self.truth["wet_lot"]}
        self.assertEqual(far, wet | {self.truth["spiked"]["sample"]})

    def test_spike_is_at_its_channel(self):
        values = self.table.values
        jumps = np.abs(values[:, 1:-1] - 0.5 * (values[:, :-2] + values[:, 2:]))
        alive = np.ptp(np.nan_to_num(values), axis=0) > 0
        near_dead = ~(alive[:-2] & alive[1:-1] & alive[2:])
        jumps[:, near_dead] = 0.0
        row, column = np.unravel_index(np.nanargmax(jumps), jumps.shape)
        self.assertEqual(self.table.ids[row], self.truth["spiked"]["sample"])
        self.assertEqual(self.table.axis.positions[column + 1], self.truth["spiked"]["channel_nm"])

    def test_swapped_scans_lie_with_each_others_lot(self):
        scores = {name: self.found.model.scores[place] for place, name in enumerate(self.ids)}
        first, second = self.truth["swapped_scans"]
        for name, other in ((first, second), (second, first)):
            own = [s for n, s in scores.items() if self.lot_of(n) == self.lot_of(name) and n != name]
            foreign = [s for n, s in scores.items() if self.lot_of(n) == self.lot_of(other) and n != other]
            to_own = np.linalg.norm(scores[name] - np.mean(own, axis=0))
            to_foreign = np.linalg.norm(scores[name] - np.mean(foreign, axis=0))
            self.assertGreater(to_own, 2.0 * to_foreign)

    def test_noise_grows_at_both_ends(self):
        spread = np.nanstd(np.diff(self.table.values, n=2, axis=1), axis=0)
        middle = np.median(spread[200:500])
        self.assertGreater(np.median(spread[:10]), 2.0 * middle)
        self.assertGreater(np.median(spread[-10:]), 2.0 * middle)

    def test_mislabelled_lot_is_written_as_another_class(self):
        truth = self.truth["mislabelled_lot"]
        written = {
            value
            for name, value in zip(self.table.ids, self.table.classes[0].values, strict=True)
            if self.lot_of(name) == truth["lot"]
        }
        self.assertEqual(written, {truth["written"]})
        self.assertNotEqual(truth["written"], truth["true"])

    def test_files_with_truth_beside(self):
        with tempfile.TemporaryDirectory() as folder:
            paths = write_demo_sets(Path(folder))
            self.assertEqual([path.name for path in paths[:2]], ["intake-nir.csv", "intake-nir.truth.json"])
            self.assertEqual(json.loads(paths[1].read_text())["wet_lot"], self.truth["wet_lot"])
