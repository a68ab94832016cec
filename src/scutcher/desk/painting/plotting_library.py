"""The plotting library, read without its copy of everything that Qt has.

It copies each name of Qt's three modules on import, and a class of Qt is made when it is first named: a
thousand classes and their lists of constants, of which a window needs a tenth.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from importlib import import_module
from types import ModuleType

COPIED = ("QtCore", "QtGui", "QtWidgets")


@contextmanager
def _nothing_copied() -> Iterator[None]:
    """Each copy looks names up when they are asked for, and there is nothing to list meanwhile."""
    sources = [] if "pyqtgraph" in sys.modules else [import_module(f"PySide6.{name}") for name in COPIED]
    for name, source in zip(COPIED, sources, strict=False):
        copy = sys.modules[f"pyqtgraph.Qt.{name}"] = ModuleType(f"pyqtgraph.Qt.{name}")
        vars(copy)["__getattr__"] = partial(getattr, source)
        vars(source)["__dir__"] = list
    try:
        yield
    finally:
        for source in sources:
            del vars(source)["__dir__"]


with _nothing_copied():
    import pyqtgraph as pg

__all__ = ["pg"]
