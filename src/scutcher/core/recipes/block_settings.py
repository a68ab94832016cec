"""Several tables on the same samples: which, how they are matched, and what counts as common."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

Weighting = Literal["same", "variance"]
Repeats = Literal["mean", "median", "first"]


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, omit_defaults=True):
    """A table of a recipe, of which only what is not as usual is written."""


class Part(_Table, frozen=True):
    """A block cut out of a table: channels from one place to another, or variables by name."""

    name: Annotated[str, Meta(min_length=1, description="what it is called")]
    first: Annotated[float, Meta(description="first channel")] | None = None
    last: Annotated[float, Meta(description="last channel")] | None = None
    variables: Annotated[tuple[str, ...], Meta(description="variables of a table without an axis")] = ()


class BlocksSettings(_Table, frozen=True):
    """How blocks are made and compared."""

    match: Annotated[str, Meta(description="column that says which samples are one; empty: the id")] = ""
    repeats: Annotated[Repeats, Meta(description="what stands for the rows of one sample")] = "mean"
    ranks: Annotated[
        tuple[tuple[str, Annotated[int, Meta(ge=1, le=20)]], ...],
        Meta(description="components of blocks by name, in place of those suggested"),
    ] = ()
    counts: Annotated[
        tuple[tuple[tuple[str, ...], Annotated[int, Meta(ge=0, le=20)]], ...],
        Meta(description="components that sets of blocks share, by their names, in place of those found"),
    ] = ()
    level: Annotated[float, Meta(gt=0.5, lt=1.0, description="coverage of the chance bounds")] = 0.95
    floor: Annotated[
        float, Meta(ge=0.0, le=1.0, description="agreement from which components are the same")
    ] = 0.5
    series: Annotated[bool, Meta(description="samples follow each other: allow for drift")] = False
    weights: Annotated[
        Weighting, Meta(description="of blocks in the axes of a set: each the same, or by variance")
    ] = "same"
    factors: Annotated[
        tuple[tuple[str, Annotated[float, Meta(gt=0.0, le=1e6)]], ...],
        Meta(description="by which the weight of a block of a name is multiplied"),
    ] = ()
    permutations: Annotated[int, Meta(ge=0, le=9999, description="draws for the chance of agreement")] = 99
    parts: Annotated[tuple[Part, ...], Meta(description="blocks cut out of one table")] = ()
    without: Annotated[tuple[str, ...], Meta(description="data sets that make no block")] = ()

    def rank_of(self, name: str) -> int | None:
        """The components asked for of a block."""
        return dict(self.ranks).get(name)
