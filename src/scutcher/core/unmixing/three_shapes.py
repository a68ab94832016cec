"""How far three shapes could turn: everything that is not negative and explains the data as well, exactly."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.frozen import frozen
from scutcher.core.unmixing.first_shapes import leading_scores

LENIENT = (0.0, 1e-4, 2e-4, 5e-4, 1e-3, 2e-3, 5e-3, 1e-2, 2e-2, 5e-2)
"""How far below zero a shape may go, as a share of the first: the smallest that lets the solution in."""

RAYS, STEPS, STRONG = 72, 44, 0.02
"""Directions from each solution, halvings along each, first score below which samples do not count."""


@frozen(eq=False)
class Plane:
    """Shapes and samples of three components as points, (second, third) over first.

    Attributes
    ----------
    walls : (w, 2) float array
        A shape x is not negative where `walls @ x ≤ 1`.
    hull : (h, 2) float array
        Corners about the samples.
    """

    walls: Floats
    hull: Floats

    def inside(self, x: Floats) -> Booleans:
        """Whether shapes at (m, 2) points are not negative."""
        found: Booleans = np.all(x @ self.walls.T <= 1.0 + 1e-12, axis=1)
        return found

    def partners(self, x: Floats) -> tuple[Booleans, Floats, Floats]:
        """Whether two more shapes exist that enclose the samples together with each (m, 2) point; the two.

        The tangents from a point to the samples end where shapes become negative; the two ends are the
        farthest that the others can be.
        """
        to_hull = self.hull[np.newaxis] - x[:, np.newaxis]  # (m, h, 2)
        centre = to_hull.mean(axis=1)
        angle = np.arctan2(_cross(centre[:, np.newaxis], to_hull), np.sum(centre[:, None] * to_hull, axis=2))
        rows = np.arange(len(x))
        low, high = angle.argmin(axis=1), angle.argmax(axis=1)
        outside = angle[rows, high] - angle[rows, low] < np.pi - 1e-12
        y, z = self._exit(x, to_hull[rows, low]), self._exit(x, to_hull[rows, high])
        side = _cross((z - y)[:, np.newaxis], self.hull[np.newaxis] - y[:, np.newaxis])
        own = _cross(z - y, x - y)
        scale = 1e-12 * np.maximum(np.abs(own), 1e-300)
        together = (side * np.sign(own)[:, np.newaxis] >= -scale[:, np.newaxis]).all(axis=1)
        return self.inside(x) & outside & together, y, z

    def _exit(self, x: Floats, direction: Floats) -> Floats:
        """Where rays from (m, 2) points leave what is not negative."""
        return x + self.distance(x, direction)[:, np.newaxis] * direction

    def distance(self, x: Floats, direction: Floats) -> Floats:
        """How many times `direction` a shape can go until it is negative somewhere, (m,)."""
        speed = direction @ self.walls.T
        room = np.maximum(1.0 - x @ self.walls.T, 0.0)
        found: Floats = np.where(speed > 1e-14, room / np.maximum(speed, 1e-14), np.inf).min(axis=1)
        return found


@frozen(eq=False)
class ThreeRange:
    """The range of three shapes, and of their amounts over all border points.

    Attributes
    ----------
    plane : Plane
    solution : (3, 2) float array
    borders : (3, 72, 2) float array
        How far each shape can go in each direction.
    lenient : float
        How far below zero shapes were allowed to go.
    low, high : (3, p) float arrays
        Of the shapes, at largest value one.
    amounts_low, amounts_high : (n, 3) float arrays
        Of the amounts of shapes so scaled, over the triples that the borders make.
    width : float
        Mean over the channels of high less low, the widest shape.
    """

    plane: Plane
    solution: Floats
    borders: Floats
    lenient: float
    low: Floats
    high: Floats
    amounts_low: Floats
    amounts_high: Floats
    width: float


def three_range(spectra: Floats, shapes: Floats) -> ThreeRange | None:
    """The range of three shapes about a solution; None where noise lets no such solution in.

    Parameters
    ----------
    spectra : (n, p) float array
        Uncentred, not negative but for noise.
    shapes : (3, p) float array
        The solution.

    References
    ----------
    Borgen & Kowalski, Anal. Chim. Acta 174 (1985) 1–26; tangent test of Rajkó & István,
    J. Chemometrics 19 (2005) 448–463.
    """
    scores, directions = leading_scores(spectra, 3)
    weights = shapes @ directions.T
    if not (weights[:, 0] > 0.0).all():
        return None
    solution = weights[:, 1:] / weights[:, :1]
    for lenient in LENIENT:
        plane = plane_of(scores, directions, lenient)
        if plane is not None and plane.partners(solution)[0].all():
            return _range(spectra, directions, plane, solution, lenient)
    return None


def plane_of(scores: Floats, directions: Floats, lenient: float) -> Plane | None:
    """The walls and the samples; None where the first direction is negative somewhere."""
    one = directions[0] + lenient * float(directions[0].max())
    size = np.abs(directions).max(axis=0)
    told = size > 1e-12 * float(size.max())  # channels with nothing in them say nothing
    if not (one[told] > 0.0).all():
        return None
    from scipy.spatial import ConvexHull, QhullError  # here: it takes long to load

    walls = -directions[1:, told].T / one[told, np.newaxis]
    strong = scores[:, 0] > STRONG * scores[:, 0].max()
    places = scores[strong, 1:] / scores[strong, :1]
    try:
        outer, inner = ConvexHull(walls), ConvexHull(places)
    except QhullError:
        return None
    if not (outer.equations[:, 2] < 0.0).all():
        return None  # not closed: shapes could go on for ever
    hull = places[inner.vertices]
    centre = hull.mean(axis=0)
    return Plane(walls[outer.vertices], centre + (hull - centre) / (1.0 + 3.0 * lenient))


def _range(spectra: Floats, directions: Floats, plane: Plane, solution: Floats, lenient: float) -> ThreeRange:
    angles = 2.0 * np.pi * np.arange(RAYS) / RAYS
    rays = np.tile(np.column_stack([np.cos(angles), np.sin(angles)]), (3, 1))
    start = np.repeat(solution, RAYS, axis=0)
    far = plane.distance(start, rays)
    near, beyond = np.zeros(len(far)), far * (1.0 - 1e-12)
    whole = plane.partners(start + beyond[:, np.newaxis] * rays)[0]
    for _ in range(STEPS):
        middle = 0.5 * (near + beyond)
        good = plane.partners(start + middle[:, np.newaxis] * rays)[0]
        near, beyond = np.where(good, middle, near), np.where(good, beyond, middle)
    reached = np.where(whole, far, near)
    borders = start + reached[:, np.newaxis] * rays
    lines = _largest_one(borders, directions).reshape(3, RAYS, -1)
    own = _largest_one(solution, directions)
    low, high = np.minimum(lines.min(axis=1), own), np.maximum(lines.max(axis=1), own)
    amounts = _amounts(spectra, directions, plane, borders.reshape(3, RAYS, 2), solution)
    width = float((high - low).mean(axis=1).max())
    ends = amounts.min(axis=0), amounts.max(axis=0)
    return ThreeRange(plane, solution, borders.reshape(3, RAYS, 2), lenient, low, high, *ends, width)


def _largest_one(points: Floats, directions: Floats) -> Floats:
    """Shapes (m, p) of points (m, 2), at largest value one."""
    lines = np.maximum(directions[0] + points @ directions[1:], 0.0)
    found: Floats = lines / lines.max(axis=1, keepdims=True)
    return found


def _amounts(spectra: Floats, directions: Floats, plane: Plane, borders: Floats, solution: Floats) -> Floats:
    """Amounts (m, n, 3) by every triple of a border point and its two partners, and by the solution."""
    found = []
    for place in range(3):
        good, y, z = plane.partners(borders[place])
        others = [other for other in range(3) if other != place]
        for at in np.flatnonzero(good):
            pair = np.array([y[at], z[at]])
            straight = np.linalg.norm(pair - solution[others], axis=1).sum()
            if np.linalg.norm(pair[::-1] - solution[others], axis=1).sum() < straight:
                pair = pair[::-1]
            points = np.empty((3, 2))
            points[place], points[others] = borders[place, at], pair
            found.append(_fit(spectra, _largest_one(points, directions)))
    found.append(_fit(spectra, _largest_one(solution, directions)))
    return np.array(found)


def _fit(spectra: Floats, shapes: Floats) -> Floats:
    found: Floats = np.maximum(np.linalg.lstsq(shapes.T, spectra.T, rcond=None)[0].T, 0.0)
    return found


def _cross(one: Floats, other: Floats) -> Floats:
    found: Floats = one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0]
    return found
