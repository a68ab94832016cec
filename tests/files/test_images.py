"""TIFF stacks and Zarr stores: a sample for each pixel, the axis by what the file says, missing packages."""

import builtins
import unittest
from unittest import mock

import h5py
import numpy as np
import tifffile
import zarr

from scutcher.core.errors import FileError
from scutcher.files.columns import Roles
from scutcher.files.formats import read_tables
from scutcher.files.images.opening import open_image
from scutcher.files.layout.reading import Reading, reading_of_pairs
from tests.folder import InFolder

CUBE = np.arange(4 * 5 * 7, dtype=np.float32).reshape(7, 4, 5) ** 1.5  # channel, row, column


class Tiff(InFolder):
    def test_pages_described_by_wavelengths(self):
        path = self.folder / "belt.tif"
        with tifffile.TiffWriter(path) as out:
            for place, page in enumerate(CUBE):
                out.write(page, description=f"{1100 + 2 * place} nm", metadata=None, contiguous=False)
        table = read_tables([path])
        self.assertEqual(table.shape, (20, 7))
        np.testing.assert_array_equal(table.values, CUBE.reshape(7, 20).T)
        np.testing.assert_array_equal(table.axis.positions, 1100.0 + 2 * np.arange(7))
        self.assertEqual((table.axis.quantity, table.axis.unit), ("wavelength", "nm"))
        self.assertEqual([column.name for column in table.properties], ["row", "column"])
        self.assertIn("is read as 20 samples", table.origin.remarks[0])

    def test_a_stack_in_one_series(self):
        path = self.folder / "stack.tiff"
        tifffile.imwrite(path, CUBE, metadata={"axes": "CYX"}, photometric="minisblack")
        table = read_tables([path])
        np.testing.assert_array_equal(table.values, CUBE.reshape(7, 20).T)

    def test_planes_of_a_pixel_beside_each_other(self):
        path = self.folder / "pixel.tif"
        tifffile.imwrite(path, np.moveaxis(CUBE, 0, 2), metadata={"axes": "YXC"}, photometric="minisblack")
        np.testing.assert_array_equal(read_tables([path]).values, CUBE.reshape(7, 20).T)

    def test_a_damaged_file_is_refused_in_a_sentence(self):
        path = self.folder / "bad.tif"
        path.write_bytes(b"II*\x00" + b"\xff" * 40)
        with self.assertRaisesRegex(FileError, "bad.tif"):
            read_tables([path])


class Raw(InFolder):
    def read(self, order, said):
        path = self.folder / "scan.raw"
        np.transpose(CUBE, order).tofile(path)
        return read_tables([path], Roles(reading=Reading(image=said)))

    def test_every_order_of_the_dimensions(self):
        for order, said in (((0, 1, 2), "cyx"), ((1, 2, 0), "yxc"), ((1, 0, 2), "ycx")):
            with self.subTest(said):
                table = self.read(order, f"4x5x7:float32:{said}")
                np.testing.assert_array_equal(table.values, CUBE.reshape(7, 20).T)
                again = read_tables(
                    [self.folder / "scan.raw"], Roles(reading=reading_of_pairs(table.origin.reading))
                )
                np.testing.assert_array_equal(again.values, table.values)

    def test_the_wrong_size_is_refused(self):
        with self.assertRaisesRegex(FileError, "has 560 bytes; 4x5x8:float32:yxc needs 640"):
            self.read((1, 2, 0), "4x5x8")
        with self.assertRaisesRegex(FileError, "shape is not known"):
            read_tables([self.folder / "scan.raw"])


class CutShort(InFolder):
    def test_an_array_that_is_cut_short(self):
        path = self.folder / "belt.npy"
        np.save(path, CUBE)
        whole = path.read_bytes()
        for cut in (len(whole) - 1, len(whole) // 2, 20):
            path.write_bytes(whole[:cut])
            with self.subTest(cut), self.assertRaises(FileError):
                open_image(path)
        path.write_bytes(whole)
        image = open_image(path)
        path.write_bytes(whole[:-100])
        with self.assertRaisesRegex(FileError, "become shorter"):
            image.matrix.rows(0, image.pixels)

    def test_a_store_that_takes_values_from_elsewhere(self):
        path = self.folder / "outside.h5"
        CUBE.tofile(self.folder / "values.bin")
        with h5py.File(path, "w") as file:
            file.create_dataset(
                "cube", (7, 4, 5), "f4", external=[(str(self.folder / "values.bin"), 0, CUBE.nbytes)]
            )
        with self.assertRaisesRegex(FileError, "from other files"):
            open_image(path)


class Zarr(InFolder):
    def test_a_group_with_its_axis(self):
        path = self.folder / "belt.zarr"
        store = zarr.open_group(str(path), mode="w")
        cube = store.create_array(
            "counts", shape=(4, 5, 7), dtype="f4", dimension_names=("row", "column", "band")
        )
        cube[...] = np.moveaxis(CUBE, 0, 2)
        axis = store.create_array("wavelength", shape=(7,), dtype="f8", dimension_names=("band",))
        axis[...] = 1100.0 + 2 * np.arange(7)
        axis.attrs["units"] = "nm"
        table = read_tables([path])
        np.testing.assert_array_equal(table.values, CUBE.reshape(7, 20).T)
        np.testing.assert_array_equal(table.axis.positions, 1100.0 + 2 * np.arange(7))

    def test_a_matrix_alone(self):
        path = self.folder / "m.zarr"
        zarr.save_array(str(path), np.arange(24.0).reshape(4, 6) % 7)
        self.assertEqual(read_tables([path]).shape, (4, 6))


class Missing(unittest.TestCase):
    def test_what_to_install_is_said(self):
        from pathlib import Path
        from tempfile import TemporaryDirectory

        true_import = builtins.__import__

        def without(name, *rest):
            if name in ("tifffile", "zarr"):
                raise ImportError(name)
            return true_import(name, *rest)

        with TemporaryDirectory() as folder, mock.patch("importlib.import_module", without):
            path = Path(folder) / "a.tif"
            path.write_bytes(b"II*\x00")
            with self.assertRaisesRegex(FileError, "need the package tifffile, which is not installed"):
                read_tables([path])


if __name__ == "__main__":
    unittest.main()
