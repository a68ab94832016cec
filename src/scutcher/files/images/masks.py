"""A mask from a file: pixels that are not zero are looked at."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from scutcher.core.arrays import Booleans
from scutcher.core.errors import FileError
from scutcher.core.images.image import Image
from scutcher.files.safely import reading


def read_mask(path: Path, image: Image) -> Booleans:
    """Read a map of the size of the image: .npy, .csv of numbers, or a picture.

    Raises
    ------
    FileError
        It cannot be read, or has another size.
    """
    with reading(path):
        try:
            values = _values(path)
        except OSError:
            raise
        except Exception as error:  # the libraries raise nearly anything on damaged files
            raise FileError(f"{path.name} is not a map of numbers.", "Save it anew.") from error
    rows, columns = image.shape
    if values.shape != (rows, columns):
        raise FileError(
            f"The mask {path.name} is {' × '.join(map(str, values.shape))} pixels, "
            f"the image {rows} × {columns}.",
            "Use a mask of the same rows and columns.",
        )
    inside = np.nan_to_num(values.astype(np.float64)) != 0.0
    own = inside.reshape(rows, image.images, -1).transpose(1, 0, 2).reshape(-1)
    found: Booleans = np.ascontiguousarray(own)
    return found if image.mask is None else found & image.mask


def _values(path: Path) -> np.ndarray:
    if path.suffix.lower() == ".npy":
        return np.asarray(np.load(path, allow_pickle=False))
    if path.suffix.lower() in (".csv", ".txt"):
        return np.loadtxt(path, delimiter=",", ndmin=2)
    from PIL import Image as Picture

    with Picture.open(path) as picture:
        return np.asarray(picture.convert("F") if picture.mode == "F" else picture.convert("L"))
