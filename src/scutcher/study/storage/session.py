"""Which studies were open when the program ended, and what was looked at: for the next start."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import msgspec

from scutcher.core.errors import FileError
from scutcher.files.safely import write_text
from scutcher.study.storage.state_folder import state_folder


class Open(msgspec.Struct, frozen=True):
    """One study that was open, and its page."""

    path: str
    page: str = ""


def keep_session(opened: Sequence[Open]) -> None:
    """Keep what is open.

    Raises
    ------
    FileError
        The state folder cannot be written.
    """
    write_text(state_folder() / "session.json", msgspec.json.encode(list(opened)).decode())


def session() -> list[Open]:
    """What was open and is still there; nothing where it cannot be read."""
    try:
        listed = msgspec.json.decode((state_folder() / "session.json").read_bytes(), type=list[Open])
        return [one for one in listed if Path(one.path).is_absolute() and Path(one.path).exists()]
    except (OSError, ValueError, msgspec.MsgspecError, FileError):
        return []
