"""The passes over an image on a cluster of dask workers that see the same files; sums and maps travel."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import FileError, InputError
from scutcher.core.frozen import frozen
from scutcher.core.images.image import Image
from scutcher.core.images.measuring import Plane
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.segments import Numbers
from scutcher.core.images.sums import CentredSums, together
from scutcher.core.images.tile_work import (
    Measured,
    Tiles,
    mean_of,
    measures_of,
    put_together,
    sums_of,
    total_of,
)
from scutcher.core.progress import Stopped, Watch, tell
from scutcher.files.images.opening import open_image, stacked
from scutcher.files.images.shape import ImageShape

GROUP = 100_000_000
"""Bytes of the image, about, that a worker takes at once."""

FAN_IN = 8
"""Sums that are put together on a worker before they travel on."""

PATIENCE = "30s"


@frozen
class ImageSource:
    """How the workers open the image: from the same paths as here."""

    paths: tuple[str, ...]
    shape: ImageShape | None = None
    name: str | None = None


@lru_cache(maxsize=2)
def image_there(source: ImageSource) -> Image:
    """The image, opened once in each process."""
    return stacked([open_image(Path(path), source.shape, source.name) for path in source.paths])


@frozen(eq=False)
class _Part:
    """A run of tiles with what belongs to its pixels: a worker that takes over finds all of it here."""

    tiles: Tiles
    mask: Booleans | None
    numbers: Numbers | None = None

    def whole(self, values: Any, pixels: int) -> Any:
        """Values of these pixels at their places among all, zero elsewhere."""
        found = np.zeros(pixels, values.dtype)
        found[self.tiles[0].start : self.tiles[-1].stop] = values
        return found

    def numbered(self, treatment: PixelTreatment) -> Numbers:
        """The segment of each pixel of the image, as far as they are in this part."""
        assert self.numbers is not None
        found: Numbers = self.whole(self.numbers, treatment.image.pixels)
        return found


@frozen(eq=False)
class _Recipe:
    """What a worker needs to treat pixels as they are treated here."""

    source: ImageSource
    steps: tuple[Any, ...]
    learned: tuple[Any, ...]

    def treatment(self, part: _Part) -> PixelTreatment:
        image = image_there(self.source)
        mask = None if part.mask is None else part.whole(part.mask, image.pixels)
        return PixelTreatment(image.masked(mask), self.steps, self.learned)


def _total(recipe: _Recipe, part: _Part) -> tuple[Floats, int]:
    return total_of(recipe.treatment(part), None, part.tiles)


def _sums(recipe: _Recipe, part: _Part, centre: Floats, count: int) -> list[CentredSums]:
    treatment = recipe.treatment(part)
    return sums_of(treatment, centre, part.numbered(treatment), count, None, part.tiles)


def _merged(*parts: list[CentredSums]) -> list[CentredSums]:
    return [together(own) for own in zip(*parts, strict=True)]


def _measures(recipe: _Recipe, part: _Part, plane: Plane, planes: Sequence[Plane]) -> Measured:
    treatment = recipe.treatment(part)
    return measures_of(treatment, plane, planes, part.numbered(treatment), None, part.tiles)


class Cluster:
    """Shares the tiles of an image out among workers; a worker that dies is made up for by the others.

    Parameters
    ----------
    address : str
        Of the scheduler, `tcp://host:8786`.
    source : ImageSource

    Raises
    ------
    FileError
        dask is not installed, or nobody answers.
    """

    def __init__(self, address: str, source: ImageSource, group: int = GROUP) -> None:
        self._source, self._group = source, group
        self._client = _connected(address)

    def close(self) -> None:
        """Leave the cluster."""
        self._client.close()

    def mean(self, treatment: PixelTreatment, watch: Watch) -> Floats:
        """Mean of the treated pixels inside the mask, (p,)."""
        recipe = self._recipe(treatment)
        leaves = [self._ask(_total, recipe, part) for part in self._parts(treatment)]
        return mean_of(self._gathered(leaves, leaves, watch))

    def sums(
        self, treatment: PixelTreatment, centre: Floats, numbers: Numbers, count: int, watch: Watch
    ) -> list[CentredSums]:
        """The sums of each of so many segments; they meet in a tree of fixed order on the workers."""
        recipe, parts = self._recipe(treatment), self._parts(treatment, numbers)
        leaves = [self._ask(_sums, recipe, part, centre, count) for part in parts]
        level = leaves
        while len(level) > 1:
            level = [self._ask(_merged, *level[at : at + FAN_IN]) for at in range(0, len(level), FAN_IN)]
        found: list[CentredSums] = self._gathered(leaves, level, watch)[0]
        return found

    def measures(
        self, treatment: PixelTreatment, plane: Plane, planes: Sequence[Plane], numbers: Numbers, watch: Watch
    ) -> Measured:
        """Scores and distances of every pixel."""
        recipe, parts = self._recipe(treatment), self._parts(treatment, numbers)
        leaves = [self._ask(_measures, recipe, part, plane, list(planes)) for part in parts]
        return put_together(self._gathered(leaves, leaves, watch))

    def _recipe(self, treatment: PixelTreatment) -> _Recipe:
        return _Recipe(self._source, treatment.steps, treatment.learned)

    def _parts(self, treatment: PixelTreatment, numbers: Numbers | None = None) -> list[_Part]:
        """Runs of tiles, as many for any number of workers: the answer does not depend on it."""
        image = treatment.image
        tiles = image.tiles()
        bytes_of_all = 8 * image.pixels * image.matrix.shape[1]
        count = max(1, min(len(tiles), -(-bytes_of_all // self._group)))
        ends = np.linspace(0, len(tiles), count + 1).round().astype(int)
        found = []
        for first, last in pairwise(ends):
            own = tiles[first:last]
            cut = slice(own[0].start, own[-1].stop)
            mask = None if image.mask is None else image.mask[cut]
            found.append(_Part(own, mask, None if numbers is None else numbers[cut]))
        return found

    def _ask(self, work: Callable[..., Any], *given: Any) -> Any:
        return self._client.submit(work, *given, pure=False)

    def _gathered(self, leaves: list[Any], wanted: list[Any], watch: Watch) -> list[Any]:
        """What was wanted, in order, once every leaf is done.

        Raises
        ------
        Stopped
        FileError
            The workers cannot do it.
        """
        import distributed

        as_completed: Any = distributed.as_completed
        try:
            for place, _ in enumerate(as_completed(leaves)):
                tell(watch, place / len(leaves))
            found: list[Any] = self._client.gather(wanted)
            return found
        except Stopped:
            self._client.cancel(leaves)
            raise
        except InputError:
            raise
        except Exception as error:  # whatever a worker or the network fails with
            self._client.cancel(leaves)
            raise FileError(
                f"The cluster could not do it: {type(error).__name__}.",
                "Its workers must see the same files and have the same Scutcher.",
            ) from error


def measures_at(
    address: str,
    path: str,
    shape: ImageShape | None,
    name: str | None,
    treatment: PixelTreatment,
    plane: Plane,
    watch: Watch,
) -> Measured:
    """Scores and distances of all pixels of a file, by the workers of a scheduler.

    Raises
    ------
    FileError
        Nobody answers, or the workers cannot do it.
    """
    passes = Cluster(address, ImageSource((path,), shape, name))
    try:
        return passes.measures(treatment, plane, [], np.zeros(treatment.image.pixels, np.uint8), watch)
    finally:
        passes.close()


def _connected(address: str) -> Any:
    try:
        import distributed
    except ImportError as error:
        raise FileError(
            "Work on a cluster needs the packages dask and distributed, which are not installed.",
            "Install scutcher[cluster].",
        ) from error
    try:
        client: Any = distributed.Client
        return client(address, timeout=PATIENCE)
    except (OSError, ValueError, TimeoutError) as error:
        raise FileError(f"No dask scheduler answers at {address}.", "Check the address.") from error
