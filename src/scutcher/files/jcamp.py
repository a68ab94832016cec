"""JCAMP-DX: spectra from (X++(Y..Y)), (XY..XY), linked blocks and n-tuples, with the checks enforced.

McDonald & Wilks, Appl. Spectrosc. 42 (1988) 151–162 (4.24); Lampen et al., Appl. Spectrosc. 48 (1994)
1545–1552 (5.0, n-tuples).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.origin import Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import AxesDiffer, FileError
from scutcher.files.columns import Roles
from scutcher.files.jcamp_lines import AGAIN, FEW, MOST_A_LETTER, Record, evenly_spaced, number_in
from scutcher.files.jcamp_numbers import decode_plain
from scutcher.files.safely import reading
from scutcher.files.spectra import Spectrum, table_of

LABEL = re.compile(r"^\s*##([^=]*)=(.*)$")
X_UNITS = {
    "1/CM": ("wavenumber", "cm⁻¹"), "CM-1": ("wavenumber", "cm⁻¹"), "CM^-1": ("wavenumber", "cm⁻¹"),
    "NANOMETERS": ("wavelength", "nm"), "NM": ("wavelength", "nm"), "NANOMETRES": ("wavelength", "nm"),
    "MICROMETERS": ("wavelength", "µm"), "SECONDS": ("time", "s"), "M/Z": ("m/z", ""),
    "HZ": ("frequency", "Hz"), "PPM": ("shift", "ppm"),
}  # fmt: skip
MOST_OF_FILE = 8_000_000
"""Points of all spectra of a file at least, however few letters it has."""

DATA_LABELS = ("XYDATA", "XYPOINTS", "PEAKTABLE", "DATATABLE")


@dataclass
class Block:
    """A ##TITLE … ##END block with its records and the blocks in it."""

    title: str
    number: int
    records: list[Record] = field(default_factory=list)
    inner: list[Block] = field(default_factory=list)
    told: dict[str, str] = field(default_factory=dict)

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
        spectra = spectra_of(text, roles is not None and "sound-part" in roles.mends)
        table = table_of(spectra, path.stem)
    except AxesDiffer as error:
        raise AxesDiffer(f"{path.name}: {error.problem}", error.remedy) from error
    except FileError as error:
        raise FileError(f"{path.name}: {error.problem}", error.remedy, error.mends) from error
    remarks = tuple(words for spectrum in spectra for words in spectrum.remarks)
    return leave_out_empty(replace(table, origin=Origin("JCAMP-DX", (), remarks)))


def spectra_of(text: str, mended: bool = False) -> list[Spectrum]:
    """Every spectrum of a text, in order; `mended`: where lines are lost or doubled, what is sound."""
    found: list[Spectrum] = []
    room = max(MOST_OF_FILE, MOST_A_LETTER * len(text))
    for block in _blocks(text):
        for spectrum in _spectra_in(block, mended):
            found.append(spectrum)
            room -= len(spectrum.y)
            if room < 0:
                raise FileError(
                    f"Its {len(found)} spectra up to {spectrum.name[:40]!r} claim more points than a file of "
                    "this size has.",
                    AGAIN,
                )
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
        elif open_blocks and match.group(1).strip().startswith(("$CLASS ", "$PROPERTY ")):
            open_blocks[-1].told[match.group(1).strip()[1:]] = match.group(2).strip()
        elif open_blocks and label:
            open_blocks[-1].records.append(Record(label, match.group(2), number))
    if not outer:
        raise FileError("It does not begin with ##TITLE=.", "Choose a JCAMP-DX file.")
    if open_blocks:
        raise FileError(f"The block {open_blocks[-1].title[:40]!r} has no ##END=: it is cut off.", AGAIN)
    return outer


def _spectra_in(block: Block, mended: bool) -> Iterator[Spectrum]:
    for inner in block.inner:
        yield from _spectra_in(inner, mended)
    if block.text("NTUPLES") is not None or any(r.label == "PAGE" for r in block.records):
        yield from _pages(block, mended)
        return
    for record in block.records:
        if record.label in DATA_LABELS:
            made = _spectrum(record, _settings(block), block.title, mended)
            yield replace(made, told=tuple(block.told.items()))


def _settings(block: Block) -> dict[str, str]:
    return {record.label: record.text for record in block.records if record.label not in DATA_LABELS}


def _pages(block: Block, mended: bool) -> Iterator[Spectrum]:
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
            yield _spectrum(record, settings, f"{block.title} {page}".strip(), mended)


def _spectrum(record: Record, settings: dict[str, str], name: str, mended: bool) -> Spectrum:
    form = re.sub(r"\s", "", record.first).upper()
    if "++" in form:
        x, y, told = evenly_spaced(record, settings, mended)
    else:
        x, y, told = _pairs(record, settings, mended)
    unit_text = settings.get("XUNITS", "").strip().upper()
    quantity, unit = X_UNITS.get(unit_text, (settings.get("XUNITS", "").strip().lower(), ""))
    signal = settings.get("YUNITS", "").strip().lower() or "signal"
    return Spectrum(name, x, y, quantity, unit, signal, tuple(f"{name[:40]}: {words}" for words in told))


def _pairs(record: Record, settings: dict[str, str], mended: bool) -> tuple[Floats, Floats, list[str]]:
    numbers: list[float] = []
    for number, text in record.lines:
        line = decode_plain(number, text)
        numbers += [float("nan") if line.x == "?" else float(line.x), *line.ys]
    if len(numbers) % 2 or not numbers:
        raise FileError(f"The points from line {record.number} on do not come in pairs.", AGAIN)
    pairs = np.array(numbers).reshape(-1, 2)
    x = pairs[:, 0] * (number_in(settings, "XFACTOR", 1.0) or 1.0)
    y = pairs[:, 1] * (number_in(settings, "YFACTOR", 1.0) or 1.0)
    if not np.isfinite(x).all() or np.isinf(y).any():
        raise FileError(f"The points from line {record.number} on are not all finite.", AGAIN)
    reach = 0.5 * float(np.ptp(x)) / max(len(x) - 1, 1)
    ends = [number_in(settings, label) for label in ("FIRSTX", "LASTX")]
    meet = all(
        end is not None and abs(end - place) <= reach for end, place in zip(ends, (x[0], x[-1]), strict=True)
    )
    told = [] if mended else _check_count(len(x), settings, record, meet)
    return x, y, told


def _check_count(found: int, settings: dict[str, str], record: Record, ends_meet: bool) -> list[str]:
    """Whether there are as many points as the header says; what differs a little and does no harm is said.

    `ends_meet`: whether the first and the last x are where the header says.
    """
    said = number_in(settings, "NPOINTS")
    if said is None or found == said:
        return []
    words = f"the data from line {record.number} on have {found} points, ##NPOINTS= says {said:.10g}"
    if ends_meet and abs(found - said) <= FEW:
        return [f"{words}; read as they stand"]
    raise FileError(f"{words[0].upper()}{words[1:]}.", AGAIN, ("sound-part",) if found else ())
