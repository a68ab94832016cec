"""`unmix`: amounts of shapes in each spectrum, or shapes without references."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.cli.options import DONE, Commands, add_data_options, data_of, say_what_was_not_read

if TYPE_CHECKING:
    from scutcher.core.data.table import Table


def add(commands: Commands) -> None:
    """Its place in the command line."""
    unmix = commands.add_parser(
        "unmix", help="amounts of shapes in each spectrum, or shapes without references"
    )
    add_data_options(unmix)
    asked = unmix.add_mutually_exclusive_group(required=True)
    asked.add_argument("--shapes", type=Path, metavar="FILE", help="a table with a row for each shape")
    asked.add_argument("--number", type=int, metavar="K", help="how many shapes are to be found, 2 to 8")
    unmix.add_argument("--recipe", type=Path, metavar="FILE.toml", help="its treatments are done before")
    unmix.add_argument(
        "--rule",
        choices=("free", "not-negative", "sum-to-one"),
        default="not-negative",
        help="of the amounts",
    )
    unmix.add_argument(
        "--background", type=int, default=0, metavar="DEGREE", help="of given shapes: -1 none, 0 constant … 4"
    )
    unmix.add_argument("--humps", action="store_true", help="amounts found rise to one hump and fall")
    unmix.add_argument("--out", type=Path, required=True, metavar="DIR")
    unmix.set_defaults(run=_unmix)


def _unmix(options: argparse.Namespace) -> int:
    from scutcher.core.errors import TableError
    from scutcher.core.recipes.chain import run_step
    from scutcher.files.recipe_toml import read_recipe

    table = data_of(options)
    steps = read_recipe(options.recipe).treat if options.recipe else ()
    for step in steps:
        table = run_step(table, step).table
    if table.has_gaps:
        raise TableError(f"{table.name} has gaps.", "Fill them or leave those spectra out.")
    how: dict[str, Any] = {"rule": options.rule, "treatments": [step.method for step in steps if step.on]}
    written = _with_shapes(options, table, how) if options.shapes else _without(options, table, how)
    for path in written:
        print(path)
    say_what_was_not_read(table)
    return DONE


def _with_shapes(options: argparse.Namespace, table: Table, how: dict[str, Any]) -> list[Path]:
    from scutcher.core.errors import FileError
    from scutcher.core.models.pca.saved_model import on_axis_of
    from scutcher.core.unmixing.shape_sums import shape_sums
    from scutcher.files.formats import read_tables
    from scutcher.study.results.unmix_results import write_sums

    if not -1 <= options.background <= 4:
        raise FileError(f"A background of degree {options.background} is not offered.", "Choose -1 to 4.")
    shapes, _ = on_axis_of(table.axis, read_tables([options.shapes]), options.resample)
    found = shape_sums(table.values, shapes.values, options.rule, options.background)
    how |= {"background": options.background}
    return write_sums(options.out, table, shapes.ids, shapes.values, found, how)


def _without(options: argparse.Namespace, table: Table, how: dict[str, Any]) -> list[Path]:
    from scutcher.core.errors import FileError
    from scutcher.core.unmixing.alternating import unmix
    from scutcher.core.unmixing.turning import turned
    from scutcher.core.unmixing.two_shapes import two_range
    from scutcher.study.results.unmix_results import write_unmixed

    if options.rule == "free":
        raise FileError("Shapes cannot be found with free amounts.", "Choose not-negative or sum-to-one.")
    values = table.values
    found = unmix(values, options.number, options.rule, options.humps)
    exact = options.number == 2 and options.rule == "not-negative" and not options.humps
    opened = two_range(values) if exact else turned(values, found, options.rule, options.humps)
    return write_unmixed(options.out, table, found, opened, how | {"humps": options.humps})
