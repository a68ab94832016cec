"""The variance of each table cut into what is common, shared, its own and left over."""

from __future__ import annotations

from scutcher.core.arrays import Floats
from scutcher.core.blocks.checking import CheckedBlocks, SteadyBlocks
from scutcher.core.blocks.component import KINDS, kind_of
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.frozen import frozen
from scutcher.core.words import shown


@frozen
class Piece:
    """A stretch of a bar: its share, its kind, a short name, and what it is."""

    share: float
    kind: str
    name: str
    said: str


@frozen
class Bar:
    """One table: its name, its size, its pieces from left to right."""

    name: str
    size: str
    pieces: tuple[Piece, ...]


def share_bars(
    fitted: FittedBlocks, checked: CheckedBlocks | None, held_out: bool, steady: SteadyBlocks | None = None
) -> tuple[Bar, ...]:
    """A bar for each table; held out cut by kinds of components once that is known, else as a whole."""
    bars = []
    n = fitted.model.n
    for b, name in enumerate(fitted.names):
        block = fitted.model.blocks[b]
        size = f"{n} × {block.z.shape[1]}"
        own = fitted.model.of_block(b)
        if held_out:
            share = float("nan") if checked is None else checked.shares[b]
            known = share if share == share else 0.0
            said = f"{block.r} components explain {shown(100 * known, '.1f')} % of samples that were left out"
            pieces = [Piece(max(known, 0.0), "held out", f"{100 * known:.0f} %", said)]
            if steady is not None and steady.foretold:
                pieces = _cut(name, steady.foretold[b].explained)
        else:
            pieces = [_piece(fitted, checked, b, place) for place in range(len(own))]
        left = max(1.0 - sum(piece.share for piece in pieces), 0.0)
        pieces.append(
            Piece(left, "left over", f"{100 * left:.0f} %", f"left over: {shown(100 * left, '.1f')} %")
        )
        bars.append(Bar(name, size, tuple(pieces)))
    return tuple(bars)


def _cut(name: str, explained: Floats) -> list[Piece]:
    """What each kind of component explains of samples that were left out; less than nothing is nothing."""
    pieces = []
    for kind, share in zip(KINDS, explained.tolist(), strict=True):
        said = f"{kind} components: {shown(100 * share, '.1f')} % of {name} on samples that were left out"
        words = f"{'C ' if kind == 'common' else ''}{100 * share:.0f} %"
        pieces.append(Piece(max(share, 0.0), "held out" if kind == "common" else kind, words, said))
    return pieces


def _piece(fitted: FittedBlocks, checked: CheckedBlocks | None, b: int, place: int) -> Piece:
    one = fitted.model.of_block(b)[place]
    share = one.shares[b]
    kind = kind_of(one, len(fitted.names))
    letter = {"common": "C", "shared": "S", "own": ""}[kind]
    short = f"{letter}{one.order + 1} " if letter else ""
    words = f"{short}{100 * share:.0f} %"
    said = f"{fitted.label(one)}: {shown(100 * share, '.1f')} % of {fitted.names[b]}"
    if checked is not None and len(one.blocks) > 1:
        said = f"{said}; {checked.words_of(one)}"
    return Piece(share, kind, words, said)


def numbers(bars: tuple[Bar, ...]) -> tuple[list[str], list[list[object]]]:
    """The table behind the bars."""
    rows: list[list[object]] = [
        [bar.name, piece.said.split(":")[0], piece.kind, piece.share] for bar in bars for piece in bar.pieces
    ]
    return ["table", "component", "kind", "share"], rows
