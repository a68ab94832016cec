"""`fit` on images, `map`, masks and layouts, as somebody calls them."""

import json
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from scutcher.cli import main
from scutcher.files.images import opening
from tests.cli.test_commands import call

ROWS, COLUMNS, P = 12, 10, 8


def cube(seed=2):
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:ROWS, 0:COLUMNS]
    shapes = np.array([np.exp(-(((np.arange(P) - c) / 1.5) ** 2)) for c in (2, 5)])
    amounts = np.stack([1 + np.sin(y / 3.0), 1 + np.cos(x / 2.0)], axis=-1)
    return (2.0 + amounts @ shapes + 0.02 * rng.normal(size=(ROWS, COLUMNS, P))).astype(np.float32)


class Images(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def files(self):
        """The same image in every format, with what has to be said of it."""
        import h5py
        import tifffile
        import zarr

        values, axis = cube(), np.linspace(1000.0, 1700.0, P)
        np.save(self.folder / "plain.npy", values)
        np.save(self.folder / "flat.npy", values.reshape(-1, P))
        with h5py.File(self.folder / "cube.h5", "w") as file:
            file["cube"], file["wavelength"] = np.moveaxis(values, 2, 0), axis
            file["wavelength"].attrs["unit"] = "nm"
        store = zarr.open(str(self.folder / "cube.zarr"), mode="w")
        store.create_array("cube", data=values)
        store.create_array("wavelength", data=axis)
        tifffile.imwrite(self.folder / "planes.tif", np.moveaxis(values, 2, 0))
        tifffile.imwrite(self.folder / "packed.tif", np.moveaxis(values, 2, 0), compression="zlib")
        np.moveaxis(values, 2, 1).astype(">f4").tofile(self.folder / "lines.raw")
        header = "sample,x / px,y / px," + ",".join(f"{place:g}" for place in axis)
        lines = [
            f"p{row}.{column},{column},{row}," + ",".join(f"{v:.9g}" for v in values[row, column])
            for row in range(ROWS)
            for column in range(COLUMNS)
        ]
        (self.folder / "table.csv").write_text("\n".join([header, *lines]) + "\n")
        return {
            "plain.npy": "12x10",
            "flat.npy": "12x10",
            "cube.h5": "12x10",
            "cube.zarr": "12x10",
            "planes.tif": "12x10",
            "packed.tif": "12x10",
            "lines.raw": "12x10x8:float32-big:ycx",
            "table.csv": "x,y",
        }

    def fit(self, name, *more):
        out = self.folder / f"out-{name}"
        self.assertEqual(main(["fit", str(self.folder / name), "--out", str(out), *more]), 0)
        return json.loads((out / "summary.json").read_text()), out

    def test_every_format_gives_the_same_model(self):
        values = cube().reshape(-1, P).astype(np.float64)
        wanted = np.linalg.svd(values - values.mean(axis=0), compute_uv=False) ** 2 / (len(values) - 1)
        for name, layout in self.files().items():
            with self.subTest(name):
                found, out = self.fit(name, "--layout", layout, "--components", "2")
                np.testing.assert_allclose(found["eigenvalues"], wanted, rtol=2e-6)
                self.assertEqual((found["image"]["rows"], found["image"]["columns"]), (ROWS, COLUMNS))
                self.assertEqual(found["samples"], ROWS * COLUMNS)
                self.assertEqual(np.load(out / "maps" / "score-1.npy").shape, (ROWS, COLUMNS))
                self.assertEqual(found["validation"]["scheme"], "tiles")
                self.assertEqual(found["evidence"]["lowest-press"], 2)

    def test_map_gives_the_maps_of_the_fit(self):
        self.files()
        _, out = self.fit("cube.h5", "--layout", "12x10", "--components", "2")
        maps = self.folder / "maps"
        self.assertEqual(
            main(["map", str(out / "model.json"), str(self.folder / "cube.h5"), "--out", str(maps)]), 0
        )
        listed = json.loads((maps / "maps.json").read_text())
        self.assertEqual([one["name"] for one in listed["maps"]], ["score-1", "score-2", "t2", "q", "joint"])
        self.assertEqual(listed["limits"], {"basis": "held-out", "level": 0.95})
        self.assertGreater(listed["maps"][0]["structure"]["agreement"], 0.8)
        for name in ("score-1", "t2", "q"):
            np.testing.assert_allclose(
                np.load(maps / f"{name}.npy"), np.load(out / "maps" / f"{name}.npy"), rtol=1e-5, atol=1e-12
            )
            self.assertTrue((maps / f"{name}.png").read_bytes().startswith(b"\x89PNG"))

    def test_a_mask_by_a_channel_and_from_a_file(self):
        self.files()
        values = cube()
        inside = values[:, :, 2] > 3.0
        by_channel, out = self.fit("cube.h5", "--mask", "1200>3")
        self.assertEqual(by_channel["samples"], int(inside.sum()))
        self.assertEqual(by_channel["image"]["masked_out"], int((~inside).sum()))
        np.testing.assert_array_equal(np.isfinite(np.load(out / "maps" / "q.npy")), inside)
        np.save(self.folder / "mask.npy", inside)
        from_file, _ = self.fit("cube.h5", "--mask", str(self.folder / "mask.npy"))
        np.testing.assert_allclose(from_file["eigenvalues"], by_channel["eigenvalues"], rtol=1e-12)

    def test_components_in_the_order_of_smoothness(self):
        self.files()
        out = self.folder / "maf"
        given = ["fit", str(self.folder / "cube.h5"), "--kind", "maf", "--components", "2", "--out", str(out)]
        self.assertEqual(main(given), 0)
        found = json.loads((out / "summary.json").read_text())
        self.assertEqual(found["autocorrelation"], sorted(found["autocorrelation"], reverse=True))
        self.assertGreater(found["autocorrelation"][0], found["limit"])
        picture = np.load(out / "maps" / "smooth-1.npy")
        self.assertAlmostEqual(np.nanvar(picture, ddof=1), 1.0, places=5)

    def test_lists_of_pixels(self):
        self.files()
        _, out = self.fit("cube.h5", "--layout", "12x10", "--components", "2")
        lines = (out / "scores.csv").read_text().splitlines()
        self.assertEqual(lines[0], "sample,x / px,y / px,PC1,PC2")
        self.assertTrue(lines[12].startswith("y1x1,1,1,"), lines[12])
        self.assertEqual(len(lines), ROWS * COLUMNS + 1)

    def test_what_is_worked_on_where_it_lies(self):
        """A table of moderate size is read as ever; images, and tables of very many rows, are not."""
        values = cube().reshape(-1, P)
        np.save(self.folder / "table.npy", values)
        np.save(self.folder / "image.npy", cube())
        with mock.patch.object(opening, "LARGE", 1000):
            self.assertFalse(opening.is_large(self.folder / "table.npy"))
            self.assertTrue(opening.is_large(self.folder / "image.npy"))
            self.assertFalse(opening.is_large(self.folder / "none.npy"))
            with mock.patch.object(opening, "MANY_ROWS", 100):
                found, out = self.fit("table.npy", "--components", "2")
        self.assertEqual(found["validation"]["scheme"], "random")
        lines = (out / "scores.csv").read_text().splitlines()
        self.assertEqual(lines[0], "sample,PC1,PC2")
        self.assertTrue(lines[1].startswith("1,") and lines[-1].startswith(f"{len(values)},"))
        self.assertFalse((out / "maps" / "q.png").exists())

    def test_squares_and_images_side_by_side(self):
        self.files()
        found, _ = self.fit("cube.h5", "--bin", "2", "--components", "2")
        self.assertEqual((found["image"]["rows"], found["image"]["columns"]), (6, 5))
        squares = cube().astype(float).reshape(6, 2, 5, 2, P).mean(axis=(1, 3)).reshape(-1, P)
        wanted = np.linalg.svd(squares - squares.mean(axis=0), compute_uv=False) ** 2 / 29
        np.testing.assert_allclose(found["eigenvalues"], wanted, rtol=2e-6)
        np.save(self.folder / "moved.npy", np.roll(cube(), 1, axis=1))
        code, _, error = call(
            "fit", self.folder / "plain.npy", self.folder / "moved.npy", "--layout", "12x10", "--align",
            "--out", self.folder / "both",
        )  # fmt: skip
        self.assertEqual(code, 0)
        self.assertIn("(0, 0), (0, 1)", error)
        self.assertEqual(np.load(self.folder / "both" / "maps" / "q.npy").shape, (ROWS, 2 * COLUMNS))

    def test_refused_in_one_line(self):
        self.files()
        whole = (self.folder / "lines.raw").read_bytes()
        (self.folder / "short.raw").write_bytes(whole[:-5])
        np.save(self.folder / "other.npy", np.ones((3, 3)))
        for given, said in (
            (["short.raw", "--layout", "12x10x8:float32-big:ycx"], "has 3,835 bytes"),
            (["lines.raw"], "its shape is not known"),
            (["lines.raw", "--layout", "many"], "is not understood"),
            (["plain.npy", "--layout", "5x5"], "is 12 × 10 pixels, not 5 × 5"),
            (["flat.npy", "--layout", "7x7"], "no multiple of 7 × 7"),
            (["cube.h5", "--mask", "1200>9"], "The mask leaves no pixel"),
            (["cube.h5", "--mask", "9000>1"], "no channel '9000'"),
            (["cube.h5", "--mask", str(self.folder / "other.npy")], "is 3 × 3 pixels, the image 12 × 10"),
            (["table.csv", "--layout", "u,v"], "no column of places 'u'"),
            (["cube.h5", "--layout", "12x10", "--components", "9"], "rank 8"),
            (["cube.h5", "--bin", "40"], "do not fit 12 × 10"),
            (["cube.h5", "--bin", "2", "--cluster", "tcp://127.0.0.1:9"], "Leave --bin and --align out"),
        ):
            with self.subTest(said):
                path, *rest = given
                code, _, error = call("fit", str(self.folder / path), *rest, "--out", str(self.folder / "no"))
                self.assertEqual(code, 1)
                self.assertIn(said, error)
                self.assertEqual(len(error.strip().splitlines()), 1, error)


if __name__ == "__main__":
    unittest.main()
