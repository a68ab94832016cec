"""Maps as files: numbers (.npy, .csv, .tif, .h5) and pictures (.png); regions as outlines."""

from __future__ import annotations

import io
import json
from collections.abc import Callable, Sequence
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.charts.maps import PictureMap
from scutcher.core.arrays import Booleans
from scutcher.core.data.layouts import GridLayout
from scutcher.core.errors import FileError
from scutcher.core.images.map_structure import map_structure
from scutcher.files.csv_text import csv_text
from scutcher.files.results import digits, write_json
from scutcher.files.safely import make_folder, write_bytes, write_text


def write_maps(folder: Path, maps: Sequence[PictureMap], about: dict[str, Any]) -> list[Path]:
    """One .npy and one .png for each map, and maps.json with ranges, limits and how much is structure."""
    make_folder(folder)
    listed, written = [], []
    for one in maps:
        flat = 1 in one.values.shape  # a tall table is no picture
        for suffix in (".npy",) if flat else (".npy", ".png"):
            path = folder / f"{one.key}{suffix}"
            write_map(one, path)
            written.append(path)
        listed.append(
            map_plain(one) | {"array": f"{one.key}.npy", "picture": None if flat else f"{one.key}.png"}
        )
    path = folder / "maps.json"
    write_json(path, {"scutcher": __version__, **about, "maps": listed})
    return [*written, path]


def map_plain(one: PictureMap) -> dict[str, Any]:
    """What is said of a map."""
    found = map_structure(one.values, one.breaks) if one.tone != "categories" else None
    known = np.isfinite(one.values)
    plain: dict[str, Any] = {
        "name": one.key,
        "title": one.title,
        "tone": one.tone,
        "rows": one.values.shape[0],
        "columns": one.values.shape[1],
        "pixels": int(known.sum()),
        "low": one.low,
        "high": one.high,
        "unit": one.unit,
        "structure": None if found is None else {"agreement": found.agreement, "z": found.z},
    }
    if one.limit is not None:
        plain |= {"limit": one.limit, "past": int((one.values[known] > one.limit).sum())}
    return plain


def write_map(one: PictureMap, path: Path, layout: GridLayout | None = None) -> None:
    """Write one map in the format that the ending says: .npy, .csv, .tif (with its scale), .h5 or .png.

    Raises
    ------
    FileError
        An ending that is not written.
    """
    writers: dict[str, Callable[[PictureMap, GridLayout | None], bytes]] = {
        ".npy": _npy,
        ".csv": _csv,
        ".tif": _tiff,
        ".tiff": _tiff,
        ".h5": _hdf5,
        ".png": _png,
    }
    writer = writers.get(path.suffix.lower())
    if writer is None:
        raise FileError(
            f"{path.name} ends in {path.suffix or 'nothing'!r}, which is not written.",
            f"Use one of {', '.join(writers)}.",
        )
    write_bytes(path, writer(one, layout))


def _npy(one: PictureMap, layout: GridLayout | None) -> bytes:
    stream = io.BytesIO()
    np.save(stream, one.values)
    return stream.getvalue()


def _csv(one: PictureMap, layout: GridLayout | None) -> bytes:
    header = ["row \\ column", *(str(column + 1) for column in range(one.values.shape[1]))]
    rows = ([str(row + 1), *map(digits, values)] for row, values in enumerate(one.values.tolist()))
    return csv_text(header, rows).encode()


def _png(one: PictureMap, layout: GridLayout | None) -> bytes:
    from PIL import Image as Picture

    stream = io.BytesIO()
    Picture.fromarray(one.coloured()).save(stream, "PNG")
    return stream.getvalue()


def _tiff(one: PictureMap, layout: GridLayout | None) -> bytes:
    from PIL import Image as Picture
    from PIL.TiffImagePlugin import ImageFileDirectory_v2

    stream, tags = io.BytesIO(), ImageFileDirectory_v2()
    tags[270] = json.dumps(
        {"name": one.key, "title": one.title, "unit": one.unit}
        | ({"pixel": layout.pixel, "pixel_unit": layout.unit} if layout and layout.pixel else {})
    )
    Picture.fromarray(one.values.astype(np.float32)).save(stream, "TIFF", tiffinfo=tags)
    return stream.getvalue()


