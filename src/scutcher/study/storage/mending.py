"""A state of a damaged file with what is lost taken out of it, and said."""

from __future__ import annotations

import copy
from typing import Any

import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.words import first_of
from scutcher.study.storage.salvage import NOTHING, Salvage

REASON = "damaged in the file"
"""Why samples of a rescued study are set aside."""


def mended(plain: Any, salvage: Salvage) -> tuple[Any, tuple[str, ...]]:
    """Plain data of a state that refer to what is sound only, and sentences of what is lost.

    Raises
    ------
    FileError
        The values of no data set are left.
    """
    found = copy.deepcopy(plain)
    lost: list[str] = []
    lost_rows: dict[str, list[int]] = {}
    kept = []
    for data in found["datasets"]:
        try:
            lost_rows[data["id"]] = _mend_table(data, salvage, lost)
            kept.append(data)
        except FileError:
            lost.append(f"the data set {data['name']}")
    if not kept and found["datasets"]:
        raise FileError(NOTHING, "")
    found["datasets"] = kept
    there = {data["id"] for data in kept}
    found["models"] = [model for model in found["models"] if model["dataset"] in there]
    found["together"] = [
        one
        for one in found.get("together", [])
        if {one["model"]["dataset"], *(member["dataset"] for member in one["members"])} <= there
    ]
    if found["models"] and not any(model["id"] == found["current"] for model in found["models"]):
        found["current"] = found["models"][-1]["id"]
    members = [member for one in found["together"] for member in (one["model"], *one["members"])]
    for model in (*found["models"], *members):
        _mend_model(model, salvage, lost_rows[model["dataset"]])
    return found, tuple(dict.fromkeys(lost))


def _mend_table(data: Any, salvage: Salvage, lost: list[str]) -> list[int]:
    """Rows of which values are lost; everything else that is lost gets something in its place."""
    table = data["table"]
    values, gone = salvage.content(table["values"]), salvage.lost.get(table["values"])
    n, p = values.shape
    if gone is not None and gone.all():
        raise FileError(NOTHING, "")
    _mend_ids(table, salvage, n, lost)
    _mend_axis(table["axis"], salvage, p, lost)
    classes = [one for one in table["classes"] if salvage.is_whole(one["values"])]
    lost += [f"the class column {one['name']}" for one in table["classes"] if one not in classes]
    table["classes"] = classes
    properties = [one for one in table["properties"] if _known(salvage, one["values"])]
    for one in table["properties"]:
        if not salvage.is_whole(one["values"]):
            part = "values of " if one in properties else ""
            lost.append(f"{part}the column {one['name']}")
    table["properties"] = properties
    if table["replicates"] is not None and not salvage.is_whole(table["replicates"]):
        table["replicates"] = None
        lost.append("which samples are repeats")
    origin = table.get("origin")
    if origin is not None and not salvage.is_whole(origin["columns"]):
        table["origin"] = None
    rows: list[int] = [] if gone is None else np.flatnonzero(gone.any(axis=1)).tolist()
    if rows:
        ids = salvage.content(table["ids"])
        names = first_of([ids[row] for row in rows], 5)
        lost.append(f"values of {len(rows)} of {n} samples of {data['name']} ({names})")
    return rows


def _known(salvage: Salvage, name: str) -> bool:
    """Whether some values of an array are left."""
    try:
        values = salvage.content(name)
    except FileError:
        return False
    gone = salvage.lost.get(name)
    return gone is None or (bool(len(values)) and not bool(gone.all()))


def _mend_ids(table: Any, salvage: Salvage, n: int, lost: list[str]) -> None:
    if not salvage.is_whole(table["ids"]):
        table["ids"] = salvage.put("mended ids", tuple(f"row {row + 1}" for row in range(n)))
        lost.append("the names of the samples")


def _mend_axis(axis: Any, salvage: Salvage, p: int, lost: list[str]) -> None:
    """Labels from positions, positions from labels; numbers of channels where both are lost."""
    labels = salvage.content(axis["labels"]) if salvage.is_whole(axis["labels"]) else None
    positions = axis["positions"]
    known = salvage.content(positions) if positions is not None and salvage.is_whole(positions) else None
    if labels is None:
        own = tuple(f"{x:g}" for x in known) if known is not None else tuple(f"v{v + 1}" for v in range(p))
        axis["labels"] = salvage.put("mended labels", own)
        lost.append("the names of the variables")
    if positions is not None and known is None:
        try:
            numbers = np.array([float(label) for label in labels or ()])
        except ValueError:
            numbers = np.empty(0)
        if len(numbers) == p:
            axis["positions"] = salvage.put("mended positions", numbers)
        else:
            axis["positions"] = None
            lost.append("the places of the channels on the axis")


def _mend_model(model: Any, salvage: Salvage, rows: list[int]) -> None:
    """The samples that are lost are set aside; a small picture that is lost is left out."""
    reached = model["reached"]
    if reached is not None and not (
        salvage.is_whole(reached["scores"]) and salvage.is_whole(reached["codes"])
    ):
        model["reached"] = None
    aside = {row for row, _ in model["set_aside"]}
    model["set_aside"] = sorted([*model["set_aside"], *([row, REASON] for row in rows if row not in aside)])
    model["watched"] = [row for row in model["watched"] if row not in set(rows)]
