"""A hash of all that stands in a model's file: what was changed afterwards is seen."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from scutcher.core.errors import FileError
from scutcher.files.results import defined

KEY = "sha256"


def sealed(plain: Mapping[str, Any]) -> dict[str, Any]:
    """Plain data of JSON with the hash of all of it."""
    whole = json.loads(json.dumps(defined(plain), allow_nan=False))
    return {**whole, KEY: content_hash(whole)}


def content_hash(plain: Mapping[str, Any]) -> str:
    """SHA-256 of plain data but for their seal, whatever the order of the keys."""
    rest = {key: value for key, value in plain.items() if key != KEY}
    text = json.dumps(rest, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode("ascii")).hexdigest()


def check_seal(path: Path, plain: Mapping[str, Any]) -> bool:
    """Whether a file has a seal; files of before have none.

    Raises
    ------
    FileError
        Something in it was changed after it was written.
    """
    if KEY not in plain:
        return False
    if plain[KEY] != content_hash(plain):
        raise FileError(
            f"{path.name} was changed after it was written: its content does not have its hash.",
            "Take the file as Scutcher wrote it, or write it again.",
        )
    return True
