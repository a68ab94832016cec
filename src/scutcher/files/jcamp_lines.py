"""The evenly spaced lines of JCAMP-DX: each says where it begins, and so where a line is lost or doubled.

McDonald & Wilks, Appl. Spectrosc. 42 (1988) 151–162 (JCAMP-DX 4.24).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.files.jcamp_numbers import PLAIN, Line, decode_packed, decode_plain, is_packed

AGAIN = "Get a complete copy of the file; nothing was imported."
FEW = 2
"""Points by which a header may be off where everything else agrees."""

MOST_POINTS, MOST_A_LETTER = 4_000_000, 25
"""A record may have so many points, or so many for each letter: those of repeats claim more."""

ALIKE = 0.1
"""Share by which the spacing of the labels may differ from that of the header, to be the same axis."""


@dataclass
class Record:
    """A labelled data record: its label in capitals without marks, its text, and where it starts."""

    label: str
    first: str
    number: int
    lines: list[tuple[int, str]] = field(default_factory=list)

    @property
    def text(self) -> str:
        """The text of all its lines."""
        return "\n".join([self.first, *(line for _, line in self.lines)]).strip()


def number_in(settings: dict[str, str], label: str, default: float | None = None) -> float | None:
    """The number of a record; the default where there is none."""
    text = settings.get(label)
    if text is None:
        return default
    match = PLAIN.match(text.strip())
    if match is None or match.group() == "?":
        raise FileError(f"##{label}= is {text[:30]!r}, not a number.", AGAIN)
    value = float(match.group())
    if not np.isfinite(value):
        raise FileError(f"##{label}= is not a finite number.", AGAIN)
    return value


@frozen
class _Start:
    """Where a line says that it begins, and the places (from 0) that this may mean: writers differ."""

    x: float
    reach: float
    places: tuple[int, ...]
    line: Line
    ys: tuple[float, ...]


Answer = tuple[Floats, Floats, list[str]]
"""x, y, and what is said of them."""


def evenly_spaced(record: Record, settings: dict[str, str], mended: bool = False) -> Answer:
    """The points of (X++(Y..Y)) data, (p,) x and y, and what differs in the file and does no harm.

    Parameters
    ----------
    record : the lines
    settings : the header
    mended : whether lines that are lost are left as gaps, and those that stand twice are taken once

    Raises
    ------
    FileError
        A line that is lost, doubled or damaged.
    """
    texts = [text for _, text in record.lines]
    tries = (decode_packed,) if is_packed(texts) else (decode_plain, decode_packed)
    failure: FileError | None = None
    for decode in tries:  # a lone E may be an exponent or a digit: the checks decide
        try:
            lines = list(_within(decode, record))
            return _joined(lines, settings, record, mended)
        except FileError as error:
            failure = failure or error
    assert failure is not None
    raise failure


def _within(decode: Callable[[int, str], Line], record: Record) -> Iterator[Line]:
    """The decoded lines, as long as they have no more points than their letters can mean."""
    room = max(MOST_POINTS, MOST_A_LETTER * sum(len(text) for _, text in record.lines))
    for number, text in record.lines:
        line = decode(number, text)
        room -= len(line.ys)
        if room < 0:
            raise FileError(
                f"The data from line {record.number} on claim more points than a file of this size has.",
                AGAIN,
            )
        yield line


def _joined(lines: Sequence[Line], settings: dict[str, str], record: Record, mended: bool) -> Answer:
    """Join the lines; each y check must hold, and each x be where the line begins."""
    first, last = number_in(settings, "FIRSTX"), number_in(settings, "LASTX")
    if first is None or last is None:
        raise FileError(f"The data from line {record.number} on lack ##FIRSTX= or ##LASTX=.", AGAIN)
    factor = number_in(settings, "XFACTOR", 1.0) or 1.0
    ys, starts = _checked(lines, factor, mended)
    if not ys:
        raise FileError(f"There are no data from line {record.number} on.", AGAIN)
    y = np.array(ys) * (number_in(settings, "YFACTOR", 1.0) or 1.0)
    if np.isinf(y).any():
        raise FileError(f"The data from line {record.number} on are not all finite.", AGAIN)
    said, count = number_in(settings, "NPOINTS"), len(ys)
    spacing = (last - first) / max(count - 1, 1)
    wrong = _off(starts, first, spacing)
    if not wrong and (said is None or said == count):
        even: Floats = np.linspace(first, last, count, dtype=np.float64)
        return even, y, []
    found = _by_labels(starts, first, spacing)
    if mended and (found is None or (said is not None and abs(said - count) > FEW)):
        return _sound_part(starts, first, last, said, settings)
    if said is not None and said != count:
        ends_meet = found is not None and abs(found[0] + found[1] * (count - 1) - last) <= 1.6 * abs(found[1])
        if not ends_meet or abs(said - count) > FEW:
            raise FileError(
                f"The data from line {record.number} on have {count} points, ##NPOINTS= says {said:.10g}.",
                AGAIN, ("sound-part",),
            )  # fmt: skip
    if found is None:
        line, expected = wrong[0].line, first + spacing * wrong[0].places[0]
        raise FileError(
            f"The x check of line {line.number} fails: {wrong[0].x:g} is not {expected:g}.",
            AGAIN,
            ("sound-part",),
        )
    x = found[0] + found[1] * np.arange(count, dtype=np.float64)
    told = []
    if said is not None and said != count:
        told.append(
            f"##NPOINTS= says {said:.10g}, the lines hold {count} points, none is lost: read as they stand"
        )
    if wrong:
        away = max(abs(wrong[0].x - (first + spacing * place)) for place in wrong[0].places[:1])
        told.append(
            f"line {wrong[0].line.number} begins at {wrong[0].x:g}, {away:.3g} away from what ##FIRSTX= and "
            f"##LASTX= say: the axis is that of the lines, {x[0]:g} to {x[-1]:g}"
        )
    return x, y, told


def _checked(lines: Sequence[Line], factor: float, mended: bool) -> tuple[list[float], list[_Start]]:
    """All y values without those that check the line before, and where each line begins."""
    ys: list[float] = []
    starts: list[_Start] = []
    check: float | None = None
    for line in lines:
        values = line.ys
        places: tuple[int, ...] = (len(ys),)
        if check is not None and values:
            if values[0] != check and not mended:
                raise FileError(
                    f"The y check of line {line.number} fails: {values[0]:g} is not {check:g}.", AGAIN
                )
            values = values[1:]
            places = (len(ys) - 1, len(ys))  # writers differ: of the check, or of the next
        starts.append(_start(line, factor, places, values))
        ys += values
        check = ys[-1] if line.ends_in_difference and ys else None
    return ys, starts


def _start(line: Line, factor: float, places: tuple[int, ...], values: Sequence[float]) -> _Start:
    try:
        x = float(line.x) * factor
    except ValueError as error:
        raise FileError(f"Line {line.number} does not begin with its x.", AGAIN) from error
    decimals = len(line.x.partition(".")[2])
    return _Start(x, 0.51 * abs(factor) * 10.0**-decimals, places, line, tuple(values))


def _off(starts: Sequence[_Start], first: float, spacing: float) -> list[_Start]:
    """The lines that do not begin where an axis has them, within what their last digit can tell."""
    return [
        start
        for start in starts
        if min(abs(start.x - first - spacing * place) for place in start.places)
        > max(0.6 * abs(spacing), start.reach) + 1e-6 * abs(first + spacing * start.places[0])
    ]


def _by_labels(starts: Sequence[_Start], first: float, spacing: float) -> tuple[float, float] | None:
    """First x and spacing of the axis that all lines agree on; None where they agree on none."""
    if len(starts) < 2 or spacing == 0.0:
        return None
    x = np.array([start.x for start in starts])
    for which in (-1, 0):  # of the next value, or of the check
        place = np.array([start.places[which] for start in starts], dtype=np.float64)
        if len(set(place.tolist())) < 2:
            continue
        own, begins = np.polyfit(place, x, 1)
        for step in (spacing, float(own)):
            start = float(np.mean(x - step * place)) if step == spacing else float(begins)
            reach = np.array([max(0.3 * abs(step), s.reach) for s in starts]) + 1e-6 * np.abs(x)
            fits = bool((np.abs(x - start - step * place) <= reach).all())
            if fits and abs(step / spacing - 1.0) <= ALIKE:
                near = step == spacing and abs(start - first) <= 0.3 * abs(spacing)
                return (first if near else start), step
    return None


def _sound_part(
    starts: Sequence[_Start], first: float, last: float, said: float | None, settings: dict[str, str]
) -> Answer:
    """Each line where it says that it begins; what is lost is a gap, what stands twice is taken once."""
    step = number_in(settings, "DELTAX") or ((last - first) / (said - 1.0) if said and said > 1 else None)
    if step is None or step == 0.0 or abs((last - first) / step) > 1e8:
        raise FileError("The header does not say the spacing of the channels.", AGAIN)
    count = round((last - first) / step) + 1
    if count < 1:
        step, count = -step, round((first - last) / step) + 1
    y = np.full(max(count, 1), np.nan)
    for start in starts:
        place = round((start.x - first) / step) + (len(start.places) - 1)
        for offset, value in enumerate(start.ys):
            if 0 <= place + offset < len(y):
                y[place + offset] = value
    y *= number_in(settings, "YFACTOR", 1.0) or 1.0
    lost = int(np.isnan(y).sum())
    x: Floats = first + step * np.arange(len(y), dtype=np.float64)
    return x, y, [f"{lost} points of {len(y)} are lost or damaged: left as gaps"]
