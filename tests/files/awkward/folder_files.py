"""Makes the awkward folders and packed files: name → function that writes it, from the truth."""

import gzip
import zipfile
from pathlib import Path

from tests.files.awkward.text_files import FILES as TEXTS
from tests.files.awkward.truth import IDS, KINDS, NM, VALUES


def spectrum(row: int, cut: str = "\t", decimal: str = ".", third: bool = False) -> str:
    lines = [
        f"{nm:.1f}{cut}{value:.4f}" + (f"{cut}0.01" if third else "")
        for nm, value in zip(NM, VALUES[row], strict=True)
    ]
    return "\n".join(lines).replace(".", decimal) + "\n"


def write(path: Path, text: str, encoding: str = "utf-8") -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(text.encode(encoding))


def subfolders(folder: Path) -> None:
    for row, name in enumerate(IDS):
        write(folder / KINDS[row] / f"{name}.txt", spectrum(row))


def with_readme(folder: Path) -> None:
    write(folder / "README.txt", "Twelve lots, measured in March.\nAsk R. Mohr.\n")
    for row, name in enumerate(IDS):
        write(folder / f"{name}.txt", spectrum(row))


def long_heading(folder: Path) -> None:
    heading = "".join(f"setting {n}: {n} {2 * n}\n" for n in range(1, 45)) + "Wavelength (nm)\tAbsorbance\n"
    for row, name in enumerate(IDS):
        write(folder / f"{name}.asc", heading + spectrum(row))


def footers(folder: Path) -> None:
    for row, name in enumerate(IDS):
        write(folder / f"{name}.txt", spectrum(row) + "end of data\n")


def third_column(folder: Path) -> None:
    for row, name in enumerate(IDS):
        write(folder / f"{name}.dat", spectrum(row, " ", third=True))


def decimal_commas(folder: Path) -> None:
    for row, name in enumerate(IDS):
        write(folder / f"{name}.txt", spectrum(row, ";", ","))


def utf16(folder: Path) -> None:
    for row, name in enumerate(IDS):
        write(folder / f"{name}.txt", "nm\tabs\n" + spectrum(row), "utf-16")


def jcamp(folder: Path) -> None:
    for row, name in enumerate(IDS):
        lines = "\n".join(f"{nm:g}, {value:.4f}" for nm, value in zip(NM, VALUES[row], strict=True))
        head = f"##TITLE={name}\n##JCAMP-DX=4.24\n##DATA TYPE=INFRARED SPECTRUM\n##ORIGIN=made up\n##OWNER=nobody\n"
        head += f"##XUNITS=NANOMETERS\n##YUNITS=ABSORBANCE\n##FIRSTX={NM[0]:g}\n##LASTX={NM[-1]:g}\n##NPOINTS=25\n"
        write(folder / f"{name}.jdx", head + f"##XYPOINTS=(XY..XY)\n{lines}\n##END=\n")


def tables(folder: Path) -> None:
    text = TEXTS["plain.csv"].splitlines(keepends=True)
    write(folder / "monday.csv", "".join(text[:7]))
    write(folder / "tuesday.csv", "".join([text[0], *text[7:]]))


def gzipped(path: Path) -> None:
    path.write_bytes(gzip.compress(TEXTS["plain.csv"].encode(), mtime=0))


def zipped(path: Path) -> None:
    with zipfile.ZipFile(path, "w") as archive:
        for row, name in enumerate(IDS):
            archive.writestr(f"march/{name}.txt", spectrum(row))
        archive.writestr("README.md", "Twelve lots.\n")


FILES = {
    "subfolders": subfolders,
    "with_readme": with_readme,
    "long_heading": long_heading,
    "footers": footers,
    "third_column": third_column,
    "decimal_commas": decimal_commas,
    "utf16": utf16,
    "jcamp": jcamp,
    "tables": tables,
    "plain.csv.gz": gzipped,
    "spectra.zip": zipped,
}
