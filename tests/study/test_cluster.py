"""The passes on a cluster of two processes give what one process gives, also when a worker is killed."""

import os
import signal
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from distributed import LocalCluster

from scutcher.core.errors import FileError
from scutcher.core.images.streamed_model import fit_image
from scutcher.core.progress import Stopped
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.files.images.opening import open_image
from scutcher.study.cluster import Cluster, ImageSource
from tests.cli.test_commands import call

ROWS, COLUMNS, P = 60, 40, 24
RECIPE = recipe_from_plain(
    {
        "treat": [{"method": "snv"}, {"method": "msc"}],
        "scale": {"centre": "mean", "method": "sd"},
        "model": {"components": 3},
        "validate": {"scheme": "tiles", "segments": 4},
    }
)


class OnACluster(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.cluster = LocalCluster(
            n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, silence_logs=50
        )
        cls.folder = tempfile.TemporaryDirectory()
        cls.path = Path(cls.folder.name) / "belt.npy"
        rng = np.random.default_rng(4)
        shapes = np.array([np.exp(-(((np.arange(P) - c) / 3.0) ** 2)) for c in (4, 11, 18)])
        values = 1.0 + rng.random((ROWS, COLUMNS, 3)) @ shapes + 0.02 * rng.normal(size=(ROWS, COLUMNS, P))
        np.save(cls.path, values.astype(np.float32))

    @classmethod
    def tearDownClass(cls):
        cls.cluster.close()
        cls.folder.cleanup()

    def on_cluster(self, image, watch=None):
        passes = Cluster(self.cluster.scheduler_address, ImageSource((str(self.path),)), group=60_000)
        try:
            return fit_image(image, RECIPE, watch, passes)
        finally:
            passes.close()

    def check(self, found, wanted):
        (model, maps), (own, own_maps) = found, wanted
        np.testing.assert_allclose(model.components.eigenvalues, own.components.eigenvalues, rtol=1e-10)
        np.testing.assert_allclose(model.saved.loadings, own.saved.loadings, atol=1e-10)
        np.testing.assert_allclose(model.q2, own.q2, rtol=1e-10)
        for name in ("t2", "q", "joint"):
            np.testing.assert_allclose(getattr(maps, name), getattr(own_maps, name), rtol=1e-9)
        self.assertAlmostEqual(
            model.saved.held_out.q_limit.value / own.saved.held_out.q_limit.value, 1.0, places=9
        )

    def test_the_same_numbers(self):
        mask = np.ones(ROWS * COLUMNS, dtype=bool)
        mask[100:300] = False
        image = open_image(self.path).masked(mask)
        self.check(self.on_cluster(image), fit_image(image, RECIPE))

    def test_a_worker_is_killed_in_the_middle(self):
        image, killed = open_image(self.path), []

        def watch(share):
            if share > 0.3 and not killed:
                killed.append(next(iter(self.cluster.workers.values())).pid)
                os.kill(killed[0], signal.SIGKILL)
            return True

        found = self.on_cluster(image, watch)
        self.assertEqual(len(killed), 1)
        self.check(found, fit_image(image, RECIPE))

    def test_it_can_be_stopped(self):
        with self.assertRaises(Stopped):
            self.on_cluster(open_image(self.path), lambda share: share < 0.3)

    def test_on_the_command_line(self):
        out, plain = Path(self.folder.name) / "out", Path(self.folder.name) / "plain"
        address = self.cluster.scheduler_address
        code, _, error = call("fit", self.path, "--layout", "60x40", "--cluster", address, "--out", out)
        self.assertEqual((code, error), (0, ""))
        self.assertEqual(call("fit", self.path, "--layout", "60x40", "--out", plain)[0], 0)
        for name in ("score-1", "q"):
            one, other = (np.load(folder / "maps" / f"{name}.npy") for folder in (out, plain))
            np.testing.assert_allclose(one, other, rtol=1e-5, atol=1e-9)

    def test_what_cannot_be(self):
        with mock.patch("scutcher.study.cluster.PATIENCE", "1s"):
            code, _, error = call(
                "fit", self.path, "--layout", "60x40", "--cluster", "tcp://127.0.0.1:9", "--out", "no"
            )
        self.assertEqual(code, 1)
        self.assertIn("No dask scheduler answers at tcp://127.0.0.1:9", error)
        with mock.patch.dict("sys.modules", {"distributed": None}), self.assertRaises(FileError) as caught:
            Cluster("tcp://127.0.0.1:9", ImageSource((str(self.path),)))
        self.assertIn("scutcher[cluster]", str(caught.exception))
        gone = ImageSource((str(self.path.with_name("gone.npy")),))
        passes = Cluster(self.cluster.scheduler_address, gone, group=60_000)
        self.addCleanup(passes.close)
        with self.assertRaises(FileError):
            fit_image(open_image(self.path), RECIPE, passes=passes)


if __name__ == "__main__":
    unittest.main()
