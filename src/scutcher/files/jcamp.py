"""JCAMP-DX: spectra from (X++(Y..Y)), (XY..XY), linked blocks and n-tuples, with the checks enforced.

McDonald & Wilks, Appl. Spectrosc. 42 (1988) 151–162 (4.24); Lampen et al., Appl. Spectrosc. 48 (1994)
1545–1552 (5.0, n-tuples).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.constant_variables import leave_out_unusable
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files.columns import Roles
from scutcher.files.jcamp_numbers import PLAIN, Line, decode_packed, decode_plain, is_packed
from scutcher.files.safely import reading
from scutcher.files.spectra import Spectrum, table_of

LABEL = re.compile(r"^\s*##([^=]*)=(.*)$")
X_UNITS = {
    "1/CM": ("wavenumber", "cm⁻¹"), "CM-1": ("wavenumber", "cm⁻¹"), "CM^-1": ("wavenumber", "cm⁻¹"),
    "NANOMETERS": ("wavelength", "nm"), "NM": ("wavelength", "nm"), "NANOMETRES": ("wavelength", "nm"),
    "MICROMETERS": ("wavelength", "µm"), "SECONDS": ("time", "s"), "M/Z": ("m/z", ""),
    "HZ": ("frequency", "Hz"), "PPM": ("shift", "ppm"),
}  # fmt: skip
DATA_LABELS = ("XYDATA", "XYPOINTS", "PEAKTABLE", "DATATABLE")
AGAIN = "Get a complete copy of the file; nothing was imported."


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


@dataclass
class Block:
    """A ##TITLE … ##END block with its records and the blocks in it."""

    title: str
    number: int
    records: list[Record] = field(default_factory=list)
    inner: list[Block] = field(default_factory=list)

    def text(self, label: str) -> str | None:
        """The text of the first record of that label."""
        for record in self.records:
            if record.label == label:
                return record.text
        return None


def read_jcamp(path: Path, roles: Roles | None = None) -> Table:
    """Read every spectrum of a JCAMP-DX file as a sample.

    Raises
    ------
    FileError
        Not JCAMP-DX, cut off, a check of x, y or the number of points that fails, axes that differ.
    """
    with reading(path):
        raw = path.read_bytes()
    if roles is not None and roles.named():
        raise FileError(f"{path.name} has no named columns.", "Leave the column options out.")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    try:
        spectra = spectra_of(text)
        table = table_of(spectra, path.stem)
    except FileError as error:
        raise FileError(f"{path.name}: {error.problem}", error.remedy) from error
    return leave_out_unusable(table)


def spectra_of(text: str) -> list[Spectrum]:
    """Every spectrum of a text, in order."""
    found = []
    for block in _blocks(text):
        found += list(_spectra_in(block))
    if not found:
        raise FileError("There is no spectrum in it.", "Choose a file with XYDATA, XYPOINTS or NTUPLES.")
    return found


def _blocks(text: str) -> list[Block]:
    """The outer blocks; records of a block stand in it, blocks between its records inside it."""
    outer: list[Block] = []
    open_blocks: list[Block] = []
    for number, line in enumerate(text.splitlines(), start=1):
        line = line.split("$$", 1)[0]
        match = LABEL.match(line)
        if match is None:
            if open_blocks and open_blocks[-1].records and line.strip():
                open_blocks[-1].records[-1].lines.append((number, line))
            continue
        label = re.sub(r"[\s/_-]", "", match.group(1)).upper()
        if label == "TITLE":
            if len(open_blocks) > 20:
                raise FileError(f"Line {number} opens a block in more than 20 others.", AGAIN)
            block = Block(match.group(2).strip(), number)
            (open_blocks[-1].inner if open_blocks else outer).append(block)
            open_blocks.append(block)
        elif label == "END" and open_blocks:
            open_blocks.pop()
        elif open_blocks and label:
            open_blocks[-1].records.append(Record(label, match.group(2), number))
    if not outer:
        raise FileError("It does not begin with ##TITLE=.", "Choose a JCAMP-DX file.")
    if open_blocks:
        raise FileError(f"The block {open_blocks[-1].title[:40]!r} has no ##END=: it is cut off.", AGAIN)
    return outer


def _spectra_in(block: Block) -> Iterator[Spectrum]:
    for inner in block.inner:
        yield from _spectra_in(inner)
    if block.text("NTUPLES") is not None or any(r.label == "PAGE" for r in block.records):
        yield from _pages(block)
        return
    for record in block.records:
        if record.label in DATA_LABELS:
            yield _spectrum(block, record, _settings(block), block.title)


def _settings(block: Block) -> dict[str, str]:
    return {record.label: record.text for record in block.records if record.label not in DATA_LABELS}


