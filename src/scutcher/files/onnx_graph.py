"""A model as an ONNX graph in double precision: raw spectra in, scores, distances and flags out."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import numpy as np

from scutcher import __version__
from scutcher.core.arrays import Floats
from scutcher.core.errors import FileError
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

if TYPE_CHECKING:
    from onnx import ModelProto

OPSET, IR_VERSION = 18, 10


class _Graph:
    """Nodes and constants as they come."""

    def __init__(self) -> None:
        self.nodes: list[Any] = []
        self.constants: list[Any] = []

    def constant(self, value: Any) -> str:
        """The name of an array."""
        from onnx import numpy_helper

        name = f"c{len(self.constants)}"
        array = np.ascontiguousarray(value) if np.ndim(value) else np.asarray(value)
        self.constants.append(numpy_helper.from_array(array, name))
        return name

    def number(self, value: float) -> str:
        """The name of a number in double precision."""
        return self.constant(np.float64(value))

    def node(self, kind: str, *inputs: str, named: str = "", **attributes: Any) -> str:
        """The name of what an operator gives."""
        from onnx import helper

        name = named or f"v{len(self.nodes)}"
        self.nodes.append(helper.make_node(kind, list(inputs), [name], **attributes))
        return name

    def over_rows(self, kind: str, x: str, keep: bool = True, named: str = "") -> str:
        """ReduceMean, ReduceSum or ReduceMax over the channels of each row."""
        axes = self.constant(np.array([1], dtype=np.int64))
        return self.node(kind, x, axes, named=named, keepdims=int(keep))


def onnx_graph(model: Folded, channels: int) -> ModelProto:
    """The graph of a model over so many raw channels.

    Raises
    ------
    FileError
        The onnx package is not installed.
    """
    try:
        from onnx import TensorProto, checker, helper
    except ImportError as error:
        raise FileError(
            "ONNX files are written with the onnx package, which is not installed.",
            "Install scutcher[onnx].",
        ) from error
    graph = _Graph()
    x = "spectra"
    for operation in model.operations:
        x = _node_of(graph, operation, x)
    distances = _distances(graph, model, x)
    _flags(graph, model, distances)
    double, k = TensorProto.DOUBLE, model.loadings.shape[1]
    outputs = [helper.make_tensor_value_info("scores", double, ["n", k])]
    outputs += [helper.make_tensor_value_info(name, double, ["n"]) for name in distances]
    outputs.append(helper.make_tensor_value_info("past", TensorProto.BOOL, ["n"]))
    inputs = [helper.make_tensor_value_info("spectra", double, ["n", channels])]
    made = helper.make_model(
        helper.make_graph(graph.nodes, "scutcher", inputs, outputs, graph.constants),
        opset_imports=[helper.make_opsetid("", OPSET)],
        ir_version=IR_VERSION,
        producer_name="scutcher",
        producer_version=__version__,
    )
    helper.set_model_props(made, {"limits": json.dumps(model.limits), "scutcher": __version__})
    checker.check_model(made, full_check=True)
    return made


def describe(made: ModelProto, about: dict[str, str]) -> None:
    """Put more into the metadata of a graph."""
    for key, value in about.items():
        made.metadata_props.add(key=key, value=value)


def run_graph(made: ModelProto, spectra: Floats) -> dict[str, np.ndarray]:
    """What the graph gives of raw spectra (n, p₀), by the evaluator that comes with the format."""
    from onnx.reference import ReferenceEvaluator

    names = [output.name for output in made.graph.output]
    with np.errstate(all="ignore"):
        found: Any = ReferenceEvaluator(made).run(names, {"spectra": np.ascontiguousarray(spectra)})
    return dict(zip(names, found, strict=True))


def _node_of(graph: _Graph, operation: Operation, x: str) -> str:
    if isinstance(operation, Linear):
        turned = graph.node("MatMul", x, graph.constant(operation.matrix))
        return graph.node("Add", turned, graph.constant(operation.offset))
    if isinstance(operation, Fill):
        return graph.node("Where", graph.node("IsNaN", x), graph.constant(operation.values), x)
    if isinstance(operation, Scale):
        centred = graph.node("Sub", x, graph.constant(operation.centre))
        return graph.node("Mul", centred, graph.constant(operation.weight))
    if isinstance(operation, Snv):
        away = graph.node("Sub", x, graph.over_rows("ReduceMean", x))
        squares = graph.over_rows("ReduceMean", graph.node("Mul", away, away))
        return graph.node("Div", away, graph.node("Sqrt", _of_n_less_one(graph, squares, x)))
    if isinstance(operation, Msc):
        return _msc(graph, operation, x)
    if isinstance(operation, Divide):
        size = _size(graph, operation.by, x)
        positive = graph.node("Greater", size, graph.number(0.0))
        return graph.node("Div", x, graph.node("Where", positive, size, graph.number(np.nan)))
    assert isinstance(operation, Elementwise)
    if operation.function == "log10":
        return graph.node("Div", graph.node("Log", x), graph.number(np.log(10.0)))
    return graph.node("Sqrt", x)


def _of_n_less_one(graph: _Graph, mean_square: str, x: str) -> str:
    """Mean squares over p as a variance over p − 1."""
    from onnx import TensorProto

    shape = graph.node("Shape", x, start=1, end=2)
    p = graph.node("Cast", shape, to=TensorProto.DOUBLE)
    return graph.node("Div", graph.node("Mul", mean_square, p), graph.node("Sub", p, graph.number(1.0)))


def _msc(graph: _Graph, operation: Msc, x: str) -> str:
    reference = operation.reference
    away = reference - reference.mean()
    mean = graph.over_rows("ReduceMean", x)
    along = graph.constant((away / float(away @ away))[:, np.newaxis])
    slope = graph.node("MatMul", graph.node("Sub", x, mean), along)
    raised = graph.node("Mul", slope, graph.number(float(reference.mean())))
    offset = graph.node("Sub", mean, raised)
    return graph.node("Div", graph.node("Sub", x, offset), slope)


def _size(graph: _Graph, by: str, x: str) -> str:
    if by == "length":
        return graph.node("Sqrt", graph.over_rows("ReduceSum", graph.node("Mul", x, x)))
    return graph.over_rows("ReduceSum" if by == "sum" else "ReduceMax", x)


def _distances(graph: _Graph, model: Folded, z: str) -> list[str]:
    """Scores, T², Q and the joint distance; the names of the distances."""
    scores = graph.node("MatMul", z, graph.constant(model.loadings), named="scores")
    left = graph.node("Sub", z, graph.node("MatMul", scores, graph.constant(model.loadings.T)))
    weighed = graph.node("Div", graph.node("Mul", scores, scores), graph.constant(model.eigenvalues))
    t2 = graph.over_rows("ReduceSum", weighed, keep=False, named="t2")
    q = graph.over_rows("ReduceSum", graph.node("Mul", left, left), keep=False, named="q")
    if model.joint is None:
        return ["t2", "q"]
    h0, q0, nh, nq = model.joint
    h = graph.node("Div", t2, graph.number(model.samples - 1.0))
    h = graph.node("Add", h, graph.number(1.0 / model.samples))
    inside = graph.node("Mul", h, graph.number(nh / h0))
    graph.node("Add", inside, graph.node("Mul", q, graph.number(nq / q0)), named="joint")
    return ["t2", "q", "joint"]


def _flags(graph: _Graph, model: Folded, distances: list[str]) -> None:
    """Whether any limit is passed; also where a distance is undefined."""
    kept = [(name, model.limits[name]) for name in distances if model.limits.get(name) is not None]
    within = [graph.node("LessOrEqual", name, graph.number(float(limit or 0.0))) for name, limit in kept]
    if not within:
        graph.node("IsNaN", "t2", named="past")
        return
    all_within = within[0]
    for one in within[1:]:
        all_within = graph.node("And", all_within, one)
    graph.node("Not", all_within, named="past")
