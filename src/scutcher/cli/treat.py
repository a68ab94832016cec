"""`treat`: treated data as a file."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import DONE, Commands, add_data_options, data_of, say_what_was_not_read


def add(commands: Commands) -> None:
    """Its place in the command line."""
    treat = commands.add_parser("treat", help="treat data and write them as CSV")
    add_data_options(treat)
    treat.add_argument("--recipe", type=Path, required=True, metavar="FILE.toml")
    treat.add_argument("--out", type=Path, required=True, metavar="FILE.csv")
    treat.set_defaults(run=_treat)


def _treat(options: argparse.Namespace) -> int:
    from scutcher.core.models.missing_values import filled, fills, usable_part
    from scutcher.core.recipes.chain import run_step
    from scutcher.core.scaling.scaler import fit_scaler
    from scutcher.files.recipe_toml import read_recipe
    from scutcher.files.results import write_matrix

    recipe, table = read_recipe(options.recipe), data_of(options)
    usable = usable_part(table, recipe.model, least=1)
    part = table.take(usable.rows, usable.columns)
    part = filled(part, fills(part.values, recipe.model.gaps) if part.has_gaps else None)
    for step in recipe.treat:
        part = run_step(part, step).table
    values = part.values
    if recipe.scale is not None:
        values = fit_scaler(values, recipe.scale, part.axis).apply(values)
    write_matrix(options.out, part.ids, part.axis.labels, values)
    print(options.out)
    for row, reason in sorted(usable.left_out_rows.items()):
        print(f"left out: {table.ids[row]} ({reason})")
    for column, reason in sorted(usable.left_out_columns.items()):
        print(f"left out: {table.axis.labels[column]} ({reason})")
    say_what_was_not_read(table)
    return DONE
