"""A folder of spectra: files of one kind, subfolders as classes; what else lies there is said."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.progress import Watch, tell
from scutcher.core.words import count_of, first_of
from scutcher.files.spectra import unique_names
from scutcher.files.stacking import on_common_axis, stack
from scutcher.files.xy_text import SUFFIXES, is_xy, read_xy_files

ReadOne = Callable[[Path], Table]


def read_folder(
    folder: Path,
    suffixes: Sequence[str],
    read_one: ReadOne,
    resample: bool = False,
    watch: Watch | None = None,
) -> Table:
    """Read the files of a folder and of its subfolders as one table.

    Parameters
    ----------
    folder : its spectra are those files of which there are most of one kind
    suffixes : the endings that can be read
    read_one : reads a file that is no text of x and y
    resample : whether different axes are brought onto their common channels
    watch : told how far it is

    Raises
    ------
    FileError
        There is nothing to be read, or a file cannot be.
    """
    files = [p for p in sorted(folder.rglob("*")) if p.is_file() and not _hidden(p, folder)]
    spectra = [path for path in files if path.suffix.lower() in SUFFIXES and is_xy(path)]
    known = set(spectra)
    others = [path for path in files if path.suffix.lower() in suffixes and path not in known]
    kinds = Counter(path.suffix.lower() for path in others if not _is_note(path))
    if spectra and len(spectra) >= max(kinds.values(), default=0):
        table = read_xy_files(spectra, folder.name, resample, watch)
        used = spectra
    elif kinds:
        kind = kinds.most_common(1)[0][0]
        used = [path for path in others if path.suffix.lower() == kind and not _is_note(path)]
        table, used = _stacked(used, folder, read_one, resample, watch)
    else:
        raise FileError(
            f"The folder {folder.name} holds no spectra that can be read.",
            "Choose one with text files of x and y, JCAMP-DX or tables.",
        )
    taken = set(used)
    left = [path for path in files if path not in taken]
    return _told(_by_subfolder(table, used, folder), left)


def _stacked(
    paths: Sequence[Path], folder: Path, read_one: ReadOne, resample: bool, watch: Watch | None
) -> tuple[Table, list[Path]]:
    """Files of a table or a spectrum each, under one another; ids that stand twice get the file's name."""
    tables = []
    rows: list[Path] = []
    for place, path in enumerate(paths):
        tell(watch, place / len(paths))
        table = read_one(path)
        if len(table.ids) == 1:
            table = replace(table, ids=(path.stem,))
        tables.append(table)
        rows += [path] * len(table.ids)
    every = [name for table in tables for name in table.ids]
    if len(set(every)) < len(every):
        names = iter(unique_names([f"{path.stem} {name}" for path, name in zip(rows, every, strict=True)]))
        tables = [replace(table, ids=tuple(next(names) for _ in table.ids)) for table in tables]
    if resample:
        tables = on_common_axis(tables)
    whole = tables[0] if len(tables) == 1 else stack(tables)
    return replace(whole, name=folder.name), rows


def _by_subfolder(table: Table, rows: Sequence[Path], folder: Path) -> Table:
    """The table with the subfolder that each sample lies in as a class."""
    parts = [path.relative_to(folder).parts[:-1] for path in rows]
    if len(set(parts)) < 2 or len(rows) != len(table.ids):
        return table
    name = "folder"
    while name in table.column_names:
        name += "_"
    values = tuple("/".join(part) for part in parts)
    return replace(table, classes=(*table.classes, ClassColumn(name, values)))


def _told(table: Table, left: Sequence[Path]) -> Table:
    """The table, saying which files lie there and were not read."""
    if not left:
        return table
    names = first_of([path.name for path in left], 4)
    return table.remarked(f"{count_of(left, 'other file')} in the folder: not read ({names})")


def _hidden(path: Path, folder: Path) -> bool:
    return any(part.startswith((".", "__")) for part in path.relative_to(folder).parts)


def _is_note(path: Path) -> bool:
    """Whether a file is there to be read by people."""
    return path.stem.lower() in (
        "readme",
        "read me",
        "notes",
        "note",
        "license",
        "licence",
        "changelog",
        "about",
    )
