"""`unmix`: amounts of shapes in each spectrum, or shapes without references."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.cli.options import DONE, Commands, add_data_options, data_of, say_what_was_not_read, say_written

if TYPE_CHECKING:
    from scutcher.core.data.table import Table
    from scutcher.core.recipes.recipe import Recipe
    from scutcher.core.recipes.unmix_settings import UnmixSettings

RULES = ("free", "not-negative", "sum-to-one")


def add(commands: Commands) -> None:
    """Its place in the command line."""
    unmix = commands.add_parser(
        "unmix", help="amounts of shapes in each spectrum, or shapes without references"
    )
    add_data_options(unmix)
    unmix.add_argument("--shapes", type=Path, metavar="FILE", help="a table with a row for each shape")
    unmix.add_argument(
        "--number", type=int, metavar="K", help="how many shapes are to be found, 2 to 8; given ones are kept"
    )
    unmix.add_argument(
        "--recipe", type=Path, metavar="FILE.toml", help="its treatments are done before; [unmix] says how"
    )
    unmix.add_argument("--rule", choices=RULES, help="of the amounts")
    unmix.add_argument(
        "--background", type=int, metavar="DEGREE", help="of given shapes: -1 none, 0 constant … 4"
    )
    unmix.add_argument("--humps", action="store_true", help="amounts found rise to one hump and fall")
    unmix.add_argument(
        "--windows", action="store_true", help="shapes found are absent outside the windows they appear in"
    )
    unmix.add_argument("--start", choices=("projected", "purest"), help="where unmixing begins")
    unmix.add_argument("--order", metavar="COL", help="the property that puts the samples in order")
    unmix.add_argument("--out", type=Path, required=True, metavar="DIR")
    unmix.set_defaults(run=_unmix)


def _unmix(options: argparse.Namespace) -> int:
    from scutcher.core.recipes.recipe import Recipe
    from scutcher.files.recipe_toml import read_recipe

    whole = data_of(options)
    return unmix_table(options, read_recipe(options.recipe) if options.recipe else Recipe(), whole)


def unmix_table(options: argparse.Namespace, recipe: Recipe, whole: Table) -> int:
    """What the recipe and the call ask for, written into the folder of the call."""
    from scutcher.core.models.missing_values import usable_part
    from scutcher.core.recipes.chain import learn_chain
    from scutcher.core.unmixing.mixture import mixture
    from scutcher.core.unmixing.saved_mixture import SavedMixture
    from scutcher.study.results.unmix_results import write_mixture

    usable = usable_part(whole, recipe.model)
    raw = whole.take(usable.rows, usable.columns)
    steps = tuple(step for step in recipe.treat if step.on)
    table, learned = learn_chain(raw, steps)
    settings = _settings(options, table, recipe.unmix)
    found = mixture(table, settings, _order(table, _said(options, "order")))
    model = SavedMixture(
        raw.axis, steps, learned, table.axis.labels, found.names, found.shapes,
        settings.rule, settings.background_beside, found.q_limit, found.means_of,
    )  # fmt: skip
    methods = [step.method for step in steps]
    say_written(write_mixture(options.out, table, found, settings, model, methods), recipe, options.data)
    say_what_was_not_read(whole)
    return DONE


def _settings(options: argparse.Namespace, table: Table, recipe: UnmixSettings) -> UnmixSettings:
    """Those of the recipe, with what the call says in their place."""
    from msgspec.structs import replace

    from scutcher.core.errors import FileError
    from scutcher.files.shape_tables import read_shapes

    said: dict[str, Any] = {}
    if shapes := _said(options, "shapes"):
        said["shapes"] = read_shapes(shapes, table.axis, options.resample)
    if (number := _said(options, "number")) is not None:
        if not 2 <= number <= 8:
            raise FileError(f"{number} shapes were asked for.", "Ask for 2 to 8.")
        said["number"] = number
    if (degree := _said(options, "background")) is not None:
        if not -1 <= degree <= 4:
            raise FileError(f"A background of degree {degree} is not offered.", "Choose -1 to 4.")
        said["background"] = degree
    said |= {key: value for key in ("rule", "start") if (value := _said(options, key))}
    said |= {name: True for name in ("humps", "windows") if _said(options, name)}
    settings = replace(recipe, **said)
    if not settings.asks:
        raise FileError(
            "Neither shapes nor a number of shapes is given.", "Name --shapes FILE or --number K."
        )
    return settings


def _said(options: argparse.Namespace, name: str) -> Any:
    """What the call says; `fit` knows these only from the recipe."""
    return vars(options).get(name)


def _order(table: Table, column: str | None) -> Any:
    """Rows in the order of a property; by the columns' own telling where none is named."""
    import numpy as np

    from scutcher.core.data.layouts import SeriesLayout
    from scutcher.core.data.series_order import guessed_layout, series_order
    from scutcher.core.errors import TableError

    layout = guessed_layout(table) if column is None else SeriesLayout(column)
    if layout is None:
        return None
    names = [one.name for one in table.properties]
    if layout.position not in names:
        raise TableError(
            f"There is no property {layout.position!r} (there is: {', '.join(names) or 'none'}).",
            "Name one of these.",
        )
    order = series_order(table, layout).order
    missing = np.setdiff1d(np.arange(len(table.ids)), order)
    return np.concatenate([order, missing])
