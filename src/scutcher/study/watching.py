"""A folder that an instrument writes into: new files are read once whole, projected, and kept in a CSV."""

from __future__ import annotations

import csv
import io
import os
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from scutcher.core.errors import FileError, InputError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.saved_model import SavedModel, project
from scutcher.files.formats import read_tables
from scutcher.files.safely import reading, write_text
from scutcher.study.evaluation.new_samples import Newcomers
from scutcher.study.results.apply_results import past_limits

HEADER = ("file", "sample", "t2", "q", "joint", "belongs", "why", "channels")
PATIENCE = 5
"""Looks at an unchanged file that cannot be read, after which it is written down as such."""

Mark = tuple[int, int]
"""Size and time of change of a file: as long as they move, somebody writes."""


@frozen
class Seen:
    """One row of the CSV.

    Attributes
    ----------
    file, sample : str
        The sample is "" where the file could not be read.
    t2, q, joint : float or None
    belongs : "yes", "no" or ""
    why : str
        Which limits it is past, or why it was not read.
    channels : tuple of str
        Where its residual is largest.
    """

    file: str
    sample: str = ""
    t2: float | None = None
    q: float | None = None
    joint: float | None = None
    belongs: str = ""
    why: str = ""
    channels: tuple[str, ...] = ()

    def cells(self) -> list[str]:
        """As text, with 17 significant digits."""
        numbers = ("" if value is None else f"{value:.17g}" for value in (self.t2, self.q, self.joint))
        return [self.file, self.sample, *numbers, self.belongs, self.why, "; ".join(self.channels)]


class Watching:
    """Looks at a folder as often as `look` is called; what it has written survives a kill.

    Parameters
    ----------
    model : SavedModel
        With the limits that are to judge.
    folder : Path
    out : Path
        The CSV; files that stand in it already are not read again.

    Raises
    ------
    FileError
        The folder is missing, or the CSV holds something else or cannot be written.
    """

    def __init__(self, model: SavedModel, folder: Path, out: Path) -> None:
        if not folder.is_dir():
            raise FileError(f"There is no folder {folder}.", "Name the folder that the instrument writes to.")
        self.model, self.folder, self.out = model, folder, out
        self._done: dict[str, Mark | None] = dict.fromkeys(_files_in(out))
        self._before: dict[str, Mark] = {}
        self._tries: dict[str, tuple[Mark, int]] = {}

    def look(self) -> list[Seen]:
        """Read every file that has not changed since the last look and is not in the CSV yet."""
        found: list[Seen] = []
        marks = dict(self._marks())
        for name in sorted(marks):
            mark = marks[name]
            if name in self._done and self._done[name] in (None, mark):
                self._done[name] = mark
                continue
            if self._before.get(name) != mark or not mark[0]:
                continue
            rows = self._read(name, mark)
            if rows is not None:
                _append(self.out, rows)
                self._done[name] = mark
                found += rows
        self._before = {name: mark for name, mark in marks.items() if self._done.get(name) != mark}
        self._tries = {name: tried for name, tried in self._tries.items() if name in self._before}
        return found

    @property
    def waits(self) -> bool:
        """Whether there are files that are not written down yet."""
        return bool(self._before)

    def _marks(self) -> Iterator[tuple[str, Mark]]:
        """The files of the folder, but for hidden ones and the CSV itself."""
        own = os.path.abspath(self.out)
        with reading(self.folder):
            entries = list(os.scandir(self.folder))
        for entry in entries:
            unfinished = entry.name.endswith((".part", ".tmp"))
            if entry.name.startswith(".") or unfinished or os.path.abspath(entry.path) == own:
                continue
            try:
                if entry.is_file():
                    stat = entry.stat()
                    yield entry.name, (stat.st_size, stat.st_mtime_ns)
            except OSError:
                continue  # gone in between

    def _read(self, name: str, mark: Mark) -> list[Seen] | None:
        """Its samples; None where it is to be tried again."""
        try:
            table = read_tables([self.folder / name])
            found = project(self.model, table)
        except InputError as error:
            known, tries = self._tries.get(name, (mark, 0))
            self._tries[name] = (mark, tries + 1 if known == mark else 1)
            return [Seen(name, why=error.problem)] if self._tries[name][1] >= PATIENCE else None
        judged = Newcomers(table, self.model, found, past_limits(self.model, found))
        rows = [_seen(name, judged, row) for row in range(len(found.rows))]
        return rows + [Seen(name, table.ids[row], why=why) for row, why in sorted(found.refused.items())]


def _seen(name: str, judged: Newcomers, row: int) -> Seen:
    found = judged.found
    return Seen(
        name,
        found.table.ids[row],
        float(found.t2[row]),
        float(found.q[row]),
        None if found.joint is None else float(found.joint[row]),
        "yes" if judged.belongs(row) else "no",
        judged.reasons(row).partition(";")[0],
        tuple(judged.top_channels(row)),
    )


def _files_in(out: Path) -> list[str]:
    """The files that stand in a CSV; what was cut off in writing is taken out of it, with all of its file."""
    if not out.exists():
        write_text(out, _csv([HEADER]))
        return []
    with reading(out):
        raw = out.read_bytes()
    whole, end, cut = raw.rpartition(b"\n")
    rows = list(csv.reader(io.StringIO((whole + end).decode("utf-8", "replace"))))
    if not rows or tuple(rows[0]) != HEADER:
        raise FileError(
            f"{out.name} holds something else.", "Name a file that this command wrote, or a new one."
        )
    if cut:
        lost = next(csv.reader([cut.decode("utf-8", "replace")]), [""])[0]
        last = rows[-1][0]
        broken = last if last.startswith(lost) else lost
        rows = [rows[0], *(row for row in rows[1:] if row[0] != broken)]
        write_text(out, _csv(rows))
    return [row[0] for row in rows[1:]]


def _csv(rows: Iterable[Sequence[str]]) -> str:
    text = io.StringIO()
    csv.writer(text, lineterminator="\n").writerows(rows)
    return text.getvalue()


def _append(out: Path, rows: list[Seen]) -> None:
    """Add rows at one stroke; on the disk before this returns."""
    try:
        with out.open("ab") as stream:
            stream.write(_csv(row.cells() for row in rows).encode("utf-8"))
            stream.flush()
            os.fsync(stream.fileno())
    except OSError as error:
        raise FileError(f"{out} cannot be written: {error.strerror}.", "Choose another folder.") from error
