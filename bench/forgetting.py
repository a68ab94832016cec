"""What was computed is forgotten, so that it is measured again."""

from __future__ import annotations

from collections.abc import Hashable, Set

from scutcher.study.evaluation.cache import shared


def forget(kept: Set[Hashable] = frozenset()) -> None:
    """All results of the program's cache but those under some keys."""
    cache = shared()
    with cache._lock:
        for key in set(cache._entries) - kept:
            cache._held -= cache._entries.pop(key)[1]
