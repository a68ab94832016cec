"""`apply`: new samples on a saved model."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import (
    DONE,
    Commands,
    add_data_options,
    add_limits_option,
    data_of,
    say_what_was_not_read,
    say_written,
)


def add(commands: Commands) -> None:
    """Its place in the command line."""
    applied = commands.add_parser("apply", help="project new samples onto a saved model")
    applied.add_argument("model", type=Path, metavar="MODEL", help="model.json of fit, or a study")
    add_data_options(applied)
    add_limits_option(applied)
    applied.add_argument(
        "--match", metavar="COL", help="of several tables: the column that says which rows are one sample"
    )
    applied.add_argument("--out", type=Path, required=True, metavar="DIR")
    applied.set_defaults(run=_apply)


def _apply(options: argparse.Namespace) -> int:
    from scutcher.cli.blocks import apply_blocks
    from scutcher.cli.studies import model_of_study
    from scutcher.core.blocks.saved_blocks import SavedBlocks
    from scutcher.core.errors import TableError
    from scutcher.core.models.pca.saved_model import project
    from scutcher.core.unmixing.saved_mixture import SavedMixture, amounts_in
    from scutcher.files.class_models_json import read_any_model
    from scutcher.study.evaluation.class_models import assigned_to
    from scutcher.study.results.apply_results import write_applied
    from scutcher.study.results.class_model_results import write_class_applied
    from scutcher.study.results.unmix_results import write_new_amounts

    of_study = options.model.suffix == ".scutch"
    model = model_of_study(options.model) if of_study else read_any_model(options.model)
    if isinstance(model, SavedBlocks):
        return apply_blocks(options, model)
    table = data_of(options, resample=False)
    try:
        if isinstance(model, SavedMixture):
            written = write_new_amounts(options.out, model, amounts_in(model, table, options.resample))
        elif isinstance(model, list):
            judges = [(name, one.judging(options.limits)) for name, one in model]
            written = write_class_applied(
                options.out, judges, table, *assigned_to(judges, table, options.resample)
            )
        else:
            judge = model.judging(options.limits)
            written = write_applied(options.out, judge, table, project(judge, table, options.resample))
    except TableError as error:
        if "resampled" not in error.remedy:
            raise
        raise TableError(error.problem, "Read them onto the model's axis with --resample.") from error
    say_written(written, None, [options.model, *options.data])
    say_what_was_not_read(table)
    return DONE
