"""The marker shapes, one for each class, as paths of unit size."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath, QPolygonF

POLYGONS: dict[str, tuple[tuple[float, float], ...]] = {
    "wedge": ((-0.5, -0.42), (0.5, -0.42), (0.0, 0.5)),
    "box": ((-0.42, -0.42), (0.42, -0.42), (0.42, 0.42), (-0.42, 0.42)),
    "lozenge": ((0.0, -0.58), (0.42, 0.0), (0.0, 0.58), (-0.42, 0.0)),
    "gable": ((-0.5, 0.42), (0.5, 0.42), (0.0, -0.5)),
    "bar": ((-0.2, -0.55), (0.2, -0.55), (0.2, 0.55), (-0.2, 0.55)),
}
ARM, REACH = 0.17, 0.52


@cache
def marker(shape: str) -> QPainterPath:
    """The path of a shape of `charts.colours`, centred, about one unit across, y downwards."""
    path = QPainterPath()
    if shape == "disc":
        path.addEllipse(QRectF(-0.46, -0.46, 0.92, 0.92))
    elif shape in ("plus", "cross"):
        a, r = ARM, REACH
        corners: tuple[tuple[float, float], ...] = (
            (-a, -r), (a, -r), (a, -a), (r, -a), (r, a), (a, a),
            (a, r), (-a, r), (-a, a), (-r, a), (-r, -a), (-a, -a),
        )  # fmt: skip
        if shape == "cross":
            turn = 0.7071067811865476
            corners = tuple(((x - y) * turn, (x + y) * turn) for x, y in corners)
        _close(path, corners)
    else:
        _close(path, POLYGONS[shape])
    return path


def _close(path: QPainterPath, corners: tuple[tuple[float, float], ...]) -> None:
    path.addPolygon(QPolygonF([QPointF(x, y) for x, y in corners]))
    path.closeSubpath()
