"""Places of samples on a picture, of one image or of several side by side."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np

from scutcher.core.data import grid
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.grid import grid_of, image_column
from scutcher.core.errors import RecipeError
from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.core.validation.segments import make_segments
from scutcher.files.formats import read_tables
from tests.core.making import ordered_table

ROWS, COLUMNS = 5, 7


class SeveralImages(unittest.TestCase):
    def table(self, images=2, name="image"):
        size = ROWS * COLUMNS
        row, column = np.divmod(np.arange(size), COLUMNS)
        values = np.random.default_rng(3).random((images * size, 6))
        return replace(
            ordered_table(values),
            classes=(
                ClassColumn("kind", tuple("ab"[k % 5 > 2] for k in range(images * size))),
                ClassColumn(name, tuple(f"scan {k}" for k in range(images) for _ in range(size))),
            ),
            properties=(
                PropertyColumn("row", np.tile(row + 1.0, images)),
                PropertyColumn("column", np.tile(column + 1.0, images)),
            ),
        )

    def test_they_lie_side_by_side_with_an_empty_column_between(self):
        for images, name in ((2, "image"), (3, "belt run")):
            table = self.table(images, name)
            layout, cells = grid_of(table)
            self.assertEqual((layout.rows, layout.columns), (ROWS, images * (COLUMNS + 1) - 1))
            self.assertEqual(image_column(table).name, name)
            y, x = np.divmod(cells, layout.columns)
            for sample in range(0, len(cells), 11):
                image, within = divmod(sample, ROWS * COLUMNS)
                self.assertEqual((y[sample], x[sample] - image * (COLUMNS + 1)), divmod(within, COLUMNS))
            self.assertNotIn(COLUMNS, x)

    def test_one_image_is_one_and_what_no_column_tells_apart_is_none(self):
        one = self.table(1)
        self.assertEqual(grid_of(one)[0].columns, COLUMNS)
        self.assertIsNone(image_column(one))
        blind = replace(self.table(), classes=self.table().classes[:1])
        self.assertIsNone(grid_of(blind))

    def test_whole_images_are_left_out(self):
        table = self.table(3)
        settings = ValidateSettings(scheme="images", segments=3)
        parts = make_segments(table, settings).parts[0]
        size = ROWS * COLUMNS
        self.assertEqual(
            sorted(part.tolist() for part in parts), [list(range(k * size, (k + 1) * size)) for k in range(3)]
        )
        with self.assertRaisesRegex(RecipeError, "one image"):
            make_segments(self.table(1), settings)

    def test_two_samples_in_a_cell_are_seen_on_dense_and_on_sparse_grids(self):
        rng = np.random.default_rng(3)
        for most in (60, 5000):
            apart = rng.permutation(most)[:50]
            twice = np.append(apart, apart[7])
            for sparse in (0, 16):
                with mock.patch.object(grid, "SPARSE", sparse):
                    self.assertFalse(grid._stand_twice(apart))
                    self.assertTrue(grid._stand_twice(twice))

    def test_files_of_arrays_are_read_together(self):
        with tempfile.TemporaryDirectory() as folder:
            images = np.random.default_rng(4).random((3, ROWS, COLUMNS, 4))
            paths = []
            for place, name in enumerate(("one/belt.npy", "two/belt.npy", "two/other.npy")):
                paths.append(Path(folder) / name)
                paths[-1].parent.mkdir(exist_ok=True)
                np.save(paths[-1], images[place])
            table = read_tables(paths)
        np.testing.assert_array_equal(table.values, images.reshape(-1, 4))
        self.assertEqual(
            dict.fromkeys(image_column(table).values), dict.fromkeys(["belt", "belt 2", "other"])
        )
        self.assertEqual(len(set(table.ids)), len(table.ids))
        self.assertEqual(grid_of(table)[0].columns, 3 * (COLUMNS + 1) - 1)


if __name__ == "__main__":
    unittest.main()
