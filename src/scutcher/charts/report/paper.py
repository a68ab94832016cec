"""Pages of paper as pictures, for looking at before they are written."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]


def page_pictures(pdf: bytes, width: int) -> list[Pixels]:
    """Each page of a PDF, (height, width, 3), so many pixels wide."""
    return list(page_by_page(pdf, width))


def page_by_page(pdf: bytes, width: int) -> Iterator[Pixels]:
    """The same, one page at a time: a page for a printer takes much memory."""
    document = _opened(pdf)
    try:
        for page in document:
            yield _picture(page, width)
    finally:
        document.close()


def beginnings(pdf: bytes) -> dict[str, int]:
    """Title → the page, from 0, on which it stands, of every bookmark; the first of each title."""
    document = _opened(pdf)
    try:
        found: dict[str, int] = {}
        for mark in document.get_toc():
            place = mark.get_dest()
            if place is not None:
                found.setdefault(mark.get_title(), place.get_index())
        return found
    finally:
        document.close()


def _opened(pdf: bytes) -> Any:
    import pypdfium2  # type: ignore[import-untyped]

    return pypdfium2.PdfDocument(pdf)


def _picture(page: Any, width: int) -> Pixels:
    bitmap = page.render(scale=width / page.get_width(), rev_byteorder=True)
    pixels: Pixels = np.ascontiguousarray(bitmap.to_numpy()[:, :, :3])
    return pixels
