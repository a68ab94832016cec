"""Mutated files of every format: only clear errors, no traceback, no hang, no memory beyond a limit."""

from __future__ import annotations

import io
import resource
import sys
import tempfile
import time
import warnings
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from scutcher.core.errors import InputError
from scutcher.files.formats import read_tables

FILES = 20_000
PATIENCE = 5.0  # seconds for one file of a few kilobytes
MEMORY = 300 * 2**20  # bytes more than at the start, whatever the files claim
JCAMP = (
    "##TITLE=one\n##JCAMP-DX=4.24\n##DATA TYPE=INFRARED SPECTRUM\n##XUNITS=1/CM\n##YUNITS=ABSORBANCE\n"
    "##FIRSTX=400\n##LASTX=409\n##XFACTOR=1\n##YFACTOR=1\n##NPOINTS=10\n##XYDATA=(X++(Y..Y))\n"
    "400ABCCB\n405A@abc\n##END=\n"
)


def seeds() -> dict[str, bytes]:
    """A small sound file of every format, by its ending."""
    rng = np.random.default_rng(1)
    values, axis = np.round(rng.uniform(1.0, 2.0, (6, 9)), 3), np.arange(1000.0, 1018.0, 2.0)
    ids = [f"L{row}" for row in range(6)]
    rows = [",".join([ids[row], "ab"[row % 2], *map(str, values[row])]) for row in range(6)]
    csv = "id,kind," + ",".join(f"{place:g}" for place in axis) + "\n" + "\n".join(rows) + "\n"
    found = {".csv": csv.encode(), ".tsv": csv.replace(",", "\t").encode(), ".dx": JCAMP.encode()}
    found[".xy"] = "\n".join(f"{x:g} {y}" for x, y in zip(axis, values[0], strict=True)).encode()
    named = {"spectra": values, "wavelength": axis, "ids": np.array(ids)}
    for suffix, write in (
        (".npy", lambda stream: np.save(stream, values)),
        (".npz", lambda stream: np.savez_compressed(stream, **named)),
        (".mat", lambda stream: _mat(stream, named)),
        (".h5", lambda stream: _hdf5(stream, named)),
        (".nc", lambda stream: _netcdf(stream, values)),
        (".xlsx", lambda stream: _xlsx(stream, csv)),
    ):
        stream = io.BytesIO()
        write(stream)
        found[suffix] = stream.getvalue()
    return found


def _mat(stream: io.BytesIO, named: dict[str, np.ndarray]) -> None:
    from scipy.io import savemat

    savemat(stream, named, do_compression=True)


def _hdf5(stream: io.BytesIO, named: dict[str, np.ndarray]) -> None:
    import h5py

    with h5py.File(stream, "w") as file:
        for name, values in named.items():
            file[name] = values.astype("S4") if values.dtype.kind == "U" else values


def _netcdf(stream: io.BytesIO, values: np.ndarray) -> None:
    from scipy.io import netcdf_file

    with tempfile.NamedTemporaryFile(suffix=".nc") as kept:
        with netcdf_file(kept.name, "w") as file:
            file.createDimension("n", values.shape[0])
            file.createDimension("p", values.shape[1])
            file.createVariable("spectra", "d", ("n", "p"))[:] = values
        stream.write(Path(kept.name).read_bytes())


def _xlsx(stream: io.BytesIO, csv: str) -> None:
    import openpyxl

    book = openpyxl.Workbook()
    for line in csv.splitlines():
        book.active.append([float(c) if c[:1].isdigit() else c for c in line.split(",")])
    book.save(stream)


def mutated(seed: bytes, rng: np.random.Generator) -> bytes:
    """A file with bytes changed, cut, doubled, or filled with what is special to readers."""
    data = bytearray(seed)
    for _ in range(int(rng.integers(1, 6))):
        place = int(rng.integers(0, max(len(data), 1)))
        kind = rng.integers(0, 6)
        if kind == 0 and data:
            data[min(place, len(data) - 1)] = int(rng.integers(0, 256))
        elif kind == 1:
            del data[place : place + int(rng.integers(1, 40))]
        elif kind == 2:
            data[place:place] = data[place : place + int(rng.integers(1, 60))]
        elif kind == 3:
            data = data[:place]
        elif kind == 4:
            data[place:place] = SPECIAL[int(rng.integers(0, len(SPECIAL)))]
        elif data:
            data[place] = data[place] ^ (1 << int(rng.integers(0, 8)))
    return bytes(data)


SPECIAL = (
    b"\0", b'"', b",,,,", b"\n\n", b"1e999", b"-inf", b"nan", b"=1+1", b"##END=\n", b"##TITLE=x\n",
    b"\xff\xfe", b"9999999999999999999999", b"s999999999",
    b"%%%%", b"\xc3\x28", b"#", b";", b"\r", b"1,5", b"\x7f" * 8,
)  # fmt: skip


def rezipped(seed: bytes, rng: np.random.Generator) -> bytes:
    """A zip archive whose members are mutated and whose checksums are right again."""
    stream = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(seed)) as old, zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in old.infolist():
            content = old.read(entry)
            new.writestr(entry.filename, mutated(content, rng) if rng.random() < 0.4 else content)
    return stream.getvalue()


def trials(count: int, seed: int = 0) -> Iterator[tuple[str, bytes]]:
    """Mutated files, the formats in turn."""
    rng = np.random.default_rng(seed)
    sound = list(seeds().items())
    for trial in range(count):
        suffix, content = sound[trial % len(sound)]
        inside = suffix in (".npz", ".xlsx") and rng.random() < 0.7
        yield suffix, rezipped(content, rng) if inside else mutated(content, rng)


def run(count: int, seed: int = 0) -> dict[str, int]:
    """Read mutated files; count what was read and what was refused with a sentence.

    Raises
    ------
    AssertionError
        A file hung, took memory, or its error was not one that a person can act on.
    """
    outcome = {"read": 0, "refused": 0}
    warnings.simplefilter("ignore")
    with tempfile.TemporaryDirectory() as folder:
        before = 0
        for trial, (suffix, content) in enumerate(trials(count, seed)):
            path = Path(folder) / f"f{suffix}"
            path.write_bytes(content)
            start = time.perf_counter()
            try:
                read_tables([path])
                outcome["read"] += 1
            except InputError as error:
                assert error.problem and error.remedy and "\n" not in error.problem, (trial, str(error))
                outcome["refused"] += 1
            assert time.perf_counter() - start < PATIENCE, f"trial {trial} ({suffix}) took too long"
            if trial == 40:  # by then every library has been loaded
                before = _peak()
        assert _peak() - before < MEMORY, f"{(_peak() - before) / 2**20:.0f} MB more than at the start"
    return outcome


def _peak() -> int:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def report() -> list[str]:
    """The lines of this bench."""
    start = time.perf_counter()
    found = run(FILES)
    seconds = time.perf_counter() - start
    return [
        f"{FILES} mutated files of {len(seeds())} formats in {seconds:.0f} s: {found['read']} read, "
        f"{found['refused']} refused with a sentence, no other outcome",
    ]


if __name__ == "__main__":
    print(run(int(sys.argv[1]), int(sys.argv[2])))
