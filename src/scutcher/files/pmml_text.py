"""A folded model as PMML 4.4: derived fields from the channels to scores, distances and flags."""

from __future__ import annotations

import xml.etree.ElementTree as Xml
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from scutcher import __version__
from scutcher.core.arrays import Floats
from scutcher.core.errors import ModelError
from scutcher.core.models.pca.folding import Divide, Elementwise, Fill, Folded, Linear, Msc, Scale, Snv

NAMESPACE = "http://www.dmg.org/PMML-4_4"
MOST_TERMS = 300_000
"""Products in the document: of more it would be too large to be read elsewhere."""

NUMBER = {"optype": "continuous", "dataType": "double"}

Expression = Xml.Element


def pmml_document(plain: Folded, channels: Sequence[str], about: Mapping[str, str]) -> Xml.Element:
    """The document; its outputs are PC1…PCk, t2, q, joint, for each distance `…_past`, and `past` for any.

    Parameters
    ----------
    channels : the names of the fields that go in
    about : what is told of the model, as extensions of the header

    Raises
    ------
    ModelError
        It would be too large.
    """
    _check_size(plain)
    root = Xml.Element("PMML", {"version": "4.4", "xmlns": NAMESPACE})
    header = Xml.SubElement(root, "Header", {"description": "Scores and distances of a component model"})
    for name, value in about.items():
        Xml.SubElement(header, "Extension", {"extender": "scutcher", "name": name, "value": value})
    Xml.SubElement(header, "Application", {"name": "scutcher", "version": __version__})
    fields = [f"ch_{label}" for label in channels]
    dictionary = Xml.SubElement(root, "DataDictionary", {"numberOfFields": str(len(fields))})
    for name, label in zip(fields, channels, strict=True):
        Xml.SubElement(dictionary, "DataField", {"name": name, "displayName": label, **NUMBER})
    model = Xml.SubElement(root, "RegressionModel", {"modelName": "scutcher", "functionName": "regression"})
    schema = Xml.SubElement(model, "MiningSchema")
    first = plain.operations[0]
    fill = first.values if isinstance(first, Fill) else None
    for place, name in enumerate(fields):
        given = {} if fill is None else {"missingValueReplacement": repr(float(fill[place]))}
        Xml.SubElement(schema, "MiningField", {"name": name, "usageType": "active", **given})
    output = Xml.SubElement(model, "Output")
    local = Xml.SubElement(model, "LocalTransformations")
    writer = _Writer(local)
    for operation in plain.operations:
        if not isinstance(operation, Fill):
            fields = writer.operation(operation, fields)
    outputs = writer.model(plain, fields)
    for name, field in outputs.items():
        one = Xml.SubElement(output, "OutputField", {"name": name, "feature": "transformedValue", **NUMBER})
        one.append(_field(field))
    table = Xml.SubElement(model, "RegressionTable", {"intercept": "0"})
    Xml.SubElement(table, "NumericPredictor", {"name": outputs["q"], "coefficient": "1"})
    return root


def pmml_bytes(document: Xml.Element) -> bytes:
    """As it stands in a file."""
    found: bytes = Xml.tostring(document, encoding="utf-8", xml_declaration=True)
    return found


def _check_size(plain: Folded) -> None:
    terms = plain.loadings.size
    for operation in plain.operations:
        if isinstance(operation, Linear):
            terms += int(np.count_nonzero(operation.matrix))
    if terms > MOST_TERMS:
        raise ModelError(
            f"As PMML the model would be {terms:,} products; {MOST_TERMS:,} can be read elsewhere.",
            "Bin or thin the channels, or export it to ONNX.",
        )


