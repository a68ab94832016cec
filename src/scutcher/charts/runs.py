"""Figures over a number of components or groups, as plain data."""

from __future__ import annotations

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen


@frozen(eq=False)
class RunLine:
    """One line: y (m,), its standard error (m,) or None, its name and colour; the bold one has marks."""

    name: str
    y: Floats
    colour: str
    error: Floats | None = None
    bold: bool = False


@frozen(eq=False)
class Run:
    """Lines over least, least + 1, …, and where the handle stands.

    Attributes
    ----------
    kept, least : int
    lines : tuple of RunLine
        All of one length, the bold one first.
    levels : tuple of (height, words)
        Dashed lines across.
    span : (low, high)
        Of the upright axis.
    best : int or None
        The number at which the bold line is ringed.
    """

    kept: int
    least: int
    lines: tuple[RunLine, ...]
    levels: tuple[tuple[float, str], ...] = ()
    span: tuple[float, float] = (0.0, 1.05)
    best: int | None = None

    def rows(self, what: str = "components") -> tuple[list[str], list[list[object]]]:
        """The table behind it."""
        header = [what]
        for line in self.lines:
            header += [line.name, *([f"SE of {line.name}"] if line.error is not None else [])]
        rows: list[list[object]] = []
        for place in range(len(self.lines[0].y)):
            row: list[object] = [self.least + place]
            for line in self.lines:
                row.append(float(line.y[place]))
                row += [float(line.error[place])] if line.error is not None else []
            rows.append(row)
        return header, rows
