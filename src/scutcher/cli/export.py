"""`export`: a model that runs elsewhere, with its proof."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import DONE, Commands, add_limits_option


def add(commands: Commands) -> None:
    """Its place in the command line."""
    export = commands.add_parser("export", help="a model that runs without Scutcher, with its proof")
    export.add_argument("model", type=Path, metavar="MODEL", help="model.json of fit, or a study")
    export.add_argument(
        "--to", choices=("onnx", "numpy"), required=True, help="an ONNX graph, or a NumPy file to be read"
    )
    add_limits_option(export)
    export.add_argument("--out", type=Path, required=True, metavar="FILE")
    export.set_defaults(run=_export)


def _export(options: argparse.Namespace) -> int:
    from scutcher.cli.studies import model_of_study, study_of
    from scutcher.core.errors import FileError
    from scutcher.core.models.pca.saved_model import SavedModel
    from scutcher.files.class_models_json import read_any_model
    from scutcher.files.model_export import export_model

    samples = None
    if options.model.suffix == ".scutch":
        model, samples = model_of_study(options.model), study_of(options.model)[0].table
        if samples is not None and samples.axis.labels != model.axis.labels:
            samples = None
    else:
        found = read_any_model(options.model)
        if not isinstance(found, SavedModel):
            raise FileError(
                f"{options.model.name} holds no single component model.", "Name a model.json of scutcher fit."
            )
        model = found
    exported = export_model(model.judging(options.limits), options.to, options.out, samples)
    for path in exported.written:
        print(path)
    print(exported.sentence)
    return DONE
