"""A state as plain data and back; arrays and long lists stand in it by their hash."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.table import ClassColumn, PropertyColumn, Table
from scutcher.core.errors import FileError, InputError
from scutcher.core.recipes.recipe import recipe_from_plain, recipe_to_plain
from scutcher.study.document.state import Shelved, Source, State

PutArray = Callable[[np.ndarray], str]
PutList = Callable[[tuple[str, ...]], str]
Get = Callable[[str], Any]


def state_to_plain(state: State, put_array: PutArray, put_list: PutList) -> dict[str, Any]:
    """Plain data of a state; `put_array` and `put_list` store content and give its hash."""
    return {
        "name": state.name,
        "table": None if state.table is None else _table_to_plain(state.table, put_array, put_list),
        "recipe": recipe_to_plain(state.recipe),
        "colour_by": state.colour_by,
        "source": {
            "paths": list(state.source.paths),
            "roles": [list(pair) for pair in state.source.roles],
            "sheet": state.source.sheet,
            "resampled": state.source.resampled,
            "transposed": state.source.transposed,
            "mends": list(state.source.mends),
        },
        "shelf": [
            {
                "name": model.name,
                "recipe": recipe_to_plain(model.recipe),
                "figures": [list(pair) for pair in model.figures],
                "scores": put_array(model.scores),
                "codes": put_array(model.codes.astype(np.float64)),
            }
            for model in state.shelf
        ],
    }


def state_from_plain(plain: Any, get: Get) -> State:
    """The state of plain data; `get` gives the content of a hash.

    Raises
    ------
    FileError
        The data are not those of a state.
    """
    try:
        table = plain["table"]
        return State(
            name=str(plain["name"]),
            table=None if table is None else _table_from_plain(table, get),
            recipe=recipe_from_plain(plain["recipe"]),
            colour_by=str(plain["colour_by"]),
            source=Source(
                tuple(str(path) for path in plain["source"]["paths"]),
                tuple((str(name), str(role)) for name, role in plain["source"]["roles"]),
                str(plain["source"]["sheet"]),
                bool(plain["source"]["resampled"]),
                bool(plain["source"]["transposed"]),
                tuple(str(mend) for mend in plain["source"].get("mends", [])),
            ),
            shelf=tuple(
                Shelved(
                    str(model["name"]),
                    recipe_from_plain(model["recipe"]),
                    tuple((str(key), float(value)) for key, value in model["figures"]),
                    get(model["scores"]),
                    get(model["codes"]).astype(np.intp),
                )
                for model in plain.get("shelf", [])
            ),
        )
    except (KeyError, TypeError, ValueError, AttributeError, msgspec.MsgspecError) as error:
        raise FileError(
            f"A state in the study file cannot be read ({type(error).__name__}: {error}).",
            "The file is damaged; rescue what is sound into a copy.",
        ) from error
    except InputError as error:
        raise FileError(
            f"A state in the study file cannot be used: {error.problem}",
            "The file is damaged; rescue what is sound into a copy.",
        ) from error


def _table_to_plain(table: Table, put_array: PutArray, put_list: PutList) -> dict[str, Any]:
    axis = table.axis
    return {
        "values": put_array(table.values),
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
        "set_aside": [[row, reason] for row, reason in table.set_aside.items()],
        "left_out": [[column, reason] for column, reason in table.left_out.items()],
        "signal": table.signal,
        "signal_unit": table.signal_unit,
    }


def _table_from_plain(plain: Any, get: Get) -> Table:
    axis = plain["axis"]
    positions = None if axis["positions"] is None else get(axis["positions"])
    return Table(
        values=get(plain["values"]),
        axis=Axis(get(axis["labels"]), positions, str(axis["quantity"]), str(axis["unit"])),
        ids=get(plain["ids"]),
        name=str(plain["name"]),
        classes=tuple(
            ClassColumn(str(c["name"]), get(c["values"]), tuple(str(level) for level in c["levels"]))
            for c in plain["classes"]
        ),
        properties=tuple(
            PropertyColumn(str(c["name"]), get(c["values"]), str(c["unit"])) for c in plain["properties"]
        ),
        replicates=None if plain["replicates"] is None else get(plain["replicates"]),
        set_aside={int(row): str(reason) for row, reason in plain["set_aside"]},
        left_out={int(column): str(reason) for column, reason in plain["left_out"]},
        signal=str(plain["signal"]),
        signal_unit=str(plain["signal_unit"]),
    )
