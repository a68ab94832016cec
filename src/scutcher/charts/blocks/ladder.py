"""The ladder of several tables: for every set of them what it shares, what would come next, and a handle."""

from __future__ import annotations

from scutcher.core.blocks.checking import CheckedBlocks, SteadyBlocks
from scutcher.core.blocks.common import Found, Set
from scutcher.core.blocks.component import Component
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.frozen import frozen
from scutcher.core.words import shown

OWN_SHOWN = 4
"""Own components of a table that have a box of their own, at most."""


@frozen
class Rung:
    """One box.

    Attributes
    ----------
    name : str
        `C1`.
    value : float
        Agreement of the tables, or of an own component its share of what the shared ones leave, 0 to 1.
    held_out : float
        Agreement on samples that were left out; NaN where it is not known.
    said : str
    """

    name: str
    value: float
    held_out: float
    said: str


@frozen
class Rungs:
    """The boxes of one set of tables.

    Attributes
    ----------
    tables : tuple of str
    kind : "common", "shared" or "own"
    rungs : tuple of Rung
        Those that are kept first.
    kept : int
        How many of the boxes stand at the left of the handle.
    hidden : int
        Kept ones before the first box, which have none.
    """

    tables: tuple[str, ...]
    kind: str
    rungs: tuple[Rung, ...]
    kept: int
    hidden: int = 0

    @property
    def count(self) -> int:
        """Components of the set."""
        return self.hidden + self.kept


def block_ladder(
    fitted: FittedBlocks, checked: CheckedBlocks | None, steady: SteadyBlocks | None
) -> tuple[Rungs, ...]:
    """All tables together first, then some of them, then each alone."""
    wide = sorted(fitted.coming, key=lambda chosen: (-len(chosen), chosen))
    groups = [_of_set(fitted, checked, steady, chosen) for chosen in wide]
    groups += [_of_one(fitted, b) for b in range(len(fitted.names))]
    return tuple(one for one in groups if one.rungs)


def _of_set(
    fitted: FittedBlocks, checked: CheckedBlocks | None, steady: SteadyBlocks | None, chosen: Set
) -> Rungs:
    kind = "common" if len(chosen) == len(fitted.names) else "shared"
    kept = [_shared(fitted, checked, steady, one) for one in fitted.model.of(chosen)]
    names = tuple(fitted.names[b] for b in chosen)
    first = "C" if kind == "common" else "".join(name[:1].upper() for name in names)
    coming = [
        _next(found, f"C{len(kept) + place + 1}" if kind == "common" else first, " & ".join(names))
        for place, found in enumerate(fitted.coming[chosen])
    ]
    return Rungs(names, kind, (*kept, *coming), len(kept))


def _shared(
    fitted: FittedBlocks, checked: CheckedBlocks | None, steady: SteadyBlocks | None, one: Component
) -> Rung:
    held = None if checked is None else checked.held_of(one)
    said = f"{fitted.label(one)}: " + (
        f"agreement {shown(min(one.agreement, 1.0), '.2f')}" if checked is None else checked.words_of(one)
    )
    if steady is not None:
        said += f"; {steady.words_of(one)}"
    said += f". By chance two of these tables would reach {shown(one.chance, '.2f')} (r²)."
    value = float("nan") if held is None else held.agreement
    return Rung(fitted.code(one), min(max(one.agreement, 0.0), 1.0), value, said)


def _next(found: Found, name: str, tables: str) -> Rung:
    agreement = min(max(found.agreement, 0.0), 1.0)
    said = (
        f"The next of {tables}, not taken: agreement {shown(agreement, '.2f')}. By chance two of "
        f"them would reach {shown(found.chance, '.2f')} (r²). Drag the handle past it to take it all the "
        "same."
    )
    return Rung(name, agreement, float("nan"), said)


def _of_one(fitted: FittedBlocks, b: int) -> Rungs:
    """What a table has alone, as shares of what the shared ones leave, and its next component."""
    block, name = fitted.model.blocks[b], fitted.names[b]
    own = fitted.model.of((b,))
    left = 1.0 - sum(one.shares[b] for one in fitted.model.of_block(b) if len(one.blocks) > 1)
    whole = max(left, 1e-300)
    hidden = max(len(own) - OWN_SHOWN, 0)
    letter = name[:1].upper()
    kept = [
        Rung(f"{letter}{one.order + 1}", one.shares[b] / whole, float("nan"), _own_words(name, one.shares[b]))
        for one in own[hidden:]
    ]
    coming = []
    if block.r < len(block.squares):
        share = float(block.squares[block.r]) / block.total
        words = (
            f"The next of {name}, not kept: {shown(100 * share, '.1f')} % of it. Drag the "
            "handle past it to keep it."
        )
        coming.append(Rung(f"{letter}{len(own) + 1}", share / whole, float("nan"), words))
    return Rungs((name,), "own", (*kept, *coming), len(kept), hidden)


def _own_words(name: str, share: float) -> str:
    return f"Of {name} alone: {shown(100 * share, '.1f')} % of it."


def headline(groups: tuple[Rungs, ...]) -> tuple[str, str]:
    """`2 common, 2 shared, 8 own`; and which of them a person decided is said elsewhere."""
    counts = {
        kind: sum(one.count for one in groups if one.kind == kind) for kind in ("common", "shared", "own")
    }
    words = ", ".join(f"{count} {kind}" for kind, count in counts.items() if count or kind == "common")
    return words, "boxes: agreement, own: of what is left · red: held out"
