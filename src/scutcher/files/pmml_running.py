"""Runs the expressions of a PMML document of ours, from the document alone: for its proof."""

from __future__ import annotations

import xml.etree.ElementTree as Xml
from collections.abc import Callable
from functools import reduce

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.files.pmml_text import NAMESPACE

AT = f"{{{NAMESPACE}}}"

FUNCTIONS: dict[str, Callable[..., Floats]] = {
    "+": np.add,
    "-": np.subtract,
    "*": np.multiply,
    "/": np.divide,
    "sum": lambda *parts: reduce(np.add, parts),
    "max": lambda *parts: reduce(np.maximum, parts),
    "sqrt": np.sqrt,
    "pow": np.power,
    "log10": np.log10,
    "greaterThan": np.greater,
    "if": np.where,
}


def run_pmml(content: bytes, spectra: Floats) -> dict[str, Floats]:
    """Outputs of a document for spectra (m, p₀): "scores" (m, k), and (m,) of each distance and flag."""
    root = Xml.fromstring(content)
    model = root.find(f"{AT}RegressionModel")
    assert model is not None
    values: dict[str, Floats] = {}
    for field, column in zip(model.iterfind(f"{AT}MiningSchema/{AT}MiningField"), spectra.T, strict=True):
        filled = field.get("missingValueReplacement")
        if filled is not None:
            column = np.where(np.isnan(column), float(filled), column)
        values[field.get("name", "")] = column
    with np.errstate(all="ignore"):
        for field in model.iterfind(f"{AT}LocalTransformations/{AT}DerivedField"):
            values[field.get("name", "")] = _value(field[0], values)
    told = model.iterfind(f"{AT}Output/{AT}OutputField")
    outputs = {field.get("name", ""): _value(field[0], values) for field in told}
    scores = [value for name, value in outputs.items() if name.startswith("PC")]
    rest = {name: value for name, value in outputs.items() if not name.startswith("PC")}
    return {"scores": np.column_stack(scores), **rest}


def _value(expression: Xml.Element, values: dict[str, Floats]) -> Floats:
    kind = expression.tag.removeprefix(AT)
    if kind == "FieldRef":
        return values[expression.get("field", "")]
    if kind == "Constant":
        return np.asarray(float(expression.text or "nan"))
    return FUNCTIONS[expression.get("function", "")](*(_value(one, values) for one in expression))
