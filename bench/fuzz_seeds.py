"""What the fuzzer begins with: small sound files of every kind, and how each kind is read."""

from __future__ import annotations

import contextlib
import io
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from tests.files.awkward import FOLDER
from tests.files.awkward.old_workbooks import xls, xlsb

from bench.mutating import mutated, renumbered, revalued, rezipped
from scutcher.cli import main
from scutcher.core.errors import InputError
from scutcher.core.treatments import all_treatments
from scutcher.demo.sets import demo_set
from scutcher.files.class_models_json import read_any_model
from scutcher.files.formats import read_tables
from scutcher.files.recipe_toml import read_recipe, recipe_text
from scutcher.files.writing import write_csv, write_table
from scutcher.study.document.commands.recipe import AddStep, KeepComponents
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.storage.rescue import rescue

Mutate = Callable[[bytes, np.random.Generator], bytes]
Take = Callable[[Path], object]

JCAMP = (
    "##TITLE=one\n##JCAMP-DX=4.24\n##DATA TYPE=INFRARED SPECTRUM\n##XUNITS=1/CM\n##YUNITS=ABSORBANCE\n"
    "##FIRSTX=400\n##LASTX=409\n##XFACTOR=1\n##YFACTOR=1\n##NPOINTS=10\n##XYDATA=(X++(Y..Y))\n"
    "400ABCCB\n405A@abc\n##END=\n"
)

LARGEST = 40_000
"""Bytes of a file that is mutated."""

CONTENT = (
    '<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" '
    'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:spreadsheet>'
    '<table:table table:name="one">{}</table:table>'
    "</office:spreadsheet></office:body></office:document-content>"
)


MANIFEST = (
    '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
    '<manifest:file-entry manifest:full-path="/" '
    'manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/>'
    '<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/>'
    "</manifest:manifest>"
)


@dataclass(frozen=True)
class Seed:
    """A sound file: its ending, its content, how it is mutated and how it is read."""

    suffix: str
    content: bytes
    mutate: Mutate
    take: Take


def of_bytes(content: bytes, rng: np.random.Generator) -> bytes:
    """The bytes, or those of the members of an archive."""
    if content[:2] == b"PK" and rng.random() < 0.7:
        return rezipped(content, rng)
    return mutated(content, rng)


def of_plain(content: bytes, rng: np.random.Generator) -> bytes:
    """The values of a JSON text, seldom its bytes."""
    return mutated(content, rng) if rng.random() < 0.15 else revalued(content, rng)


def of_recipe(content: bytes, rng: np.random.Generator) -> bytes:
    """The numbers of a recipe, and sometimes its letters."""
    content = renumbered(content, rng)
    return mutated(content, rng) if rng.random() < 0.3 else content


def take_table(path: Path) -> object:
    """Read it as data."""
    return read_tables([path])


def take_study(path: Path) -> object:
    """Open it; where it is damaged, what is saved of it opens."""
    try:
        return Study.open(path).close()
    except InputError as error:
        if "escue" not in error.remedy:
            raise
    copy = path.with_name("copy.scutch")
    copy.unlink(missing_ok=True)
    rescue(path, copy)
    return Study.open(copy).close()


def take_recipe(path: Path) -> object:
    """Read it and fit with it."""
    recipe = read_recipe(path)
    return Evaluator().evaluate(_small().table, recipe, lenient=True)


@cache
def _small() -> State:
    table, _ = demo_set("bench")
    return State.of("small", table)


@cache
def all_seeds() -> tuple[Seed, ...]:
    """Every kind of file in its share: tables of every format, studies, models, recipes."""
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        tables = [Seed(*pair, of_bytes, take_table) for pair in _tables(place)]
        studies = [Seed(".scutch", content, mutated, take_study) for content in _studies(place)]
        models = [Seed(".json", content, of_plain, read_any_model) for content in _models(place)]
    recipes = [Seed(".toml", text.encode(), of_recipe, take_recipe) for text in _recipes()]
    return tuple(tables + studies * 8 + models * 8 + recipes)


def _tables(folder: Path) -> Iterator[tuple[str, bytes]]:
    """Small files of every format, and all awkward ones that are small."""
    yield from small_tables().items()
    for path in sorted(FOLDER.rglob("*")):
        if path.is_file() and 0 < path.stat().st_size < LARGEST:
            yield "".join(path.suffixes[-2:]) if path.suffix == ".gz" else path.suffix, path.read_bytes()
    table = _small().table
    for suffix in (".parquet", ".h5"):
        write_table(table, folder / f"t{suffix}")
        yield suffix, (folder / f"t{suffix}").read_bytes()
    cells = [["id", "1", "2", "3"], *([f"L{row}", 1.0 * row, 2.0, row * row] for row in range(6))]
    yield ".xls", xls(cells, sheets=2)
    yield ".xlsb", xlsb(cells)
    yield ".ods", _ods(cells)
    yield ".tif", _tiff()


def _ods(cells: list[list[str | float]]) -> bytes:
    rows = "".join(
        "<table:table-row>" + "".join(_open_cell(cell) for cell in row) + "</table:table-row>"
        for row in cells
    )
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", MANIFEST)
        archive.writestr("content.xml", CONTENT.format(rows))
    return stream.getvalue()


def _open_cell(cell: str | float) -> str:
    if isinstance(cell, str):
        said = 'office:value-type="string"'
    else:
        said = f'office:value-type="float" office:value="{cell}"'
    return f"<table:table-cell {said}><text:p>{cell}</text:p></table:table-cell>"


def _tiff() -> bytes:
    import tifffile

    stream = io.BytesIO()
    tifffile.imwrite(stream, np.arange(7 * 5 * 6, dtype=np.uint16).reshape(7, 5, 6))
    return stream.getvalue()


def _studies(folder: Path) -> Iterator[bytes]:
    """One as it was begun, one with a history."""
    for number, steps in enumerate(((), (KeepComponents(2), SetAside((1, 3), "spilled"), KeepComponents(3)))):
        path = folder / f"{number}.scutch"
        study = Study(_small())
        study.keep_in(path)
        for step in steps:
            study.do(step)
        study.close()
        yield path.read_bytes()


def _models(folder: Path) -> Iterator[bytes]:
    """One model, those of classes, shapes of a mixture."""
    rng = np.random.default_rng(1)
    table, _ = demo_set("practice")
    some = table.take(np.sort(rng.choice(len(table.ids), 24, replace=False)))
    data = folder / "d.csv"
    write_csv(some, data)
    kind = some.classes[0].name
    for name, words in (
        ("one", ["fit", str(data)]),
        ("classes", ["fit", str(data), "--class", kind, "--kind", "class-models"]),
        ("shapes", ["unmix", str(data), "--number", "2"]),
    ):
        out = folder / name
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()) as said:
            code = main([*words, "--out", str(out)])
        if code or not (out / "model.json").exists():
            raise RuntimeError(f"no model {name}: {said.getvalue()}")
        yield (out / "model.json").read_bytes()


def _recipes() -> Iterator[str]:
    """One for each treatment."""
    from scutcher.desk.actions.add_treatment import suggested

    state = _small()
    for key, declared in all_treatments().items():
        with contextlib.suppress(InputError):
            step = AddStep(key, suggested(declared, state.table), 0)
            yield recipe_text(step.apply(state).recipe)


def small_tables() -> dict[str, bytes]:
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
