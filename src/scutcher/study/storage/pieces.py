"""Arrays and long lists in pieces, each under the hash of its content; nothing in them is executed."""

from __future__ import annotations

import hashlib
import weakref
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import msgspec
import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen

PIECE = 8 << 20
"""Bytes of a piece; part of the format: the same array always has the same pieces."""

GRAIN, MARK = 1 << 10, 4
"""Bytes of a grain of a piece, and of its mark: what tells which grains of a damaged piece are sound."""

NUMBERS = {"<f8": 8, "<f4": 4}
TEXTS = "json"
MOST_BYTES = 16 * 2**30
HALVED = 1 << 20
"""Bytes above which values that single precision holds exactly are stored in it."""

DAMAGED = "The file is damaged; rescue what is sound into a copy."


class Stored(msgspec.Struct, frozen=True):
    """What stands in the file for an array or a list.

    Attributes
    ----------
    kind : str
        "<f8" or "<f4" for little-endian floats, row by row; "json" for a list of strings.
    shape : tuple of int
        Of the array; the length of the list.
    pieces : tuple of str
        BLAKE2b (16 bytes, hex) of each piece, in order.
    """

    kind: str
    shape: tuple[int, ...]
    pieces: tuple[str, ...]

    @property
    def hash(self) -> str:
        """Its name: BLAKE2b of all that is above."""
        return digest(msgspec.json.encode(self))


def digest(data: Any) -> str:
    """BLAKE2b (16 bytes, hex) of some bytes."""
    return hashlib.blake2b(data, digest_size=16).hexdigest()


def marks_of(data: Any) -> bytes:
    """The marks of the grains of a piece, one after another (BLAKE2b, 4 bytes each)."""
    view = memoryview(data).cast("B")
    return b"".join(
        hashlib.blake2b(view[start : start + GRAIN], digest_size=MARK).digest()
        for start in range(0, len(view), GRAIN)
    )


@frozen
class Content:
    """An array or list on its way into the file: what stands for it, and its bytes when asked for."""

    stored: Stored
    parts: Callable[[], Iterator[memoryview]]


def array_content(values: np.ndarray) -> Content:
    """An array, in single precision where that loses nothing and saves much."""
    flat = np.ascontiguousarray(values, dtype="<f8").reshape(-1)
    kind = "<f8"
    if flat.nbytes > HALVED and _fits_single(flat):
        kind = "<f4"

    def parts() -> Iterator[memoryview]:
        every = PIECE // NUMBERS[kind]
        for start in range(0, max(len(flat), 1), every):
            piece = flat[start : start + every]
            yield (piece if kind == "<f8" else piece.astype("<f4")).data.cast("B")

    return Content(Stored(kind, values.shape, tuple(digest(part) for part in parts())), parts)


def _fits_single(flat: np.ndarray) -> bool:
    """Whether single precision holds every value exactly."""
    with np.errstate(over="ignore"):
        for start in range(0, len(flat), 1 << 20):
            part = flat[start : start + (1 << 20)]
            if not np.array_equal(part.astype("<f4").astype("<f8"), part, equal_nan=True):
                return False
    return True


def list_content(texts: Sequence[str]) -> Content:
    """A list of strings."""
    data = memoryview(msgspec.json.encode(list(texts)))

    def parts() -> Iterator[memoryview]:
        for start in range(0, len(data), PIECE):
            yield data[start : start + PIECE]

    return Content(Stored(TEXTS, (len(texts),), tuple(digest(part) for part in parts())), parts)


def check_size(stored: Stored) -> None:
    """Refuse what cannot be, before any memory is taken for it.

    Raises
    ------
    FileError
    """
    sides = [int(side) for side in stored.shape]
    known = all(0 <= side <= 2**40 for side in sides) and len(sides) <= 3
    if stored.kind == TEXTS:
        fits = known and len(sides) == 1 and len(stored.pieces) * PIECE <= MOST_BYTES
    else:
        count = int(np.prod(sides, dtype=object))
        size = count * NUMBERS.get(stored.kind, 0)
        fits = known and stored.kind in NUMBERS and size <= MOST_BYTES
        fits = fits and len(stored.pieces) == max(1, -(-size // PIECE))
    if not fits:
        raise FileError(
            f"An array in the study file says it is {stored.kind} {tuple(stored.shape)} "
            f"in {len(stored.pieces)} pieces.",
            DAMAGED,
        )


def content_of(stored: Stored, piece: Callable[[str], bytes | None]) -> Any:
    """The read-only array or the tuple of strings whose pieces all are what they should be.

    Parameters
    ----------
    piece : function of a hash
        Gives the bytes of a piece, None where it is missing.

    Raises
    ------
    FileError
    """
    check_size(stored)
    if stored.kind == TEXTS:
        data = b"".join(_sound(name, piece) for name in stored.pieces)
        try:
            texts = msgspec.json.decode(data, type=tuple[str, ...])
        except msgspec.MsgspecError as error:
            raise FileError("A list in the study file cannot be read.", DAMAGED) from error
        if len(texts) != stored.shape[0]:
            raise FileError("A list in the study file has another length.", DAMAGED)
        return texts
    values, at = np.empty(int(np.prod(stored.shape)), dtype=np.float64), 0
    for name in stored.pieces:
        part = np.frombuffer(_sound(name, piece), dtype=stored.kind)
        if at + len(part) > len(values):
            raise FileError("An array in the study file is longer than it says.", DAMAGED)
        values[at : at + len(part)] = part
        at += len(part)
    if at != len(values):
        raise FileError("An array in the study file is shorter than it says.", DAMAGED)
    values.flags.writeable = False
    return values.reshape(stored.shape)


def _sound(name: str, piece: Callable[[str], bytes | None]) -> bytes:
    data = piece(name)
    if data is None:
        raise FileError(f"The study file lacks a part of an array ({name[:8]}…).", DAMAGED)
    if digest(data) != name:
        raise FileError(f"An array in the study file (hash {name[:8]}…) has changed bytes.", DAMAGED)
    return data


class KnownArrays:
    """Remembers the hash of array objects, and the object of hashes, for as long as the arrays live."""

    def __init__(self) -> None:
        self._hashes: dict[int, tuple[weakref.ref[np.ndarray], str]] = {}
        self._objects: weakref.WeakValueDictionary[str, np.ndarray] = weakref.WeakValueDictionary()

    def hash_of(self, values: np.ndarray) -> str | None:
        """The hash, where this very object has been met."""
        known = self._hashes.get(id(values))
        return known[1] if known is not None and known[0]() is values else None

    def object_of(self, name: str) -> np.ndarray | None:
        """The array, where one with this hash is alive."""
        return self._objects.get(name)

    def remember(self, values: np.ndarray, name: str) -> None:
        """From now on, this object has this hash."""
        self._hashes[id(values)] = (weakref.ref(values), name)
        self._objects[name] = values
        if len(self._hashes) > 512:
            self._hashes = {key: pair for key, pair in self._hashes.items() if pair[0]() is not None}
