"""How long work tells how far it is, and how it is stopped."""

from __future__ import annotations

from collections.abc import Callable

from scutcher.core.errors import InputError

Watch = Callable[[float], bool]
"""Called with a share from 0 to 1; answers False when nobody wants the result any more.

0 says nothing of how far it is, it only asks."""


class Stopped(InputError):
    """The work was stopped; nothing was changed."""

    def __init__(self) -> None:
        super().__init__("Stopped.", "Nothing was changed.")


def tell(watch: Watch | None, share: float) -> None:
    """Tell the watcher how far the work is.

    Raises
    ------
    Stopped
        The watcher answers False.
    """
    if watch is not None and not watch(share):
        raise Stopped


def pulse(watch: Watch | None) -> Watch | None:
    """A watch that is only asked whether to go on: it hears nothing of how far a small part is."""
    return watch and (lambda share: watch(0.0))


def part(watch: Watch, low: float, high: float) -> Watch:
    """A watch for a part of the work: its 0 to 1 is from low to high of the whole."""
    return lambda share: watch(low + (high - low) * share)
