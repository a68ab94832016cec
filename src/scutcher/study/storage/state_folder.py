"""Where studies without a name live, and the list of recent ones: the XDG state folder."""

from __future__ import annotations

from contextlib import suppress
from datetime import datetime
from pathlib import Path

import msgspec

from scutcher.core.errors import FileError
from scutcher.files.safely import make_folder, write_text

SUFFIX = ".scutch"
KEPT = 12


def state_folder() -> Path:
    """`$XDG_STATE_HOME/scutcher`; made where it is missing, and of this person alone."""
    folder = _where()
    make_folder(folder)
    with suppress(OSError):  # of a file system that knows no rights
        if folder.stat().st_mode & 0o077:
            folder.chmod(0o700)
    return folder


def _where() -> Path:
    from platformdirs import user_state_path

    return user_state_path("scutcher")


def unnamed_path() -> Path:
    """A free place for a study that has no name yet."""
    stamp = datetime.now().strftime("%Y-%m-%d-%H%M%S-%f")
    return state_folder() / f"unnamed-{stamp}{SUFFIX}"


def is_unnamed(path: Path) -> bool:
    """Whether a study lives in the state folder."""
    return path.parent == _where()


def recent() -> list[Path]:
    """The studies opened last that still exist, the newest first."""
    try:
        listed = msgspec.json.decode((_where() / "recent.json").read_bytes(), type=list[str])
    except (OSError, msgspec.MsgspecError, FileError):
        return []
    return [path for path in map(Path, listed) if path.is_absolute() and _is_there(path)]


def _is_there(path: Path) -> bool:
    """Whether a file is there and may be seen."""
    try:
        return path.exists()
    except OSError:
        return False  # its folder may not be entered


def remember(path: Path) -> None:
    """Put a study first in the list of recent ones."""
    path = path.absolute()
    listed = [path, *(other for other in recent() if other != path)][:KEPT]
    write_text(state_folder() / "recent.json", msgspec.json.encode([str(p) for p in listed]).decode())


def forget(path: Path) -> None:
    """Take a study off the list."""
    listed = [other for other in recent() if other != path.absolute()]
    write_text(state_folder() / "recent.json", msgspec.json.encode([str(p) for p in listed]).decode())
