"""A chart as plain data, the same for the live and the print painter."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.frozen import frozen


@frozen(eq=False)
class Lines:
    """Lines over one common axis.

    Attributes
    ----------
    x : (p,) float array
    ys : (m, p) float array, NaN where a line is broken
    keys : (m,) int array
        Rows of the table for samples, components or class places otherwise.
    codes : (m,) int array
        The class of each line, −1 for none.
    names : m str
    role : "sample", "class" or "component"
    faint : (m, p) bool array or None
        Where a line says nothing that could be told from zero: there it is pale.
    """

    x: Floats
    ys: Floats
    keys: Integers
    codes: Integers
    names: Sequence[str]
    role: str = "sample"
    faint: Booleans | None = None


@frozen(eq=False)
class Marks:
    """Points: x and y (m,), the row of the table each stands for, its class and its name."""

    x: Floats
    y: Floats
    keys: Integers
    codes: Integers
    names: Sequence[str]


@frozen
class Rule:
    """A straight line across the chart; `alarm` for limits, else quiet."""

    at: float
    vertical: bool = False
    alarm: bool = False
    text: str = ""


@frozen(eq=False)
class Curve:
    """A line over a plane, or one more over a strip: x and y (m,).

    `role` is "quiet", "ink", "accent", "other", "alarm" or "class" (then `code` says which); `name`
    stands at its end; an `arrow` has a head there.
    """

    x: Floats
    y: Floats
    role: str = "quiet"
    code: int = -1
    width: float = 1.2
    dashes: bool = False
    arrow: bool = False
    name: str = ""
    behind: bool = True

    @property
    def name_yields(self) -> bool:
        """Whether its name is left out where it would lie over another."""
        return self.role == "quiet" and not self.arrow

    @property
    def name_anchor(self) -> tuple[float, float]:
        """Which place of its name stands at its end, (0, 0) the upper left: beyond the end of an arrow."""
        if not self.arrow:
            return (0.0, 0.5)
        across, up = float(self.x[-1] - self.x[0]), float(self.y[-1] - self.y[0])
        return (0.0 if across >= 0.0 else 1.0, 1.0 if up >= 0.0 else 0.0)


@frozen(eq=False)
class Area:
    """A softly filled outline on a plane, of the class with a code: corners x and y, (m,)."""

    x: Floats
    y: Floats
    code: int


@frozen(eq=False)
class Flags:
    """Marks of a fixed size over others: x and y (m,), a "ring" or a "cross", quiet or in alarm."""

    x: Floats
    y: Floats
    symbol: str = "ring"
    alarm: bool = False


@frozen(eq=False)
class Ribbon:
    """A normal range along the axis: x, low and high, (p,)."""

    x: Floats
    low: Floats
    high: Floats


@frozen(eq=False)
class Shade:
    """A shade behind the lines of a strip.

    Attributes
    ----------
    x : (m,) float array
        Places of channels.
    strength : (m,) float array
        0 for none to 1.
    codes : (m,) int array
        The group of each, −1 for none: these are accented.
    names : tuple of str
        What the groups are called.
    """

    x: Floats
    strength: Floats
    codes: Integers
    names: tuple[str, ...] = ()


@frozen(eq=False)
class Grid:
    """Values as a picture: x (p,) and y (m,) places, values (m, p), the range of the colours.

    `signed` asks for the two-sided map, with paper at zero; `downwards` for y from the top, as in pictures.
    """

    x: Floats
    y: Floats
    values: Floats
    low: float
    high: float
    signed: bool = False
    downwards: bool = False


@frozen(eq=False)
class Chart:
    """Everything that is needed to draw a chart, and to copy the numbers behind it.

    Attributes
    ----------
    title, note : str
        The bold words and the quiet ones after them.
    x_title, y_title : str
        With units.
    spreads : tuple of Ribbon
        One for each line: the range in which what it stands for lies.
    ghosts : Marks or None
        Hollow marks behind the others: where samples were before, or samples that made no part of the model.
    curves : tuple of Curve
        Ellipses, hulls, arrows, baselines, references.
    areas, flags : tuples of Area and Flags
        Regions behind the marks of a plane, and signs over some of them.
    shade : Shade or None
        Behind the lines of a strip.
    square : bool
        Whether both axes have the same scale.
    labels : tuple of str
        A name for each mark that is drawn always; one that begins with a zero character only when picked.
    tick_names : tuple of str
        Names at 1…p on the x axis, for variables without an order.
    empty : str
        What to say where there is nothing to draw.
    whole : function or None
        Makes the table of all components, where the chart shows two of them.
    """

    title: str
    note: str = ""
    x_title: str = ""
    y_title: str = ""
    lines: Lines | None = None
    marks: Marks | None = None
    ribbon: Ribbon | None = None
    spreads: tuple[Ribbon, ...] = ()
    grid: Grid | None = None
    ghosts: Marks | None = None
    curves: tuple[Curve, ...] = ()
    areas: tuple[Area, ...] = ()
    flags: tuple[Flags, ...] = ()
    shade: Shade | None = None
    square: bool = False
    labels: tuple[str, ...] = ()
    rules: tuple[Rule, ...] = ()
    tick_names: tuple[str, ...] = ()
    bars: bool = False
    empty: str = ""
    whole: Callable[[], tuple[list[str], list[list[object]]]] | None = None

    @property
    def is_blank(self) -> bool:
        """Whether there is nothing to draw at all."""
        return self.lines is None and self.marks is None and self.ribbon is None and self.grid is None

    @property
    def said(self) -> str:
        """What is on it, for somebody who hears it: `component 1 by component 2, 143 marks`."""
        parts = [" by ".join(title for title in (self.y_title, self.x_title) if title), self.note]
        if self.marks is not None:
            parts.append(f"{len(self.marks.x)} marks")
        if self.lines is not None:
            parts.append(f"{len(self.lines.ys)} lines")
        if self.grid is not None:
            parts.append("a picture of {} by {} values".format(*self.grid.values.shape))
        return ", ".join(part for part in (*parts, self.empty) if part)

    def numbers(self) -> tuple[list[str], list[list[object]]]:
        """The table behind the chart: a header and rows."""
        if self.marks is not None:
            header = ["name", self.x_title, self.y_title]
            marks = self.marks
            points = zip(marks.names, marks.x.tolist(), marks.y.tolist(), strict=True)
            return header, [list(point) for point in points]
        if self.lines is not None:
            lines = self.lines
            places: Sequence[object] = self.tick_names or lines.x.tolist()
            columns = [places, *lines.ys.tolist()]
            header = [self.x_title, *lines.names]
            for name, spread in zip(lines.names, self.spreads, strict=False):
                header += [f"{name} from", f"{name} to"]
                columns += [spread.low.tolist(), spread.high.tolist()]
            return header, [list(row) for row in zip(*columns, strict=True)]
        if self.grid is not None:
            grid = self.grid
            rows = [[y, *row] for y, row in zip(grid.y.tolist(), grid.values.tolist(), strict=True)]
            return [self.y_title, *map(str, grid.x.tolist())], rows
        return [], []


def nothing(title: str, empty: str) -> Chart:
    """A chart with nothing in it but what to do."""
    return Chart(title=title, empty=empty)


def as_keys(values: object) -> Integers:
    """Any run of whole numbers as an index array."""
    return np.asarray(values, dtype=np.intp)
