"""`groups`: which classes differ, by how much, where, and whether it holds for left-out samples."""

from __future__ import annotations

import argparse
from typing import get_args

from msgspec.structs import replace

from scutcher.cli.fit import add_model_options, recipe_of
from scutcher.cli.options import DONE, Commands, add_data_options, data_of, say_what_was_not_read, say_written
from scutcher.core.groups.assigning import Method


def add(commands: Commands) -> None:
    """Its place in the command line."""
    groups = commands.add_parser("groups", help="tell classes apart, and check it on left-out samples")
    add_data_options(groups)
    add_model_options(groups)
    groups.add_argument("--method", choices=get_args(Method), help="what a left-out sample is assigned by")
    groups.add_argument("--neighbours", type=int, metavar="N")
    groups.set_defaults(run=_groups)


def _groups(options: argparse.Namespace) -> int:
    from scutcher.study.evaluation.evaluator import Evaluator
    from scutcher.study.evaluation.grouping import grouping_of, held_out_groups, with_p_value
    from scutcher.study.results.group_results import write_groups

    recipe, table = recipe_of(options), data_of(options)
    asked = {"method": options.method, "neighbours": options.neighbours}
    settings = replace(recipe.groups, **{name: value for name, value in asked.items() if value is not None})
    found = Evaluator(keeps=False).evaluate(table, recipe)
    grouping = grouping_of(found, options.classes[0] if options.classes else "", settings)
    held = with_p_value(grouping, held_out_groups(grouping))
    say_written(write_groups(options.out, grouping, held), recipe, options.data)
    say_what_was_not_read(table)
    return DONE
