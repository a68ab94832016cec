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
        "--to", choices=("onnx", "numpy", "pmml"), required=True, help="ONNX graph, NumPy file or PMML"
    )
    add_limits_option(export)
    export.add_argument("--out", type=Path, required=True, metavar="FILE")
    export.set_defaults(run=_export)


def _export(options: argparse.Namespace) -> int:
    from scutcher.cli.studies import component_model_of, study_of
    from scutcher.files.model_export import export_model

    model = component_model_of(options.model)
    samples = study_of(options.model)[0].table if options.model.suffix == ".scutch" else None
    if samples is not None and samples.axis.labels != model.axis.labels:
        samples = None
    exported = export_model(model.judging(options.limits), options.to, options.out, samples)
    for path in exported.written:
        print(path)
    print(exported.sentence)
    return DONE
