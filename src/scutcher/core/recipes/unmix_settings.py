"""Which shapes make up the spectra: given ones, or how many are to be found."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

SumRule = Literal["not-negative", "free", "sum-to-one"]
Start = Literal["projected", "purest"]


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, omit_defaults=True):
    """A table of a recipe, of which only what is not as usual is written."""


class Shape(_Table, frozen=True):
    """A component shape: the mean of treated samples (less the mean of others), or values on places."""

    name: Annotated[str, Meta(min_length=1, description="what it is called")]
    samples: Annotated[tuple[str, ...], Meta(description="ids whose mean it is, after the treatments")] = ()
    less: Annotated[tuple[str, ...], Meta(description="ids whose mean is taken off")] = ()
    places: Annotated[tuple[float, ...], Meta(description="channels of its values")] = ()
    values: Annotated[tuple[float, ...], Meta(description="in the unit of the treated data")] = ()


class UnmixSettings(_Table, frozen=True):
    """Amounts of shapes. With a number, shapes are found and those given are among them."""

    shapes: Annotated[tuple[Shape, ...], Meta(max_length=10, description="shapes that are given")] = ()
    number: Annotated[int, Meta(ge=2, le=8, description="shapes that are to be found")] | None = None
    rule: Annotated[SumRule, Meta(description="what amounts have to be")] = "not-negative"
    background: Annotated[
        int, Meta(ge=-1, le=4, description="of given shapes: -1 none, 0 constant, 1 slope …")
    ] = 0
    humps: Annotated[bool, Meta(description="amounts found rise to one hump and fall")] = False
    windows: Annotated[
        bool, Meta(description="shapes found are absent before they appear in growing windows, and after")
    ] = False
    start: Annotated[Start, Meta(description="where unmixing begins: spectra, or the purest channels")] = (
        "projected"
    )

    @property
    def background_beside(self) -> int:
        """Degree of the background beside the shapes; found shapes have none."""
        return self.background if self.number is None else -1

    @property
    def asks(self) -> bool:
        """Whether there is anything to be done."""
        return bool(self.shapes) or self.number is not None
