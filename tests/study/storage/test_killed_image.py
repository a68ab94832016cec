"""Killed while an image of spectra is being stored: the study opens, with the last image that was whole."""

import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import numpy as np

from scutcher.core.data.grid import grid_of
from scutcher.study.document.study import Study

ROWS, COLUMNS, CHANNELS = 60, 50, 40
WRITER = f"""
import sys
import numpy as np
from pathlib import Path
from scutcher.files.formats import read_tables
from scutcher.study.document.commands.data import AddDataSet
from scutcher.study.document.study import Study
path, scratch = Path(sys.argv[1]), Path(sys.argv[2])
study = Study.open(path)
first = len(study.state.datasets)
for turn in range(first, first + 200):
    file = scratch / f"scan-{{turn}}.npy"
    np.save(file, np.random.default_rng(turn).random(({ROWS}, {COLUMNS}, {CHANNELS})))
    study.do(AddDataSet(file.stem, read_tables([file]), study.state.recipe))
    print(turn, flush=True)
"""


class Killed(unittest.TestCase):
    def test_at_any_moment(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "images.scutch"
        study = Study()
        study.keep_in(path)
        study.close()
        delays = np.random.default_rng(5).uniform(0.0, 0.15, 6)
        for delay in delays.tolist():
            writer = subprocess.Popen(
                [sys.executable, "-c", WRITER, path, folder.name], stdout=subprocess.PIPE, text=True
            )
            said = writer.stdout.readline()  # it is in the middle of it
            time.sleep(delay)
            writer.kill()
            said += writer.stdout.read()
            writer.wait()
            writer.stdout.close()
            finished = max(int(line) for line in said.split("\n")[:-1])
            study = Study.open(path)
            try:
                self.assertEqual(study.file.altered, "")
                names = [dataset.name for dataset in study.state.datasets]
                self.assertIn(len(names) - 1, (finished, finished + 1))
                newest = study.state.datasets[-1].table
                seed = int(names[-1].removeprefix("scan-"))
                wanted = np.random.default_rng(seed).random((ROWS, COLUMNS, CHANNELS))
                np.testing.assert_array_equal(newest.values, wanted.reshape(-1, CHANNELS))
                self.assertEqual(grid_of(newest)[0].columns, COLUMNS)
                study.undo()
                study.redo()
            finally:
                study.close()


if __name__ == "__main__":
    unittest.main()
