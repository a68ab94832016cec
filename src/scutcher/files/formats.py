"""What can be read and written, by file name ending, and reading several files as one table."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch
from scutcher.files.arrays.choosing import read_hdf5, read_mat, read_netcdf, read_npz, read_tiff, read_zarr
from scutcher.files.arrays.npy import read_npy
from scutcher.files.arrays.raw_numbers import SUFFIXES as RAW
from scutcher.files.arrays.raw_numbers import read_raw
from scutcher.files.columnar import SUFFIXES as COLUMNAR
from scutcher.files.columnar import read_columnar
from scutcher.files.columns import Roles
from scutcher.files.compressed import is_compressed, unpacked
from scutcher.files.delimited import read_delimited
from scutcher.files.folders import read_folder
from scutcher.files.jcamp import read_jcamp
from scutcher.files.layout.reading import Reading
from scutcher.files.stacking import on_common_axis, stack
from scutcher.files.workbook import read_workbook
from scutcher.files.xy_text import SUFFIXES as XY_SUFFIXES
from scutcher.files.xy_text import is_xy, read_xy_files

Reader = Callable[[Path, Roles], Table]


def _read_one_xy(path: Path, roles: Roles) -> Table:
    return read_xy_files([path], path.stem) if is_xy(path) else read_delimited(path, roles)


@frozen
class Format:
    """A file format: what it is called, how its files end, who reads it, whether it is written."""

    name: str
    suffixes: tuple[str, ...]
    read: Reader
    writes: bool
    note: str

    @property
    def cells(self) -> bool:
        """Whether its files are tables in text."""
        return self.read is read_delimited


FORMATS = (
    Format("CSV", (".csv", ".txt"), read_delimited, True, "header row, one row per sample"),
    Format("TSV", (".tsv", ".tab"), read_delimited, False, "the same with tabs"),
    Format("XY text", (".xy", ".dat", ".asc", ".prn", ".dpt"), _read_one_xy, False, "a spectrum per file"),
    Format("XLSX, ODS", (".xlsx", ".ods"), read_workbook, True, "header row, one row per sample"),
    Format("XLS, XLSM, XLSB", (".xls", ".xlsm", ".xlsb"), read_workbook, False, "the same"),
    Format("JCAMP-DX", (".dx", ".jdx", ".jcm"), read_jcamp, True, "one spectrum or many, linked, n-tuples"),
    Format("HDF5", (".h5", ".hdf5"), read_hdf5, True, "the largest matrix with its axis and ids"),
    Format("NetCDF", (".nc", ".cdf"), read_netcdf, False, "the largest matrix with its axis and ids"),
    Format("Parquet, Feather", COLUMNAR, read_columnar, True, "one row per sample; needs pyarrow"),
    Format("Raw numbers", RAW, read_raw, False, "an image of a shape that is said"),
    Format("NumPy array", (".npy",), read_npy, False, "rows are samples, axis 1…p"),
    Format("NumPy archive", (".npz",), read_npz, False, "the largest matrix with its axis and ids"),
    Format("MATLAB", (".mat",), read_mat, False, "the largest matrix with its axis and ids"),
    Format("TIFF stack", (".tif", ".tiff"), read_tiff, False, "a sample for each pixel; needs tifffile"),
    Format("Zarr", (".zarr",), read_zarr, False, "the largest array with its axis; needs zarr"),
)


def read_table(path: Path, roles: Roles | None = None, watch: Watch | None = None) -> Table:
    """Read one file with the reader for its ending.

    Raises
    ------
    FileError, TableError
        The ending is not known, or the file cannot be used.
    """
    if is_compressed(path):
        with unpacked(path) as inside:
            return read_tables([inside], roles, watch)
    for known in FORMATS:
        if path.suffix.lower() in known.suffixes:
            if known.cells:
                return read_delimited(path, roles, watch)
            return known.read(path, roles or Roles())
    endings = ", ".join(suffix for known in FORMATS for suffix in known.suffixes)
    raise FileError(
        f"{path.name} ends in {path.suffix or 'nothing'!r}, which is not a format that can be read.",
        f"Use one of {endings}.",
    )


def read_tables(
    paths: Sequence[Path],
    roles: Roles | None = None,
    watch: Watch | None = None,
    resample: bool = False,
) -> Table:
    """Read files and stack them where their axes agree; a folder stands for the spectra in it."""
    if len(paths) == 1 and is_compressed(paths[0]):
        with unpacked(paths[0]) as inside:
            return read_tables([inside], roles, watch, resample)
    if len(paths) == 1 and paths[0].is_dir() and paths[0].suffix.lower() != ".zarr":
        suffixes = [suffix for known in FORMATS for suffix in known.suffixes]
        return read_folder(paths[0], suffixes, lambda path: read_table(path, roles), resample, watch)
    plain = roles is None or roles.reading == Reading()
    if plain and all(path.suffix.lower() in XY_SUFFIXES and path.is_file() and is_xy(path) for path in paths):
        name = paths[0].stem if len(paths) == 1 else paths[0].parent.name
        return read_xy_files(paths, name, resample, watch)
    tables = [read_table(path, roles, watch) for path in paths]
    if resample:
        tables = on_common_axis(tables)
    return tables[0] if len(tables) == 1 else stack(tables)
