"""What belongs to a desktop: entry, icon, file type, metadata, man page, completions."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Mapping
from pathlib import Path

from scutcher import __version__
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


METAINFO = """<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>org.scutcher.scutcher</id>
  <metadata_license>CC0-1.0</metadata_license>
  <project_license>MIT</project_license>
  <name>Scutcher</name>
  <summary>Treat, model and inspect stacked spectra and instrument signals</summary>
  <description>
    <p>Scutcher preprocesses spectra and other instrument signals, builds component models with honest
    validation, and shows scores, loadings, residuals and outliers coloured by class. Series, images and
    several tables of the same samples have pages of their own.</p>
    <ul>
      <li>Treatments with what each did: classes, replicates, noise, held-out error</li>
      <li>Component models, class models, unmixing, several tables side by side</li>
      <li>A study file that keeps every decision, reports that can be checked and signed</li>
    </ul>
  </description>
  <launchable type="desktop-id">scutcher.desktop</launchable>
  <provides>
    <binary>scutcher</binary>
    <mediatype>application/x-scutcher-study</mediatype>
  </provides>
  <categories>
    <category>Science</category>
  </categories>
  <content_rating type="oars-1.1"/>
  <releases>
    <release version="{version}" date="{date}"/>
  </releases>
</component>
"""
RELEASED = "2026-11-28"


def desktop_entry(command: Path) -> str:
    """The text of the desktop entry that starts `command`."""
    return (
        "[Desktop Entry]\nType=Application\nName=Scutcher\n"
        "Comment=Treat, model and inspect stacked spectra and instrument signals\n"
        f'Exec="{command}" open %F\nIcon={NAME}\nTerminal=false\nCategories=Science;Education;\n'
        "MimeType=application/x-scutcher-study;text/csv;\n"
    )


def files_of(data_home: Path, command: Path, told: Mapping[str, str]) -> dict[Path, str]:
    """Every file that belongs to a desktop, with its text.

    Parameters
    ----------
    told : text of the man page and of the completions, by "man", "bash" and "fish"
    """
    metainfo = METAINFO.format(version=__version__, date=RELEASED)
    return {
        data_home / "applications" / f"{NAME}.desktop": desktop_entry(command),
        data_home / "icons" / "hicolor" / "scalable" / "apps" / f"{NAME}.svg": ICON,
        data_home / "mime" / "packages" / f"{NAME}.xml": MIME,
        data_home / "metainfo" / "org.scutcher.scutcher.metainfo.xml": metainfo,
        data_home / "man" / "man1" / f"{NAME}.1": told["man"],
        data_home / "bash-completion" / "completions" / NAME: told["bash"],
        data_home / "fish" / "vendor_completions.d" / f"{NAME}.fish": told["fish"],
    }


def install(data_home: Path, command: Path, told: Mapping[str, str]) -> list[Path]:
    """Write all that belongs to a desktop below an XDG data folder; the answer is the files.

    Raises
    ------
    FileError
        The folder cannot be written to.
    """
    files = files_of(data_home, command, told)
    for path, text in files.items():
        make_folder(path.parent)
        write_text(path, text)
    _tell(data_home)
    return list(files)


def uninstall(data_home: Path, command: Path, told: Mapping[str, str]) -> list[Path]:
    """Take away what `install` has written, and nothing else; the answer is the files."""
    gone = [path for path in files_of(data_home, command, told) if path.exists()]
    for path in gone:
        path.unlink()
    _tell(data_home)
    return gone


def _tell(data_home: Path) -> None:
    """The desktop looks again at what there is."""
    for program, folder in (("update-desktop-database", "applications"), ("update-mime-database", "mime")):
        if shutil.which(program) and (data_home / folder).is_dir():
            subprocess.run([program, str(data_home / folder)], check=False, capture_output=True)
