"""Arrays and long lists as bytes under the hash of their content; nothing executable, nothing pickled."""

from __future__ import annotations

import hashlib
import weakref
from dataclasses import dataclass
from typing import Any

import msgspec
import numpy as np

from scutcher.core.errors import FileError

DTYPES = {"<f8": np.dtype("<f8")}
MOST_BYTES = 16 * 2**30


@dataclass(frozen=True)
class Blob:
    """What a row of the table `blobs` holds.

    Attributes
    ----------
    hash : str
        BLAKE2b (16 bytes) of kind, shape and data.
    kind : str
        "<f8" for a little-endian float64 array, row by row; "json" for a list of strings.
    shape : tuple of int
        Of the array; the length of the list.
    data : bytes
    """

    hash: str
    kind: str
    shape: tuple[int, ...]
    data: bytes


def digest(kind: str, shape: tuple[int, ...], data: bytes) -> str:
    """The name of a blob."""
    made = hashlib.blake2b(f"{kind}{shape}".encode(), digest_size=16)
    made.update(data)
    return made.hexdigest()


def array_blob(values: np.ndarray) -> Blob:
    """An array as a blob."""
    data = np.ascontiguousarray(values, dtype="<f8").tobytes()
    return Blob(digest("<f8", values.shape, data), "<f8", values.shape, data)


def list_blob(texts: tuple[str, ...]) -> Blob:
    """A list of strings as a blob."""
    data = msgspec.json.encode(texts)
    shape = (len(texts),)
    return Blob(digest("json", shape, data), "json", shape, data)


def check_size(kind: str, shape: tuple[int, ...], length: int) -> None:
    """Refuse a blob whose size is not what it says, before any memory is taken for it.

    Raises
    ------
    FileError
    """
    if kind == "json":
        fits = len(shape) == 1 and length <= MOST_BYTES
    else:
        known = kind in DTYPES and len(shape) <= 3 and all(0 <= side <= 2**40 for side in shape)
        fits = known and int(np.prod([int(side) for side in shape], dtype=object)) * 8 == length
    if not fits or length > MOST_BYTES:
        raise FileError(
            f"An array in the study file says it is {kind} {shape} and has {length} bytes.",
            "The file is damaged; rescue what is sound into a copy.",
        )


def content(blob: Blob) -> Any:
    """The read-only array or the tuple of strings of a blob whose hash is right.

    Raises
    ------
    FileError
        The bytes are not those that the hash was made of.
    """
    check_size(blob.kind, blob.shape, len(blob.data))
    if digest(blob.kind, blob.shape, blob.data) != blob.hash:
        raise FileError(
            f"An array in the study file (hash {blob.hash[:8]}…) has changed bytes.",
            "The file is damaged; rescue what is sound into a copy.",
        )
    if blob.kind == "json":
        texts = msgspec.json.decode(blob.data, type=tuple[str, ...])
        if len(texts) != blob.shape[0]:
            raise FileError("A list in the study file has another length.", "Rescue it into a copy.")
        return texts
    return np.frombuffer(blob.data, dtype="<f8").astype(np.float64, copy=False).reshape(blob.shape)


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
