"""Desktop entry, icon and file type for the person who calls `./run install`, in the XDG data folders."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

from scutcher.files.safely import make_folder, write_text

NAME = "scutcher"
ICON = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64">
<rect width="64" height="64" rx="8" fill="#F3F0E8"/>
<path d="M8 46 C16 46 16 16 24 16 S32 40 38 40 S46 24 56 24" fill="none" stroke="#1F2F6B" stroke-width="4"/>
<path d="M8 50 C18 50 18 28 25 28 S33 47 39 47 S47 36 56 36" fill="none" stroke="#E3B81A" stroke-width="3"/>
<circle cx="46" cy="14" r="6" fill="#CD3C14"/>
</svg>
"""
MIME = """<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="application/x-scutcher-study">
    <comment>Scutcher study</comment>
    <glob pattern="*.scutch"/>
    <icon name="scutcher"/>
  </mime-type>
</mime-info>
"""


def desktop_entry(command: Path) -> str:
    """The text of the desktop entry that starts `command`."""
    return (
        "[Desktop Entry]\nType=Application\nName=Scutcher\n"
        "Comment=Treat, model and inspect stacked spectra and instrument signals\n"
        f'Exec="{command}" open %F\nIcon={NAME}\nTerminal=false\nCategories=Science;Education;\n'
        "MimeType=application/x-scutcher-study;text/csv;\n"
    )


def install(data_home: Path, command: Path) -> list[Path]:
    """Write entry, icon and file type below an XDG data folder; the answer is the files.

    Raises
    ------
    FileError
        The folder cannot be written to.
    """
    files = {
        data_home / "applications" / f"{NAME}.desktop": desktop_entry(command),
        data_home / "icons" / "hicolor" / "scalable" / "apps" / f"{NAME}.svg": ICON,
        data_home / "mime" / "packages" / f"{NAME}.xml": MIME,
    }
    for path, text in files.items():
        make_folder(path.parent)
        write_text(path, text)
    for program, folder in (("update-desktop-database", "applications"), ("update-mime-database", "mime")):
        if shutil.which(program):
            subprocess.run([program, str(data_home / folder)], check=False, capture_output=True)
    return list(files)
