"""The belt of `belt-scan` in any size, written in parts: an image that need not fit memory."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np

from scutcher.demo import belt_scan as small
from scutcher.files.safely import write_text

CELLS = 4_000_000
"""Values that are made at once."""


def write_large_belt_scan(folder: Path, rows: int, columns: int, bands: int) -> list[Path]:
    """Write the image as .npy (rows × columns × bands, float32) with its axis and its truth.

    Each pixel is of the stuff that lies at its place on the small belt; noise depends on the row alone, so
    that a part of the image can be made again.
    """
    axis = np.linspace(1100.0, 2400.0, bands)
    stuff = small.stuff_map()
    pure = small.pure_spectra(axis)
    across = np.arange(columns) * small.WIDE // columns
    name = f"belt-scan-{rows}x{columns}x{bands}"
    path = folder / f"{name}.npy"
    counts = np.zeros(len(small.STUFFS), np.int64)
    tall = max(1, CELLS // (columns * bands))
    with path.open("wb") as stream:
        header = {"descr": "<f4", "fortran_order": False, "shape": (rows, columns, bands)}
        np.lib.format.write_array_header_1_0(stream, header)
        for top in range(0, rows, tall):
            own = np.arange(top, min(top + tall, rows))
            kinds = stuff[own * small.TALL // rows][:, across]
            counts += np.bincount(kinds.ravel(), minlength=len(counts))
            stream.write(_lines(own, kinds, pure).tobytes())
    truth = {
        "set": name,
        "shape": [rows, columns, bands],
        "axis": [1100.0, 2400.0],
        "pixels_of": {stuff: int(count) for stuff, count in zip(small.STUFFS, counts, strict=True)},
    }
    truth_path = folder / f"{name}.truth.json"
    write_text(truth_path, json.dumps(truth, indent=2) + "\n")
    return [path, truth_path]


def _lines(rows: np.ndarray, kinds: np.ndarray, pure: np.ndarray) -> np.ndarray:
    """Spectra of some rows, (r, c, bands) float32: amount, light and noise of each pixel."""
    found = np.empty((*kinds.shape, pure.shape[1]), np.float32)
    for place, row in enumerate(rows.tolist()):
        rng = np.random.default_rng((small.SEED, row))
        amounts = np.asarray(rng.uniform(0.85, 1.15, kinds.shape[1]), dtype=np.float32)
        line = pure[kinds[place]].astype(np.float32) * amounts[:, np.newaxis]
        line += np.float32(0.004) * rng.standard_normal(line.shape, dtype=np.float32)
        found[place] = line
    return found
