"""`blocks`: several tables on the same samples."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.cli.options import DONE, Commands, add_data_options, say_what_was_not_read, say_written
from scutcher.core.errors import InputError

if TYPE_CHECKING:
    from scutcher.core.blocks.saved_blocks import SavedBlocks
    from scutcher.core.data.table import Table
    from scutcher.core.recipes.recipe import Recipe


def add(commands: Commands) -> None:
    """Its place in the command line."""
    blocks = commands.add_parser("blocks", help="several tables on the same samples")
    add_data_options(blocks)
    blocks.add_argument("--match", metavar="COL", help="the column that says which rows are one sample")
    blocks.add_argument(
        "--recipe",
        type=Path,
        action="append",
        metavar="FILE.toml",
        help="treatments and scaling of all, or a file for each table in their order; [blocks] of the first",
    )
    blocks.add_argument(
        "--rank", action="append", metavar="NAME=K", help="components of a block, in place of those suggested"
    )
    blocks.add_argument(
        "--repeats", choices=("mean", "median", "first"), help="what stands for the rows of one sample"
    )
    blocks.add_argument("--series", action="store_true", help="samples follow each other: allow for drift")
    blocks.add_argument("--seed", type=int, metavar="N", help="of the segments that are left out")
    blocks.add_argument("--out", type=Path, required=True, metavar="DIR")
    blocks.set_defaults(run=_blocks)


def _blocks(options: argparse.Namespace) -> int:
    from msgspec.structs import replace as changed

    from scutcher.core.blocks.checking import check_blocks, steady_blocks
    from scutcher.core.blocks.later import incomplete_samples
    from scutcher.core.data.constant_variables import leave_out_dead
    from scutcher.core.errors import RecipeError
    from scutcher.core.recipes.recipe import Recipe
    from scutcher.files.recipe_toml import read_recipe
    from scutcher.study.evaluation.blocks import fitted_sources, source_of
    from scutcher.study.results.block_results import write_blocks

    recipes = [read_recipe(path) for path in options.recipe or ()] or [Recipe()]
    settings = _settings(options, recipes[0])
    read = [_table(options, path, settings.match) for path in options.data]
    tables = [table for table, _ in read]
    if len(recipes) not in (1, len(tables)):
        raise RecipeError(
            f"{len(recipes)} recipes were given for {len(tables)} tables.", "Give one, or one for each table."
        )
    recipes = recipes * len(tables) if len(recipes) == 1 else recipes
    sources = [
        source_of(leave_out_dead(table), recipe, table.name, column)
        for (table, column), recipe in zip(read, recipes, strict=True)
    ]
    fitted = fitted_sources(sources, settings)
    validate = recipes[0].validate
    if options.seed is not None:
        validate = changed(validate, seed=options.seed)
    checked, steady = check_blocks(fitted, validate), steady_blocks(fitted, validate)
    written = write_blocks(options.out, fitted, checked, steady, incomplete_samples(fitted))
    say_written(written, recipes[0], options.data)
    for table in tables:
        say_what_was_not_read(table)
    return DONE


def _table(options: argparse.Namespace, path: Path, match: str) -> tuple[Table, str]:
    """A file, and the class column by which it is matched; "" for its ids or repeats.

    A file without the column is matched by its ids; where the column repeats, its rows are repeats.
    """
    from scutcher.cli.options import data_of

    own = argparse.Namespace(**{**vars(options), "data": [path]})
    plain = data_of(own)
    if not match or match not in plain.origin.columns:
        return plain, ""
    if any(column.name == match for column in plain.classes):
        return plain, match
    try:
        return data_of(argparse.Namespace(**{**vars(own), "id": match})), ""
    except InputError:
        return data_of(argparse.Namespace(**{**vars(own), "replicate": match})), ""


def apply_blocks(options: argparse.Namespace, model: SavedBlocks) -> int:
    """New samples, a file for each table that was measured, whichever it is by name or by variables."""
    from scutcher.core.blocks.projection import by_block, on_blocks
    from scutcher.study.results.block_results import write_new_on_blocks

    match = getattr(options, "match", None) or model.match
    tables = [_table(options, path, match)[0] for path in options.data]
    named = by_block(model, tables, options.resample)
    found = on_blocks(replace(model, match=match), named, options.resample)
    say_written(write_new_on_blocks(options.out, model, found), None, [options.model, *options.data])
    for table in tables:
        say_what_was_not_read(table)
    return DONE


def _settings(options: argparse.Namespace, recipe: Recipe) -> Any:
    from msgspec.structs import replace as changed

    from scutcher.core.errors import RecipeError

    settings = recipe.blocks
    if options.match:
        settings = changed(settings, match=options.match)
    if options.repeats:
        settings = changed(settings, repeats=options.repeats)
    if options.series:
        settings = changed(settings, series=True)
    ranks = dict(settings.ranks)
    for text in options.rank or ():
        name, _, count = text.rpartition("=")
        if not name or not count.isdigit() or not 1 <= int(count) <= 20:
            raise RecipeError(f"{text!r} is no rank of a block.", "Write NAME=K with K from 1 to 20.")
        ranks[name] = int(count)
    return changed(settings, ranks=tuple(ranks.items()))
