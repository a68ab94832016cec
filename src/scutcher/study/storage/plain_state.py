"""A state as plain data and back; arrays and long lists stand in it by their hash."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import msgspec
import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.layouts import Layout
from scutcher.core.data.origin import UNKNOWN, Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError, InputError
from scutcher.core.models.kind import kind_of
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import recipe_from_plain, recipe_to_plain
from scutcher.study.document.parts import TOGETHER, DataSet, Model, Reached, SampleUse, Source, Together
from scutcher.study.document.report_settings import ReportSettings
from scutcher.study.document.state import State
from scutcher.study.storage.content_checks import Get, named, numbers, texts

PutArray = Callable[[np.ndarray], str]
PutList = Callable[[Sequence[str]], str]

MOST_CODES = 2**31
"""Of classes, and of steps of a continuous colouring."""

DAMAGED = "The file is damaged; rescue what is sound into a copy."


def state_to_plain(
    state: State, put_array: PutArray, put_list: PutList, put_data: Callable[[DataSet], str] | None = None
) -> dict[str, Any]:
    """Plain data of a state.

    Parameters
    ----------
    put_array, put_list : store content and give its hash
    put_data : stores the values of a data set, which may be linked, and gives their hash
    """

    def values_of(data: DataSet) -> str:
        return put_array(data.table.values) if put_data is None else put_data(data)

    return {
        "name": state.name,
        "colour_by": state.colour_by,
        "current": state.current,
        "made": state.made,
        "datasets": [
            {
                "id": data.id,
                "name": data.name,
                "table": {**_table_to_plain(data.table, put_array, put_list), "values": values_of(data)},
                "source": source_to_plain(data.source),
                "layout": msgspec.to_builtins(data.layout),
            }
            for data in state.datasets
        ],
        "models": [_model_to_plain(model, put_array) for model in state.models],
        "together": [
            {
                "model": _model_to_plain(one.model, put_array),
                "settings": msgspec.to_builtins(one.settings),
                "members": [_model_to_plain(member, put_array) for member in one.members],
            }
            for one in state.together
        ],
        "blocks": msgspec.to_builtins(state.blocks),
        "report": msgspec.to_builtins(state.report),
    }


def source_to_plain(source: Source) -> dict[str, Any]:
    """Plain data of a source."""
    return {
        "paths": list(source.paths),
        "roles": [list(pair) for pair in source.roles],
        "sheet": source.sheet,
        "resampled": source.resampled,
        "transposed": ("samples", "columns") in source.reading,
        "reading": [list(pair) for pair in source.reading],
        "mends": list(source.mends),
        "contents": list(source.contents),
    }


def source_from_plain(plain: Any) -> Source:
    """The source of plain data."""
    return Source(
        tuple(str(path) for path in plain["paths"]),
        tuple((str(name), str(role)) for name, role in plain["roles"]),
        str(plain["sheet"]),
        bool(plain["resampled"]),
        tuple((str(key), str(text)) for key, text in _reading_of(plain)),
        tuple(str(mend) for mend in plain["mends"]),
        tuple(str(content) for content in plain["contents"]),
    )


def _reading_of(plain: Any) -> Any:
    """How a source was read; files that do not say so were read with samples as they say."""
    rows = "columns" if plain["transposed"] else "rows"
    return plain.get("reading", [["samples", rows]] if plain["paths"] else [])


def _model_to_plain(model: Model, put_array: PutArray) -> dict[str, Any]:
    reached = model.reached
    return {
        "id": model.id,
        "name": model.name,
        "dataset": model.dataset,
        "kind": model.kind,
        "recipe": recipe_to_plain(model.recipe),
        "set_aside": [[row, reason] for row, reason in model.use.set_aside.items()],
        "watched": list(model.use.watched),
        "left_out": [[column, reason] for column, reason in model.use.left_out.items()],
        "reached": None
        if reached is None
        else {
            "figures": [list(pair) for pair in reached.figures],
            "scores": put_array(reached.scores),
            "codes": put_array(reached.codes.astype(np.float64)),
        },
    }


def state_from_plain(plain: Any, get: Get) -> State:
    """The state of plain data; `get` gives the content of a hash.

    Raises
    ------
    FileError
        The data are not those of a state.
    """
    try:
        state = State(
            name=named(plain["name"]),
            datasets=tuple(_dataset_from_plain(data, get) for data in plain["datasets"]),
            models=tuple(_model_from_plain(model, get) for model in plain["models"]),
            current=str(plain["current"]),
            colour_by=str(plain["colour_by"]),
            made=int(plain["made"]),
            blocks=msgspec.convert(plain.get("blocks", {}), BlocksSettings),
            report=msgspec.convert(plain.get("report", {}), ReportSettings),
            together=tuple(_together_from_plain(one, get) for one in plain.get("together", [])),
        )
        _check_whole(state)
        return state
    except (LookupError, TypeError, ValueError, AttributeError, msgspec.MsgspecError) as error:
        raise FileError(
            f"A state in the study file cannot be read ({type(error).__name__}: {error}).", DAMAGED
        ) from error
    except FileError:
        raise  # says itself what is wrong with the file
    except InputError as error:
        raise FileError(
            f"A state in the study file cannot be used: {error.problem}", error.remedy or DAMAGED
        ) from error


def _check_whole(state: State) -> None:
    """Everything that is referred to is there."""
    known = {data.id: data for data in state.datasets}
    models = [*state.models, *(one.model for one in state.together)]
    idents = [*known, *(model.id for model in models)]
    if len(set(idents)) != len(state.datasets) + len(models):
        raise ValueError("an id stands twice")
    if (state.models and state.model is None) or bool(state.models) != bool(state.datasets):
        raise ValueError(f"there is no current model {state.current!r}")
    for model in (*models, *(member for one in state.together for member in one.members)):
        n, p = known[model.dataset].table.shape
        rows = [*model.use.set_aside, *model.use.watched]
        if any(not 0 <= row < n for row in rows):
            raise ValueError("a sample is set aside that is not there")
        if any(not 0 <= column < p for column in model.use.left_out):
            raise ValueError("a variable is left out that is not there")


def _dataset_from_plain(plain: Any, get: Get) -> DataSet:
    return DataSet(
        named(plain["id"]),
        named(plain["name"]),
        _table_from_plain(plain["table"], get),
        source_from_plain(plain["source"]),
        msgspec.convert(plain["layout"], Layout),
    )


def _together_from_plain(plain: Any, get: Get) -> Together:
    members = tuple(_model_from_plain(member, get) for member in plain["members"])
    settings = msgspec.convert(plain["settings"], BlocksSettings)
    whole = len({member.dataset for member in members}) == len(members) > 0
    if not whole or max(len(members), len(settings.parts)) < 2:
        raise ValueError("a comparison of tables has not two of them")
    model = _model_from_plain({**plain["model"], "kind": "pca"}, get)
    return Together(replace(model, kind=TOGETHER), settings, members)


def _model_from_plain(plain: Any, get: Get) -> Model:
    reached = plain["reached"]
    return Model(
        id=named(plain["id"]),
        name=named(plain["name"]),
        dataset=str(plain["dataset"]),
        kind=kind_of(str(plain["kind"])).key,
        recipe=recipe_from_plain(plain["recipe"]),
        use=SampleUse(
            {int(row): str(reason) for row, reason in plain["set_aside"]},
            tuple(int(row) for row in plain["watched"]),
            {int(column): str(reason) for column, reason in plain["left_out"]},
        ),
        reached=None
        if reached is None
        else Reached(
            tuple((str(key), float(value)) for key, value in reached["figures"]),
            *_plane(get, reached),
        ),
    )


def _plane(get: Get, reached: Any) -> tuple[np.ndarray, np.ndarray]:
    """The small picture of a model: one or two scores and the class of each sample."""
    scores = numbers(get, reached["scores"], 2, finite=True)
    codes = numbers(get, reached["codes"], 1, finite=True)
    whole = bool((np.abs(codes) < MOST_CODES).all()) and bool((codes == np.round(codes)).all())
    if scores.shape[1] > 2 or len(codes) != len(scores) or not whole:
        raise ValueError("the picture of a model is none")
    return scores, codes.astype(np.intp)


def _table_to_plain(table: Table, put_array: PutArray, put_list: PutList) -> dict[str, Any]:
    axis = table.axis
    return {
        "axis": {
            "labels": put_list(axis.labels),
            "positions": None if axis.positions is None else put_array(axis.positions),
            "quantity": axis.quantity,
            "unit": axis.unit,
        },
        "ids": put_list(table.ids),
        "name": table.name,
        "classes": [
            {"name": c.name, "values": put_list(c.values), "levels": list(c.levels)} for c in table.classes
        ],
        "properties": [
            {"name": c.name, "values": put_array(c.values), "unit": c.unit} for c in table.properties
        ],
        "replicates": None if table.replicates is None else put_list(table.replicates),
        "signal": table.signal,
        "signal_unit": table.signal_unit,
        "origin": {
            "words": table.origin.words,
            "reading": [list(pair) for pair in table.origin.reading],
            "remarks": list(table.origin.remarks),
            "columns": put_list(table.origin.columns),
        },
    }


def _table_from_plain(plain: Any, get: Get) -> Table:
    axis = plain["axis"]
    labels = tuple(texts(get, axis["labels"]))
    positions = None if axis["positions"] is None else numbers(get, axis["positions"], 1, finite=True)
    if positions is not None and len(positions) != len(labels):
        raise ValueError("an axis has not as many positions as labels")
    return Table(
        values=numbers(get, plain["values"], 2),
        axis=Axis(labels, positions, str(axis["quantity"]), str(axis["unit"])),
        ids=texts(get, plain["ids"]),
        name=named(plain["name"]),
        classes=tuple(
            ClassColumn(named(c["name"]), texts(get, c["values"]), tuple(str(level) for level in c["levels"]))
            for c in plain["classes"]
        ),
        properties=tuple(
            PropertyColumn(named(c["name"]), numbers(get, c["values"], 1), str(c["unit"]))
            for c in plain["properties"]
        ),
        replicates=None if plain["replicates"] is None else texts(get, plain["replicates"]),
        signal=str(plain["signal"]),
        signal_unit=str(plain["signal_unit"]),
        origin=_origin_from_plain(plain.get("origin"), get),
    )


def _origin_from_plain(plain: Any, get: Get) -> Origin:
    """How a table was read; files of before do not say it."""
    if plain is None:
        return UNKNOWN
    return Origin(
        str(plain["words"]),
        tuple((str(key), str(text)) for key, text in plain["reading"]),
        tuple(str(remark) for remark in plain["remarks"]),
        tuple(texts(get, plain["columns"])),
    )
