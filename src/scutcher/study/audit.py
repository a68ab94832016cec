"""By what, when, by whom and of which files a result was made: it stands in every result."""

from __future__ import annotations

import json
import platform
from collections.abc import Sequence
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import Any

from scutcher import __version__
from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import Recipe, recipe_to_plain
from scutcher.files.content_seal import KEY, sealed
from scutcher.files.content_seal import content_hash as plain_hash
from scutcher.files.hashes import content_hash, size_of
from scutcher.files.results import write_json
from scutcher.study.document.parts import NOWHERE, Source
from scutcher.study.storage.history import who

STAMPED = ("summary.json", "model.json")

MOST_HASHED = 1_000_000_000
"""Bytes of a file that is hashed for an audit: a pass over a larger image would take as long as its model."""

LIBRARIES = ("numpy", "scipy", "pandas", "msgspec", "h5py", "PySide6-Essentials")
"""What numbers, files and the window rest on."""


@frozen
class InputFile:
    """A file that went in: its name, its bytes where they can be counted, SHA-256 where it was taken."""

    name: str
    size: int | None
    sha256: str


@frozen
class Audit:
    """What an auditor asks of a result.

    Attributes
    ----------
    at : str
        UTC, to the second.
    who : str
    program : str
    libraries : tuple of (name, version)
    files : tuple of InputFile
    recipe_hash : str
        SHA-256 of the recipe's plain data, whatever the order of the keys; "" where none went in.
    seeds : tuple of (what, seed)
    """

    at: str
    who: str
    program: str
    libraries: tuple[tuple[str, str], ...]
    files: tuple[InputFile, ...]
    recipe_hash: str = ""
    seeds: tuple[tuple[str, int], ...] = ()

    def plain(self) -> dict[str, Any]:
        """As it stands in `summary.json` and `model.json`."""
        return {
            "at": self.at,
            "by": self.who,
            "program": self.program,
            "libraries": dict(self.libraries),
            "files": [{"name": one.name, "bytes": one.size, "sha256": one.sha256} for one in self.files],
            "recipe_sha256": self.recipe_hash or None,
            "seeds": dict(self.seeds),
        }


def audit_of(recipe: Recipe | None, source: Source = NOWHERE) -> Audit:
    """The audit of a result that is made now."""
    contents = source.contents if len(source.contents) == len(source.paths) else ("",) * len(source.paths)
    found = tuple(_file(Path(path), kept) for path, kept in zip(source.paths, contents, strict=True))
    return Audit(
        at=datetime.now(UTC).strftime("%Y-%m-%d %H:%M:%S"),
        who=who(),
        program=f"scutcher {__version__}",
        libraries=_libraries(),
        files=found,
        recipe_hash="" if recipe is None else recipe_hash(recipe),
        seeds=() if recipe is None else _seeds(recipe),
    )


def stamp(written: Sequence[Path], recipe: Recipe | None, files: Sequence[Path]) -> None:
    """Put the audit into every `summary.json` and `model.json` that was written; a seal is made anew.

    Raises
    ------
    FileError
        One of them cannot be written again.
    """
    made = audit_of(recipe, Source(paths=tuple(map(str, files)))).plain()
    for path in written:
        if path.name in STAMPED:
            plain = json.loads(path.read_text(encoding="utf-8"))
            sealing = KEY in plain
            whole = {**{key: value for key, value in plain.items() if key != KEY}, "made": made}
            write_json(path, sealed(whole) if sealing else whole)


def _seeds(recipe: Recipe) -> tuple[tuple[str, int], ...]:
    return ("model", recipe.model.seed), ("validation and evidence", recipe.validate.seed)


def recipe_hash(recipe: Recipe) -> str:
    """SHA-256 of a recipe's plain data."""
    return plain_hash(recipe_to_plain(recipe))


@cache
def _libraries() -> tuple[tuple[str, str], ...]:
    from importlib import metadata  # here: it takes long to load

    found = [("python", platform.python_version())]
    for name in LIBRARIES:
        try:
            found.append((name, metadata.version(name)))
        except metadata.PackageNotFoundError:
            continue
    return tuple(found)


def _file(path: Path, kept: str) -> InputFile:
    """Its size and hash as they are; where it has gone, the hash that was kept."""
    try:
        size = size_of(path)
        return InputFile(path.name, size, kept or (content_hash(path) if size <= MOST_HASHED else ""))
    except FileError:
        return InputFile(path.name, None, kept)
