"""The demo sets by name, and writing them with their truth."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from scutcher.core.errors import InputError
from scutcher.core.recipe import ModelSettings, Recipe, Step
from scutcher.core.table import Table
from scutcher.core.treatments import treatment
from scutcher.demo.intake_nir import intake_nir
from scutcher.files.delimited import write_csv
from scutcher.files.results import write_json
from scutcher.files.safely import make_folder

SETS: dict[str, Callable[[], tuple[Table, dict[str, Any]]]] = {"intake-nir": intake_nir}


def demo_set(name: str) -> tuple[Table, dict[str, Any]]:
    """A demo set and its truth.

    Raises
    ------
    InputError
        There is none of that name.
    """
    if name not in SETS:
        raise InputError(f"There is no demo set {name!r}.", f"Choose one of: {', '.join(SETS)}.")
    return SETS[name]()


def demo_recipe() -> Recipe:
    """The recipe that the demo opens with: SNV, centred, four components."""
    snv = treatment("snv")
    return Recipe(treat=(Step(snv.key, snv.parameters()),), model=ModelSettings(components=4))


def write_demo_sets(folder: Path) -> list[Path]:
    """Write every set as NAME.csv with NAME.truth.json beside it; the answer is the files."""
    make_folder(folder)
    written = []
    for name, make in SETS.items():
        table, truth = make()
        data, beside = folder / f"{name}.csv", folder / f"{name}.truth.json"
        write_csv(table, data)
        write_json(beside, truth)
        written += [data, beside]
    return written
