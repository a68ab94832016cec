"""Small tables for tests."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table
from scutcher.core.scaling import scaled_matrix


def ordered_table(values: np.ndarray, **more: object) -> Table:
    """A table over an axis 1000, 1002, … nm."""
    n, p = values.shape
    places = 1000.0 + 2.0 * np.arange(p)
    axis = Axis(tuple(str(int(place)) for place in places), places, "wavelength", "nm")
    return Table(values=values, axis=axis, ids=tuple(f"s{row + 1}" for row in range(n)), **more)


def mixed_table(values: np.ndarray, **more: object) -> Table:
    """A table of mixed variables a, b, c, …"""
    n, p = values.shape
    labels = tuple(chr(ord("a") + place) for place in range(p))
    return Table(values=values, axis=Axis(labels), ids=tuple(f"s{row + 1}" for row in range(n)), **more)


def random_spectra(n: int = 30, p: int = 40, seed: int = 5) -> np.ndarray:
    """Smooth positive rows with a few underlying components and a little noise."""
    rng = np.random.default_rng(seed)
    x = np.linspace(0.0, 1.0, p)
    pure = np.array([np.exp(-(((x - c) / 0.15) ** 2)) for c in (0.2, 0.5, 0.8)])
    return 1.0 + rng.uniform(0.5, 1.5, (n, 3)) @ pure + 0.01 * rng.normal(size=(n, p))


def classes_of(n: int) -> ClassColumn:
    """Two classes by turns."""
    return ClassColumn("kind", tuple("xy"[row % 2] for row in range(n)))


def moisture_of(n: int) -> PropertyColumn:
    """A property that rises."""
    return PropertyColumn("moisture", np.arange(1.0, n + 1.0), "%")


def in_single_precision(test: unittest.TestCase) -> None:
    """Every Gram matrix of a test is partly in single precision, as it is of large data."""
    for name in ("SMALL", "LARGE", "WIDE"):
        patch = mock.patch.object(scaled_matrix, name, 0)
        patch.start()
        test.addCleanup(patch.stop)
