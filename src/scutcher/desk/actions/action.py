"""Actions, and what else the search field finds: words, and what happens."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Action:
    """A thing to do: its words, its key, and the function."""

    words: str
    key: str
    run: Callable[[], object]


@dataclass(frozen=True)
class Entry:
    """One thing that can be found."""

    words: str
    kind: str
    run: Callable[[], object]
    key: str = ""
