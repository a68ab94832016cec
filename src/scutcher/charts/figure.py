"""How a figure on paper is to look: its width, letters, words, ranges and names."""

from __future__ import annotations

from scutcher.core.frozen import frozen

Ends = tuple[float | None, float | None]

SINGLE, DOUBLE = 85.0, 176.0
"""Widths of one and two columns of a journal, mm."""


@frozen
class Figure:
    """How a figure is to look.

    Attributes
    ----------
    width, height : float
        mm.
    points : float
        Size of the letters.
    title, x_title, y_title : str or None
        In place of the chart's own; None keeps it, "" leaves it out.
    dots : int
        Dots an inch, for PNG.
    legend : tuple of (code, name)
    x_range, y_range : (low, high), None for an end that follows the data
    reverse : bool
        The level axis runs from right to left, as wavenumbers do.
    names : tuple of (x, y, text)
        Beside marks, apart from each other.
    light : bool
        Many long lines are drawn as dots in a vector file too: they would weigh more than all the rest.
    """

    width: float = SINGLE
    height: float = 64.0
    points: float = 8.0
    title: str | None = None
    x_title: str | None = None
    y_title: str | None = None
    dots: int = 300
    legend: tuple[tuple[int, str], ...] = ()
    x_range: Ends = (None, None)
    y_range: Ends = (None, None)
    reverse: bool = False
    names: tuple[tuple[float, float, str], ...] = ()
    light: bool = False
