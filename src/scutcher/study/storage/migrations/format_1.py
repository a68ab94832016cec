"""From format 1 to 2: one table and one recipe become data sets and models; arrays lie in pieces; seals.

In format 1 an array was one blob, what was set aside belonged to the table, and a model on the shelf was a
recipe with its figures. Whatever else it was made of was that of the study then.
"""

from __future__ import annotations

import hashlib
import sqlite3
from contextlib import suppress
from typing import Any

import msgspec
import numpy as np

from scutcher.study.storage.pieces import TEXTS, Content, array_content, list_content
from scutcher.study.storage.seals import LOG, REVISIONS, START, seal

TABLES = {
    "meta": "CREATE TABLE meta (key TEXT PRIMARY KEY, value TEXT NOT NULL)",
    "blobs": "CREATE TABLE blobs (hash TEXT PRIMARY KEY, kind TEXT NOT NULL, shape TEXT NOT NULL, "
    "data BLOB NOT NULL)",
    "revisions": "CREATE TABLE revisions (id INTEGER PRIMARY KEY, label TEXT NOT NULL, state TEXT NOT NULL)",
    "log": "CREATE TABLE log (id INTEGER PRIMARY KEY, at TEXT NOT NULL, who TEXT NOT NULL, "
    "kind TEXT NOT NULL, what TEXT NOT NULL, why TEXT NOT NULL, revision INTEGER NOT NULL)",
    "snapshots": "CREATE TABLE snapshots (name TEXT PRIMARY KEY, at TEXT NOT NULL, "
    "revision INTEGER NOT NULL)",
}


def migrate(link: sqlite3.Connection, skip: tuple[type[Exception], ...] = ()) -> None:
    """Bring an open file of format 1 to format 2; runs inside a transaction.

    Revisions and arrays that raise one of the errors to `skip` are passed over.
    """
    from scutcher.study.storage import schema

    for table in ("arrays", "pieces", "links"):
        link.execute(schema.TABLES[table])
    names = _arrays(link, skip)
    for table in ("revisions", "log"):
        link.execute(f"ALTER TABLE {table} RENAME TO old_{table}")
        link.execute(schema.TABLES[table])
    states = link.execute("SELECT id, label, state FROM old_revisions ORDER BY id").fetchall()
    for ident, label, state in states:
        with suppress(*skip):
            fresh = msgspec.json.encode(_state(msgspec.json.decode(state), names)).decode()
            link.execute("INSERT INTO revisions VALUES (?, ?, ?, '')", (ident, label, fresh))
    link.execute("INSERT INTO log SELECT *, '' FROM old_log")
    for table in ("old_revisions", "old_log", "blobs"):
        link.execute(f"DROP TABLE {table}")
    _seal(link, REVISIONS, "UPDATE revisions SET seal = ? WHERE id = ?")
    _seal(link, LOG, "UPDATE log SET seal = ? WHERE id = ?")


def _seal(link: sqlite3.Connection, query: str, update: str) -> None:
    before = START
    for row in link.execute(query).fetchall():
        before = seal(before, row[:-1])
        link.execute(update, (before, row[0]))


def _arrays(link: sqlite3.Connection, skip: tuple[type[Exception], ...]) -> dict[str, str]:
    """Every blob in pieces; from its former name to the new one."""
    names = {}
    for (old,) in link.execute("SELECT hash FROM blobs").fetchall():
        with suppress(*skip):
            row = link.execute("SELECT kind, shape, data FROM blobs WHERE hash = ?", (old,)).fetchone()
            kind, shape, data = str(row[0]), msgspec.json.decode(row[1], type=tuple[int, ...]), bytes(row[2])
            if _former_name(kind, shape, data) != old:
                raise ValueError(f"the array {old[:8]}… has changed bytes")
            content = _content(kind, shape, data)
            put(link, content)
            names[str(old)] = content.stored.hash
    return names


def _former_name(kind: str, shape: tuple[int, ...], data: bytes) -> str:
    made = hashlib.blake2b(f"{kind}{shape}".encode(), digest_size=16)
    made.update(data)
    return made.hexdigest()


def put(link: sqlite3.Connection, content: Content) -> None:
    """Write an array or list that is not there yet."""
    stored = content.stored
    for name, part in zip(stored.pieces, content.parts(), strict=True):
        link.execute("INSERT OR IGNORE INTO pieces VALUES (?, ?)", (name, part))
    link.execute(
        "INSERT OR IGNORE INTO arrays VALUES (?, ?)", (stored.hash, msgspec.json.encode(stored).decode())
    )


def _content(kind: str, shape: tuple[int, ...], data: bytes) -> Content:
    if kind == TEXTS:
        return list_content(msgspec.json.decode(data, type=tuple[str, ...]))
    return array_content(np.frombuffer(data, dtype="<f8").reshape(shape))


def _state(old: dict[str, Any], names: dict[str, str]) -> dict[str, Any]:
    """A state of format 1 as one of format 2."""
    new: dict[str, Any] = {
        "name": old["name"],
        "colour_by": old["colour_by"],
        "datasets": [],
        "models": [],
        "current": "",
        "made": 0,
    }
    table = old["table"]
    if table is None:
        return new
    aside, left_out = table.pop("set_aside"), table.pop("left_out")
    source = {"mends": [], "contents": [], **old["source"]}
    new["datasets"] = [
        {
            "id": "d1",
            "name": table["name"],
            "table": _renamed(table, names),
            "source": source,
            "layout": {"kind": "none"},
        }
    ]
    common = {"dataset": "d1", "kind": "pca", "set_aside": aside, "watched": [], "left_out": left_out}
    new["models"] = [{"id": "m2", "name": "", "recipe": old["recipe"], "reached": None, **common}]
    for place, shelved in enumerate(old.get("shelf", [])):
        reached = {
            "figures": shelved["figures"],
            "scores": names[shelved["scores"]],
            "codes": names[shelved["codes"]],
        }
        new["models"].append(
            {
                "id": f"m{place + 3}",
                "name": shelved["name"],
                "recipe": shelved["recipe"],
                "reached": reached,
                **common,
            }
        )
    return {**new, "current": "m2", "made": 1 + len(new["models"])}


def _renamed(table: dict[str, Any], names: dict[str, str]) -> dict[str, Any]:
    """The table with the new names of its arrays and lists."""

    def new(name: str | None) -> str | None:
        return None if name is None else names[name]

    axis = table["axis"]
    return {
        **table,
        "values": new(table["values"]),
        "axis": {**axis, "labels": new(axis["labels"]), "positions": new(axis["positions"])},
        "ids": new(table["ids"]),
        "classes": [{**column, "values": new(column["values"])} for column in table["classes"]],
        "properties": [{**column, "values": new(column["values"])} for column in table["properties"]],
        "replicates": new(table["replicates"]),
    }
