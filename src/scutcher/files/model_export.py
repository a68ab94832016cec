"""A model that runs without Scutcher, proven against what Scutcher itself gives."""

from __future__ import annotations

import json
import runpy
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError, ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.folding import Folded, folded
from scutcher.core.models.pca.saved_model import SavedModel, project
from scutcher.files.content_seal import KEY, sealed
from scutcher.files.model_json import model_plain
from scutcher.files.numpy_script import write_numpy_script
from scutcher.files.onnx_graph import describe, onnx_graph, run_graph
from scutcher.files.pmml_running import run_pmml
from scutcher.files.pmml_text import pmml_bytes, pmml_document
from scutcher.files.safely import write_bytes

MUTATED = 100
ALLOWED = 1e-8
"""Largest difference, over the largest value of an output, at which a file is handed out."""


@frozen
class Exported:
    """What was written, and the largest relative difference over so many spectra."""

    written: tuple[Path, ...]
    difference: float
    spectra: int
    of: str

    @property
    def sentence(self) -> str:
        """The proof in words."""
        return (
            f"Over {self.spectra} spectra ({self.of}) it differs from Scutcher by at most "
            f"{self.difference:.1e} of the largest value of each output."
        )


def export_model(model: SavedModel, to: str, out: Path, samples: Table | None = None) -> Exported:
    """Write a model as "onnx", "numpy" or "pmml", run it on spectra and compare with `project`.

    Parameters
    ----------
    samples : Table or None
        Spectra over the model's channels that the proof is made with, beside changed ones; made-up
        spectra where there are none.

    Raises
    ------
    ModelError
        A treatment has no such form, or the file does not agree.
    FileError
        It cannot be written, or its package is missing.
    """
    wanted_end = {"onnx": ".onnx", "numpy": ".py", "pmml": ".pmml"}[to]
    if out.suffix != wanted_end:
        raise FileError(f"{out.name} does not end in {wanted_end}.", f"Name it {out.stem}{wanted_end}.")
    plain = folded(model)
    spectra, of = _spectra(model, samples)
    table = Table(values=spectra, axis=model.axis, ids=tuple(f"{row}" for row in range(len(spectra))))
    found = project(model, table)
    wanted = {"scores": found.scores, "t2": found.t2, "q": found.q}
    if found.joint is not None:
        wanted["joint"] = found.joint
    prove = _Proof(spectra[found.rows], wanted, of)
    writers = {"onnx": _as_onnx, "numpy": _as_script, "pmml": _as_pmml}
    return writers[to](model, plain, out, prove)


@frozen(eq=False)
class _Proof:
    """Spectra (m, p₀), what Scutcher gives of them, and what they are."""

    spectra: Floats
    wanted: dict[str, Floats]
    of: str

    def of_file(self, got: dict[str, Any], written: tuple[Path, ...]) -> Exported:
        """What was found of a file that gives this; a ModelError where it does not agree."""
        return Exported(written, _difference(got, self.wanted), len(self.spectra), self.of)


def _about(model: SavedModel) -> dict[str, str]:
    """What is told of a model in its file."""
    kept = sealed(model_plain(model))
    return {
        "recipe": json.dumps(kept["treat"]),
        "sha256": kept[KEY],
        "unit": model.axis.unit,
        "quantity": model.axis.quantity,
        "level": json.dumps(model.level),
        "basis": model.basis,
        "samples": json.dumps(model.samples),
    }


def _told(exported: Exported) -> str:
    """The proof, as it stands in the file."""
    return json.dumps(
        {
            "largest_relative_difference": exported.difference,
            "spectra": exported.spectra,
            "of": exported.of,
        }
    )


def _as_pmml(model: SavedModel, plain: Folded, out: Path, prove: _Proof) -> Exported:
    about, channels = _about(model), model.axis.labels
    content = pmml_bytes(pmml_document(plain, channels, about))
    exported = prove.of_file(run_pmml(content, prove.spectra), (out,))
    write_bytes(out, pmml_bytes(pmml_document(plain, channels, {**about, "proof": _told(exported)})))
    return exported


def _as_onnx(model: SavedModel, plain: Folded, out: Path, prove: _Proof) -> Exported:
    about = {**_about(model), "channels": json.dumps(list(model.axis.labels))}
    graph = onnx_graph(plain, len(model.axis))
    exported = prove.of_file(run_graph(graph, prove.spectra), (out,))
    about["proof"] = _told(exported)
    describe(graph, about)
    write_bytes(out, graph.SerializeToString())
    return exported


def _as_script(model: SavedModel, plain: Folded, out: Path, prove: _Proof) -> Exported:
    """The script is run in a folder of its own first: what stands at its place stays until it is proven."""
    labels = model.axis.labels
    with TemporaryDirectory() as scratch:
        script, _ = write_numpy_script(Path(scratch) / out.name, plain, labels)
        with np.errstate(all="ignore"):
            got = runpy.run_path(str(script))["project"](prove.spectra)
    exported = prove.of_file(got, (out, out.with_suffix(".npz")))
    write_numpy_script(out, plain, labels, exported.sentence)
    return exported


def _difference(got: dict[str, Any], wanted: dict[str, Floats]) -> float:
    """The largest over outputs of the largest difference over the largest value."""
    worst = 0.0
    for name, right in wanted.items():
        size = max(float(np.abs(right).max(initial=0.0)), 1e-300)
        worst = max(worst, float(np.abs(got[name] - right).max(initial=0.0)) / size)
    if not worst <= ALLOWED:
        raise ModelError(
            f"What was written differs from Scutcher by {worst:.1e} of the largest value.",
            "Nothing was written; report this model.",
        )
    return worst


def _spectra(model: SavedModel, samples: Table | None) -> tuple[Floats, str]:
    """Spectra (m, p₀) that a proof is made with, and what they are."""
    rng, p = np.random.default_rng(1), len(model.axis)
    if samples is None:
        base = 1.0 + 0.3 * np.sin(np.linspace(0.0, 7.0, p))
        sizes = 0.2 * rng.standard_normal((MUTATED, 1))
        return base * np.exp(sizes + 0.05 * rng.random((MUTATED, p))), "made-up"
    own = samples.values[samples.used_rows()]
    if model.fill is None:
        own = own[~np.isnan(own).any(axis=1)]
    chosen = own[rng.integers(len(own), size=MUTATED)]
    mutated = chosen * (1.0 + 0.05 * rng.random((MUTATED, 1))) * (1.0 + 0.02 * rng.random((MUTATED, p)))
    return np.vstack([own, mutated]), f"{len(own)} training, {MUTATED} changed"
