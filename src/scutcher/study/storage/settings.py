"""What a person has chosen for the whole program, kept in the state folder."""

from __future__ import annotations

import msgspec

from scutcher.core.errors import FileError
from scutcher.files.safely import write_text
from scutcher.study.storage.state_folder import state_folder


class Settings(msgspec.Struct, frozen=True):
    """The choices.

    Attributes
    ----------
    look_first : bool
        Whether every file is shown in the import view before it is taken.
    no_hints : bool
        Whether the hints on the demo were sent away.
    ground : str
        "desktop" (as the desktop says), or a key of `charts.palettes.PALETTES`.
    text : int
        Size of everything in percent; 0 for that of the desktop.
    numbers : str
        "desktop", or with a decimal "point" or "comma".
    cluster : str
        Address of the dask scheduler whose workers go over large images; "" for this machine.
    """

    look_first: bool = False
    no_hints: bool = False
    ground: str = "desktop"
    text: int = 0
    numbers: str = "desktop"
    cluster: str = ""


def settings() -> Settings:
    """The choices as they are kept; those of a new machine where there are none that can be read."""
    try:
        return msgspec.json.decode((state_folder() / "settings.json").read_bytes(), type=Settings)
    except (OSError, msgspec.MsgspecError, FileError):
        return Settings()


def keep(chosen: Settings) -> None:
    """Keep the choices.

    Raises
    ------
    FileError
        The state folder cannot be written.
    """
    write_text(state_folder() / "settings.json", msgspec.json.encode(chosen).decode())