def _pages(block: Block) -> Iterator[Spectrum]:
    """The spectra of an n-tuple block: one for each page, its variables named by their symbols."""
    general = _settings(block)
    symbols = [cell.strip().upper() for cell in general.get("SYMBOL", "X,Y").split(",")]

    def of(label: str, symbol: str) -> str | None:
        cells = [cell.strip() for cell in general.get(label, "").split(",")]
        place = symbols.index(symbol) if symbol in symbols else -1
        return cells[place] if 0 <= place < len(cells) and cells[place] else None

    page = ""
    for record in block.records:
        if record.label == "PAGE":
            page = record.text
        elif record.label in DATA_LABELS:
            variables = re.match(r"\(\s*(\w+)\+\+\(\s*(\w+)\.\.|\(\s*(\w)(\w)\.\.", record.first)
            names = [name.upper() for name in (variables.groups() if variables else ("X", "Y")) if name]
            x, y = names[0], names[1]
            wanted = (
                ("FIRSTX", "FIRST", x), ("LASTX", "LAST", x), ("XFACTOR", "FACTOR", x),
                ("YFACTOR", "FACTOR", y), ("NPOINTS", "VARDIM", x), ("XUNITS", "UNITS", x),
                ("YUNITS", "UNITS", y),
            )  # fmt: skip
            settings = {name: value for name, label, s in wanted if (value := of(label, s)) is not None}
            yield _spectrum(block, record, settings, f"{block.title} {page}".strip())


def _number(settings: dict[str, str], label: str, default: float | None = None) -> float | None:
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


def _spectrum(block: Block, record: Record, settings: dict[str, str], name: str) -> Spectrum:
    form = re.sub(r"\s", "", record.first).upper()
    if "++" in form:
        x, y = _evenly_spaced(record, settings)
    else:
        x, y = _pairs(record, settings)
    unit_text = settings.get("XUNITS", "").strip().upper()
    quantity, unit = X_UNITS.get(unit_text, (settings.get("XUNITS", "").strip().lower(), ""))
    signal = settings.get("YUNITS", "").strip().lower() or "signal"
    return Spectrum(name, x, y, quantity, unit, signal)


def _pairs(record: Record, settings: dict[str, str]) -> tuple[Floats, Floats]:
    numbers: list[float] = []
    for number, text in record.lines:
        line = decode_plain(number, text)
        numbers += [float("nan") if line.x == "?" else float(line.x), *line.ys]
    if len(numbers) % 2 or not numbers:
        raise FileError(f"The points from line {record.number} on do not come in pairs.", AGAIN)
    _check_count(len(numbers) // 2, settings, record)
    pairs = np.array(numbers).reshape(-1, 2)
    x = pairs[:, 0] * (_number(settings, "XFACTOR", 1.0) or 1.0)
    y = pairs[:, 1] * (_number(settings, "YFACTOR", 1.0) or 1.0)
    if not np.isfinite(x).all() or np.isinf(y).any():
        raise FileError(f"The points from line {record.number} on are not all finite.", AGAIN)
    return x, y


def _check_count(found: int, settings: dict[str, str], record: Record) -> None:
    said = _number(settings, "NPOINTS")
    if said is not None and found != said:
        raise FileError(
            f"The data from line {record.number} on have {found} points, ##NPOINTS= says {said:.10g}.", AGAIN
        )


def _evenly_spaced(record: Record, settings: dict[str, str]) -> tuple[Floats, Floats]:
    texts = [text for _, text in record.lines]
    tries = (decode_packed,) if is_packed(texts) else (decode_plain, decode_packed)
    failure: FileError | None = None
    for decode in tries:  # a lone E may be an exponent or a digit: the checks decide
        try:
            return _checked([decode(number, text) for number, text in record.lines], settings, record)
        except FileError as error:
            failure = failure or error
    assert failure is not None
    raise failure


def _checked(lines: list[Line], settings: dict[str, str], record: Record) -> tuple[Floats, Floats]:
    """Join the lines; each x must be where the line begins, each y check must hold."""
    first, last = _number(settings, "FIRSTX"), _number(settings, "LASTX")
    if first is None or last is None:
        raise FileError(f"The data from line {record.number} on lack ##FIRSTX= or ##LASTX=.", AGAIN)
    x_factor, y_factor = _number(settings, "XFACTOR", 1.0) or 1.0, _number(settings, "YFACTOR", 1.0) or 1.0
    ys: list[float] = []
    starts: list[tuple[tuple[int, ...], Line]] = []
    check: float | None = None
    for line in lines:
        values = line.ys
        if check is not None and values:
            if values[0] != check:
                raise FileError(
                    f"The y check of line {line.number} fails: {values[0]:g} is not {check:g}.", AGAIN
                )
            values = values[1:]
            starts.append(((len(ys) - 1, len(ys)), line))  # writers differ: of the check, or of the next
        else:
            starts.append(((len(ys),), line))
        ys += values
        check = ys[-1] if line.ends_in_difference and ys else None
    count = len(ys)
    _check_count(count, settings, record)
    if count == 0:
        raise FileError(f"There are no data from line {record.number} on.", AGAIN)
    spacing = (last - first) / max(count - 1, 1)
    for allowed, line in starts:
        _check_x([first + spacing * place for place in allowed], spacing, line, x_factor)
    y = np.array(ys) * y_factor
    if np.isinf(y).any():
        raise FileError(f"The data from line {record.number} on are not all finite.", AGAIN)
    return np.linspace(first, last, count), y


def _check_x(expected: list[float], spacing: float, line: Line, factor: float) -> None:
    """The x in front of a line, within what its last digit can tell."""
    try:
        x = float(line.x) * factor
    except ValueError as error:
        raise FileError(f"Line {line.number} does not begin with its x.", AGAIN) from error
    decimals = len(line.x.partition(".")[2])
    reach = max(0.6 * abs(spacing), 0.51 * abs(factor) * 10.0**-decimals) + 1e-6 * abs(expected[0])
    if min(abs(x - place) for place in expected) > reach:
        raise FileError(f"The x check of line {line.number} fails: {x:g} is not {expected[0]:g}.", AGAIN)