class _Writer:
    """Writes derived fields, each with a name of its own."""

    def __init__(self, into: Xml.Element) -> None:
        self._into, self._count = into, 0

    def put(self, expression: Expression, name: str = "") -> str:
        """A derived field; its name."""
        self._count += 1
        name = name or f"d{self._count}"
        Xml.SubElement(self._into, "DerivedField", {"name": name, **NUMBER}).append(expression)
        return name

    def operation(self, operation: object, fields: list[str]) -> list[str]:
        """The fields after an operation."""
        return [self.put(one) for one in self._after(operation, fields)]

    def _after(self, operation: object, fields: list[str]) -> Iterator[Expression]:
        if isinstance(operation, Linear):
            for column, offset in zip(operation.matrix.T, operation.offset.tolist(), strict=True):
                yield _weighted(fields, column, offset)
        elif isinstance(operation, Scale):
            for name, centre, weight in zip(fields, operation.centre, operation.weight, strict=True):
                yield _apply("*", _apply("-", _field(name), _number(centre)), _number(weight))
        elif isinstance(operation, Snv):
            mean = self._mean(fields)
            squares = _sum(_square(_apply("-", _field(name), _field(mean))) for name in fields)
            spread = self.put(_apply("sqrt", _apply("/", squares, _number(len(fields) - 1))))
            for name in fields:
                yield _apply("/", _apply("-", _field(name), _field(mean)), _field(spread))
        elif isinstance(operation, Msc):
            yield from self._scatter_corrected(operation, fields)
        elif isinstance(operation, Divide):
            size = self.put(self._size(operation, fields))
            for name in fields:
                yield _apply("/", _field(name), _field(size))
        elif isinstance(operation, Elementwise):
            word = {"log10": "log10", "square-root": "sqrt"}[operation.function]
            for name in fields:
                yield _apply(word, _field(name))
        else:
            raise ModelError(f"{type(operation).__name__} has no form in PMML.", "Export it to ONNX.")

    def _mean(self, fields: list[str]) -> str:
        return self.put(_apply("/", _sum(map(_field, fields)), _number(len(fields))))

    def _scatter_corrected(self, operation: Msc, fields: list[str]) -> Iterator[Expression]:
        reference = operation.reference
        away = reference - reference.mean()
        mean = self._mean(fields)
        slope = self.put(_weighted(fields, away / float(away @ away), 0.0))  # `away` sums to zero
        offset = self.put(
            _apply("-", _field(mean), _apply("*", _field(slope), _number(float(reference.mean()))))
        )
        for name in fields:
            yield _apply("/", _apply("-", _field(name), _field(offset)), _field(slope))

    def _size(self, operation: Divide, fields: list[str]) -> Expression:
        if operation.by == "sum":
            return _sum(map(_field, fields))
        if operation.by == "maximum":
            return _apply("max", *map(_field, fields))
        return _apply("sqrt", _sum(_square(_field(name)) for name in fields))

    def model(self, plain: Folded, fields: list[str]) -> dict[str, str]:
        """Scores, distances and flags of centred and scaled fields; output → the field that it is of."""
        scores = [self.put(_weighted(fields, column, 0.0)) for column in plain.loadings.T]
        outputs = {f"PC{place + 1}": name for place, name in enumerate(scores)}
        t2 = _sum(
            _apply("/", _square(_field(name)), _number(value))
            for name, value in zip(scores, plain.eigenvalues.tolist(), strict=True)
        )
        outputs["t2"] = self.put(t2, "t2")
        whole = self.put(_sum(_square(_field(name)) for name in fields))
        inside = self.put(_sum(_square(_field(name)) for name in scores))
        left = self.put(_apply("-", _field(whole), _field(inside)))
        outputs["q"] = self.put(_apply("max", _field(left), _number(0.0)), "q")
        if plain.joint is not None:
            h0, q0, nh, nq = plain.joint
            n = plain.samples
            leverage = _apply("+", _apply("/", _field("t2"), _number(n - 1)), _number(1.0 / n))
            outputs["joint"] = self.put(
                _apply(
                    "+",
                    _apply("*", leverage, _number(nh / h0)),
                    _apply("*", _field("q"), _number(nq / q0)),
                ),
                "joint",
            )
        for name, limit in plain.limits.items():
            if limit is not None and name in outputs:
                past = _apply("greaterThan", _field(outputs[name]), _number(limit))
                flag = _apply("if", past, _number(1.0), _number(0.0))
                outputs[f"{name}_past"] = self.put(flag, f"{name}_past")
        flags = [field for name, field in outputs.items() if name.endswith("_past")]
        if flags:
            outputs["past"] = self.put(_apply("max", *map(_field, flags), _number(0.0)), "past")
        return outputs


def _field(name: str) -> Expression:
    return Xml.Element("FieldRef", {"field": name})


def _number(value: float) -> Expression:
    made = Xml.Element("Constant", {"dataType": "double"})
    made.text = repr(float(value))
    return made


def _apply(function: str, *arguments: Expression) -> Expression:
    made = Xml.Element("Apply", {"function": function})
    made.extend(arguments)
    return made


def _sum(parts: Iterator[Expression]) -> Expression:
    return _apply("sum", *parts)


def _square(expression: Expression) -> Expression:
    return _apply("pow", expression, _number(2.0))


def _weighted(fields: Sequence[str], weights: Floats, offset: float) -> Expression:
    """`Σ wⱼ xⱼ + b` over the weights that are not zero."""
    terms = [
        _apply("*", _field(name), _number(weight))
        for name, weight in zip(fields, weights.tolist(), strict=True)
        if weight != 0.0
    ]
    return _sum(iter([*terms, _number(offset)]))
