"""Which pixels are left out together: squares of the picture, whole images, or pixels at random."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from scutcher.core.data.grid import square_numbers
from scutcher.core.errors import RecipeError
from scutcher.core.images.image import Image
from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.core.validation.segments import SQUARES

OPTIMISTIC = "pixels left out at random have neighbours in the model that are like them: figures too good"

Numbers = NDArray[np.uint8]


def pixel_segments(image: Image, settings: ValidateSettings) -> tuple[Numbers, int, str]:
    """The segment of each pixel.

    Returns
    -------
    (n,) array of numbers from 0, how many segments there are, what is to be said of them

    Raises
    ------
    RecipeError
        The scheme does not suit an image.
    """
    pixels, wanted = image.pixels, settings.segments or 7
    rng = np.random.default_rng(settings.seed)
    if settings.scheme == "none":
        return np.zeros(pixels, np.uint8), 0, ""
    if wanted > 255:
        raise RecipeError(f"{wanted} segments of pixels are too many.", "Ask for 2 to 255.")
    if settings.scheme == "tiles":
        square = square_numbers(image.layout, image.images, wanted * SQUARES)
        found, said = (rng.permutation(int(square.max()) + 1) % wanted)[square], ""
    elif settings.scheme == "images":
        if image.images < 2:
            raise RecipeError("There is one image only: none can be left out.", "Choose the scheme tiles.")
        wanted = min(wanted, image.images)
        found = np.repeat(np.arange(image.images) % wanted, pixels // image.images)
        said = ""
    elif settings.scheme == "blocks":
        found, said = np.arange(pixels) * wanted // pixels, ""
    elif settings.scheme == "random":
        found, said = rng.permutation(pixels) % wanted, OPTIMISTIC
    elif settings.scheme == "blinds":
        found, said = np.arange(pixels) % wanted, OPTIMISTIC
    else:
        raise RecipeError(
            f"The scheme {settings.scheme!r} does not suit an image.",
            "Choose one of: tiles, images, blocks, random, blinds, none.",
        )
    used = np.unique(found if image.mask is None else found[image.mask])
    number = np.zeros(wanted, np.uint8)
    number[used] = np.arange(len(used))
    return number[found], len(used), said