def _hdf5(one: PictureMap, layout: GridLayout | None) -> bytes:
    import h5py

    stream = io.BytesIO()
    with h5py.File(stream, "w") as file:
        found = file.create_dataset(one.key, data=one.values)
        found.attrs["title"], found.attrs["unit"] = one.title, one.unit
        if layout is not None and layout.pixel:
            found.attrs["pixel"], found.attrs["pixel_unit"] = layout.pixel, layout.unit
    return stream.getvalue()


Ring = list[list[int]]


def outline(inside: Booleans) -> list[list[Ring]]:
    """The borders of some pixels of a map: for each connected part its outer ring, then those of its holes.

    Corners (x, y) with the pixels to the right of the way; pixels that touch at a corner are two parts.

    Parameters
    ----------
    inside : (rows, columns) bool array
    """
    from scipy.ndimage import label

    parts, count = label(inside)
    ahead = _edges(inside)
    polygons: list[list[Ring]] = [[] for _ in range(count)]
    while ahead:
        start = next(iter(ahead))
        column, row = start[0] + min(ahead[start][0][0] - start[0], 0), start[1]
        step = (ahead[start][0][0] - start[0], ahead[start][0][1] - start[1])
        pixel = {(1, 0): (row, column), (0, 1): (row, column - 1), (-1, 0): (row - 1, column),
                 (0, -1): (row - 1, column)}[step]  # fmt: skip
        ring = _ring(ahead, start)
        polygon = polygons[parts[pixel] - 1]
        polygon.insert(0 if _is_outer(ring) else len(polygon), ring)
    return polygons


def _edges(inside: Booleans) -> dict[tuple[int, int], list[tuple[int, int]]]:
    """From each corner to the next ones, along the borders."""
    padded = np.pad(inside, 1)
    ahead: dict[tuple[int, int], list[tuple[int, int]]] = {}
    for row, column in np.argwhere(inside).tolist():
        corners = ((column, row), (column + 1, row), (column + 1, row + 1), (column, row + 1))
        beside = ((row, column + 1), (row + 1, column + 2), (row + 2, column + 1), (row + 1, column))
        for side in range(4):
            if not padded[beside[side]]:
                ahead.setdefault(corners[side], []).append(corners[(side + 1) % 4])
    return ahead


def _ring(ahead: dict[tuple[int, int], list[tuple[int, int]]], start: tuple[int, int]) -> Ring:
    """From a corner back to it; straight runs are one step."""
    ring, here, came = [start], start, (0, 0)
    while True:
        choices = ahead[here]
        pick = min(choices, key=lambda to: _turn(came, (to[0] - here[0], to[1] - here[1])))
        choices.remove(pick)
        if not choices:
            del ahead[here]
        step = (pick[0] - here[0], pick[1] - here[1])
        if step == came:
            ring.pop()
        came, here = step, pick
        ring.append(here)
        if here == start:
            return [list(point) for point in ring]


def _is_outer(ring: Ring) -> bool:
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in pairwise(ring))
    return area > 0


def _turn(came: tuple[int, int], step: tuple[int, int]) -> int:
    """0 for a turn to the right, 1 straight on, 2 to the left."""
    cross = came[0] * step[1] - came[1] * step[0]
    return 1 - cross


def write_regions(path: Path, regions: Sequence[tuple[str, Booleans]]) -> None:
    """Regions of a map as GeoJSON in pixel coordinates: x to the right, y down, a pixel is one wide."""
    features = [
        {
            "type": "Feature",
            "properties": {"name": name, "pixels": int(inside.sum())},
            "geometry": {"type": "MultiPolygon", "coordinates": outline(inside)},
        }
        for name, inside in regions
    ]
    plain = {"type": "FeatureCollection", "coordinates": "pixels, y down", "features": features}
    write_text(path, json.dumps(plain, ensure_ascii=False) + "\n")
