"""The plotting library, read without its copy of everything that Qt has, and without what no plot here needs.

It copies each name of Qt's three modules on import, and a class of Qt is made when it is first named: a
thousand classes and their lists of constants, of which a window needs a tenth. And it reads all of its own
items and widgets, of which four in five are on no plot of ours: more than half the time of its import.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from types import ModuleType

LIBRARY = "pyqtgraph"
COPIED = ("QtCore", "QtGui", "QtWidgets")

READ = {
    "graphicsItems": (
        "AxisItem",
        "GraphicsItem",
        "GraphicsObject",
        "GraphicsWidget",
        "GraphicsWidgetAnchor",
        "ImageItem",
        "InfiniteLine",
        "ItemGroup",
        "LinearRegionItem",
        "ScatterPlotItem",
        "TextItem",
        "UIGraphicsItem",
        "ViewBox",
    ),
    "widgets": ("GraphicsView",),
}
"""What our plots are made of, by folders of the library; the rest of these folders stays unread."""

UNREAD = ("imageview", "WidgetGroup", "graphicsItems.ViewBox.ViewBoxMenu", "Qt.OpenGLHelpers")
"""So do these."""


class Unread:
    """Stands for a class that was not read; nobody can make one."""

    def __init__(self, *given: object, **named: object) -> None:
        raise NotImplementedError("add its module to those of the plotting library that are read")


@contextmanager
def _nothing_copied() -> Iterator[None]:
    """Each copy looks names up when they are asked for, and there is nothing to list meanwhile."""
    sources = [import_module(f"PySide6.{name}") for name in COPIED]
    for name, source in zip(COPIED, sources, strict=True):
        copy = sys.modules[f"{LIBRARY}.Qt.{name}"] = ModuleType(f"{LIBRARY}.Qt.{name}")
        vars(copy)["__getattr__"] = partial(getattr, source)
        vars(source)["__dir__"] = list
    try:
        yield
    finally:
        for source in sources:
            del vars(source)["__dir__"]


@contextmanager
def _rest_unread() -> Iterator[None]:
    """Empty modules in the place of those that nobody needs, for as long as the import takes."""
    empty = {name: ModuleType(name) for name in (*(f"{LIBRARY}.{name}" for name in UNREAD), *_unread_of())}
    for module in empty.values():
        vars(module).update(__all__=[], __getattr__=_unread)
    sys.modules.update(empty)
    try:
        yield
    finally:
        for name in empty:
            del sys.modules[name]  # who asks for it by its own name reads it


def _unread_of() -> Iterator[str]:
    """The modules of the folders that nobody needs."""
    spec = find_spec(LIBRARY)
    assert spec is not None and spec.origin is not None
    for folder, read in READ.items():
        for path in (Path(spec.origin).parent / folder).iterdir():
            if path.stem.isidentifier() and path.stem != "__init__" and path.stem not in read:
                yield f"{LIBRARY}.{folder}.{path.stem}"


def _unread(name: str) -> type[Unread]:
    if name.startswith("__"):
        raise AttributeError(name)
    return Unread


if LIBRARY not in sys.modules:
    with _nothing_copied(), _rest_unread():
        import_module(LIBRARY)

import pyqtgraph as pg  # noqa: E402

__all__ = ["pg"]
