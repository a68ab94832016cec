"""`fit`: a model and its figures."""

from __future__ import annotations

import argparse
import time
from pathlib import Path
from typing import TYPE_CHECKING, get_args

from msgspec.structs import replace

from scutcher.cli.images import add_cluster_option, add_image_options, fit_image_files, wants_image
from scutcher.cli.options import (
    DONE,
    Commands,
    add_data_options,
    data_of,
    role_pairs,
    say_what_was_not_read,
    say_written,
)
from scutcher.core.recipes.recipe import Engine, GapPolicy, Recipe

if TYPE_CHECKING:
    from scutcher.core.data.table import Table


def add(commands: Commands) -> None:
    """Its place in the command line."""
    fit = commands.add_parser("fit", help="fit a component model and write its figures")
    add_data_options(fit)
    add_image_options(fit)
    add_cluster_option(fit)
    add_model_options(fit)
    fit.add_argument(
        "--kind",
        choices=("pca", "class-models", "maf", "unmix"),
        default="pca",
        help="one model of all, one of each class, components of an image, smoothest first, or [unmix]",
    )
    fit.add_argument("--full", action="store_true", help="write treated data and residuals too")
    fit.add_argument("--study", type=Path, metavar="FILE", help="keep data and recipe as a study too")
    fit.set_defaults(run=_fit)


def add_model_options(parser: argparse.ArgumentParser) -> None:
    """Ask for a folder, a recipe, and what is said over it."""
    parser.add_argument("--out", type=Path, required=True, metavar="DIR")
    parser.add_argument("--recipe", type=Path, metavar="FILE.toml")
    parser.add_argument("--components", type=_positive, metavar="K")
    parser.add_argument("--engine", choices=get_args(Engine))
    parser.add_argument("--gaps", choices=get_args(GapPolicy), metavar="POLICY")
    parser.add_argument("--seed", type=int, metavar="N", help="of everything that is drawn at random")


def _fit(options: argparse.Namespace) -> int:
    import scipy.linalg.blas
    import scipy.special  # noqa: F401  (both here, so that their import is not counted as fitting)

    from scutcher.cli.studies import write_study
    from scutcher.cli.unmix import unmix_table
    from scutcher.core.validation.segments import make_segments
    from scutcher.study.evaluation.checks import check, with_slow_lines
    from scutcher.study.evaluation.evaluator import Evaluator
    from scutcher.study.results.fit_results import write_fit

    if wants_image(options):
        return fit_image_files(options, recipe_of(options))
    recipe, table = recipe_of(options), data_of(options)
    if options.kind == "class-models":
        return _fit_classes(options, recipe, table)
    if options.kind == "unmix":
        return unmix_table(options, recipe, table)
    evaluator = Evaluator(keeps=False)
    start = time.perf_counter()
    found = evaluator.evaluate(table, recipe)
    seconds = time.perf_counter() - start
    if recipe.validate.segments is not None or recipe.validate.scheme == "class":
        make_segments(found.part, recipe.validate)  # what cannot be done as it is asked for is refused
    checked = check(found)
    if recipe.validate.scheme != "none":
        checked = with_slow_lines(found, checked)
    say_written(write_fit(options.out, found, checked, seconds, options.full), recipe, options.data)
    if options.study is not None:
        study = write_study(options.study, table, recipe, options.data, role_pairs(options), options.resample)
        print(study)
    say_what_was_not_read(table)
    return DONE


def _fit_classes(options: argparse.Namespace, recipe: Recipe, table: Table) -> int:
    from scutcher.study.evaluation.class_models import class_models
    from scutcher.study.results.class_model_results import write_class_fit

    column = options.classes[0] if options.classes else recipe.groups.column
    say_written(write_class_fit(options.out, class_models(table, recipe, column)), recipe, options.data)
    say_what_was_not_read(table)
    return DONE


def recipe_of(options: argparse.Namespace) -> Recipe:
    """The recipe file, with what was said on the command line."""
    from scutcher.files.recipe_toml import read_recipe

    recipe = read_recipe(options.recipe) if options.recipe else Recipe()
    asked = {"components": options.components, "engine": options.engine, "gaps": options.gaps}
    asked = {name: value for name, value in asked.items() if value is not None}
    recipe = replace(recipe, model=replace(recipe.model, **asked))
    if options.seed is not None:
        recipe = replace(
            recipe,
            validate=replace(recipe.validate, seed=options.seed),
            model=replace(recipe.model, seed=options.seed),
        )
    return recipe


def _positive(text: str) -> int:
    number = int(text)
    if number < 1:
        raise argparse.ArgumentTypeError("must be 1 or more")
    return number
