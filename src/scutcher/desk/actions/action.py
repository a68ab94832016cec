"""Actions, and what else the search field finds: words, and what happens."""

from __future__ import annotations

from collections.abc import Callable

from scutcher.core.frozen import frozen


@frozen
class Action:
    """A thing to do.

    Attributes
    ----------
    words, key : what it is called, and the key that does it
    run : what happens
    about : what it acts on; the menu has a part for each
    also : other names by which it is looked for
    """

    words: str
    key: str
    run: Callable[[], object]
    about: str = ""
    also: str = ""


@frozen
class Entry:
    """One thing that can be found, also by other names."""

    words: str
    kind: str
    run: Callable[[], object]
    key: str = ""
    also: str = ""
    about: str = ""
