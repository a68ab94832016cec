"""A model as a Python file that needs only NumPy, with its numbers beside it."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.core.models.pca.folding import (
    Divide,
    Elementwise,
    Fill,
    Folded,
    Linear,
    Msc,
    Operation,
    Scale,
    Snv,
)
from scutcher.files.safely import write_bytes, write_text

SIZES = {
    "sum": "x.sum(axis=1)",
    "length": "np.sqrt((x**2).sum(axis=1))",
    "maximum": "x.max(axis=1)",
}

HEAD = '''"""Scores and distances of new spectra; written by Scutcher {version}. Needs only NumPy.

    from {module} import project
    found = project(spectra)  # (n, {p}) raw spectra on the channels below

`found` has "scores" (n, {k}), "t2", "q"{joint_word} (n,), and "past": whether any limit is passed.
{proof}"""

from pathlib import Path

import numpy as np

with np.load(Path(__file__).with_suffix(".npz")) as file:
    NUMBERS = dict(file)
CHANNELS = NUMBERS["channels"]
LIMITS = {limits}


def treat(x):
    """Raw spectra (n, {p}) to centred and scaled ones."""
'''

TAIL = '''    return x


def project(x):
    """Scores and distances of raw spectra (n, {p})."""
    x = np.atleast_2d(np.asarray(x, dtype=np.float64))
    z = treat(x)
    loadings, eigenvalues = NUMBERS["loadings"], NUMBERS["eigenvalues"]
    scores = z @ loadings
    left = z - scores @ loadings.T
    found = {{"scores": scores, "t2": (scores**2 / eigenvalues).sum(axis=1), "q": (left**2).sum(axis=1)}}
'''

JOINT = """    h0, q0, nh, nq = NUMBERS["joint"]
    h = found["t2"] / ({n} - 1) + 1.0 / {n}
    found["joint"] = nh * h / h0 + nq * found["q"] / q0
"""

END = """    past = np.zeros(len(x), dtype=bool)
    for name, limit in LIMITS.items():
        if limit is not None and name in found:
            past |= ~(found[name] <= limit)  # also where a distance is undefined
    found["past"] = past
    return found
"""


def write_numpy_script(path: Path, model: Folded, channels: tuple[str, ...], proof: str = "") -> list[Path]:
    """NAME.py, and NAME.npz beside it.

    Raises
    ------
    FileError
    """
    numbers: dict[str, Any] = {
        "channels": np.array(channels),
        "loadings": model.loadings,
        "eigenvalues": model.eigenvalues,
    }
    if model.joint is not None:
        numbers["joint"] = np.array(model.joint)
    lines = []
    for place, operation in enumerate(model.operations):
        code, own = _code_of(operation, place)
        lines += [f"    {line}\n" for line in code]
        numbers |= own
    p, k = len(channels), model.loadings.shape[1]
    joint = model.joint is not None
    text = HEAD.format(
        version=__version__, module=path.stem, p=p, k=k, joint_word=', "joint"' if joint else "",
        limits=repr(model.limits), proof=proof and f"{proof}\n",
    )  # fmt: skip
    text += "".join(lines) + TAIL.format(p=p) + (JOINT.format(n=model.samples) if joint else "") + END
    beside, content = path.with_suffix(".npz"), io.BytesIO()
    np.savez(content, allow_pickle=False, **numbers)
    write_text(path, text)
    write_bytes(beside, content.getvalue())
    return [path, beside]


def _code_of(operation: Operation, place: int) -> tuple[list[str], dict[str, Any]]:
    """Lines that do an operation, and the arrays that they name."""
    if isinstance(operation, Linear):
        names = {f"matrix_{place}": operation.matrix, f"offset_{place}": operation.offset}
        return [f'x = x @ NUMBERS["matrix_{place}"] + NUMBERS["offset_{place}"]'], names
    if isinstance(operation, Fill):
        line = f'x = np.where(np.isnan(x), NUMBERS["fill_{place}"], x)'
        return [line], {f"fill_{place}": operation.values}
    if isinstance(operation, Scale):
        names = {f"centre_{place}": operation.centre, f"weight_{place}": operation.weight}
        return [f'x = (x - NUMBERS["centre_{place}"]) * NUMBERS["weight_{place}"]'], names
    if isinstance(operation, Snv):
        return ["x = (x - x.mean(axis=1, keepdims=True)) / x.std(axis=1, ddof=1, keepdims=True)"], {}
    if isinstance(operation, Msc):
        lines = [
            f'm = NUMBERS["reference_{place}"]',
            "d = m - m.mean()",
            "slope = (x - x.mean(axis=1, keepdims=True)) @ d / (d @ d)",
            "x = (x - (x.mean(axis=1) - slope * m.mean())[:, None]) / slope[:, None]",
        ]
        return lines, {f"reference_{place}": operation.reference}
    if isinstance(operation, Divide):
        return [f"size = {SIZES[operation.by]}", "x = x / np.where(size > 0.0, size, np.nan)[:, None]"], {}
    assert isinstance(operation, Elementwise)
    return [f"x = {'np.log10' if operation.function == 'log10' else 'np.sqrt'}(x)"], {}
