"""The demo sets by name, and writing them with their truth."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings, Step, ValidateSettings
from scutcher.core.treatments import treatment
from scutcher.demo.bark_profile import bark_profile
from scutcher.demo.belt_scan import belt_scan
from scutcher.demo.bench import bench
from scutcher.demo.drying import drying
from scutcher.demo.drying_curves import drying_curves
from scutcher.demo.intake_nir import intake_nir
from scutcher.demo.liquor_landscapes import liquor_landscapes
from scutcher.demo.new_lots import new_lots
from scutcher.demo.practice import practice
from scutcher.demo.tank_log import tank_log
from scutcher.files.results import write_json
from scutcher.files.safely import make_folder
from scutcher.files.writing import write_csv

SETS: dict[str, Callable[[], tuple[Table, dict[str, Any]]]] = {
    "intake-nir": intake_nir,
    "bench": bench,
    "tank-log": tank_log,
    "new-lots": new_lots,
    "belt-scan": belt_scan,
    "drying": drying,
    "bark-profile": bark_profile,
    "drying-curves": drying_curves,
    "liquor-landscapes": liquor_landscapes,
    "practice": practice,
}


def demo_set(name: str) -> tuple[Table, dict[str, Any]]:
    """A demo set and its truth.

    Raises
    ------
    InputError
        There is none of that name.
    """
    if name not in SETS:
        raise InputError(f"There is no demo set {name!r}.", f"Choose one of: {', '.join([*SETS, THREE])}.")
    return SETS[name]()


COMPONENTS = {
    "bench": 3,
    "tank-log": 2,
    "drying": 2,
    "bark-profile": 2,
    "drying-curves": 3,
    "practice": 3,
    "liquor-landscapes": 3,
}


def demo_recipe(name: str = "intake-nir") -> Recipe:
    """The recipe that a demo set opens with: SNV for near-infrared spectra, and as many components as fit."""
    snv = treatment("snv")
    steps = (Step(snv.key, snv.parameters()),) if name in ("intake-nir", "new-lots", "belt-scan") else ()
    scale = ScaleSettings() if name == "liquor-landscapes" else None
    scheme = ValidateSettings(scheme="tiles") if name == "belt-scan" else ValidateSettings()
    model = ModelSettings(components=COMPONENTS.get(name, 4))
    return Recipe(treat=steps, model=model, scale=scale, validate=scheme)


THREE = "three-tables"
"""A demo of several tables on the same lots: these sets, the last one looked at."""

TABLES = ("drying-curves", "bench", "intake-nir")


def three_tables() -> list[tuple[Table, Recipe]]:
    """The tables of a study of several, each with the recipe that suits it as a block."""
    found = []
    for name in TABLES:
        recipe = demo_recipe(name)
        if name == "bench":
            recipe = replace(recipe, model=replace(recipe.model, gaps="fill-mean"))
        found.append((demo_set(name)[0], recipe))
    return found


def write_demo_sets(folder: Path, names: Iterable[str] = ()) -> list[Path]:
    """Write some sets, or all, as NAME.csv with NAME.truth.json beside it; the answer is the files."""
    make_folder(folder)
    written = []
    for name in names or SETS:
        table, truth = SETS[name]()
        data, beside = folder / f"{name}.csv", folder / f"{name}.truth.json"
        write_csv(table, data)
        write_json(beside, truth)
        written += [data, beside]
    return written
