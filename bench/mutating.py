"""Mutations of files: of their bytes, of the members of an archive, of the values of a JSON or TOML text."""

from __future__ import annotations

import copy
import io
import json
import re
import zipfile
from typing import Any

import numpy as np

from scutcher.files.content_seal import KEY, sealed

JUNK = (
    None, True, -1, 0, 1, 7.5, 1e308, -1e-320, float("nan"), float("inf"), "x", "", [], {}, [None], ["a"],
    [1, 2], 10**400, [[1e308]], "\0", "<b>x</b>", 2**63, -(2**31),
)  # fmt: skip
"""What stands in the place of another value."""

NUMBERS = (
    "inf",
    "nan",
    "-1",
    "0",
    "1e-320",
    "1e300",
    "99999999999999999999",
    "-0.0",
    "3.5",
    "true",
    '"x"',
    "[]",
)
"""What stands in the place of a number of a recipe."""


def mutated(seed: bytes, rng: np.random.Generator) -> bytes:
    """A file with bytes changed, cut, doubled, or filled with what is special to readers."""
    data = bytearray(seed)
    for _ in range(int(rng.choice((1, 1, 1, 2, 3, 5)))):
        place = int(rng.integers(0, max(len(data), 1)))
        kind = rng.integers(0, 6)
        if kind == 0 and data:
            data[min(place, len(data) - 1)] = int(rng.integers(0, 256))
        elif kind == 1:
            del data[place : place + int(rng.integers(1, 40))]
        elif kind == 2:
            data[place:place] = data[place : place + int(rng.integers(1, 60))]
        elif kind == 3:
            data = data[:place]
        elif kind == 4:
            data[place:place] = SPECIAL[int(rng.integers(0, len(SPECIAL)))]
        elif data:
            data[place] = data[place] ^ (1 << int(rng.integers(0, 8)))
    return bytes(data)


SPECIAL = (
    b"\0", b'"', b",,,,", b"\n\n", b"1e999", b"-inf", b"nan", b"=1+1", b"##END=\n", b"##TITLE=x\n",
    b"\xff\xfe", b"9999999999999999999999", b"s999999999",
    b"%%%%", b"\xc3\x28", b"#", b";", b"\r", b"1,5", b"\x7f" * 8,
)  # fmt: skip


def rezipped(seed: bytes, rng: np.random.Generator) -> bytes:
    """A zip archive whose members are mutated and whose checksums are right again."""
    stream = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(seed)) as old, zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in old.infolist():
            content = old.read(entry)
            new.writestr(entry.filename, mutated(content, rng) if rng.random() < 0.4 else content)
    return stream.getvalue()


def revalued(seed: bytes, rng: np.random.Generator) -> bytes:
    """A JSON text with some values replaced, dropped or doubled; its seal is right again where it had one."""
    plain = json.loads(seed)
    for _ in range(int(rng.integers(1, 4))):
        inside, key = _somewhere(plain, rng)
        if inside is None:
            break
        kind = rng.integers(0, 4)
        if kind == 0:
            del inside[key]
        elif kind == 1 and isinstance(inside, list):
            inside.append(inside[key])
        else:
            inside[key] = copy.deepcopy(JUNK[int(rng.integers(len(JUNK)))])
    return json.dumps(resealed(plain)).encode()


def resealed(plain: Any) -> Any:
    """With a right seal where it had one, or nothing behind that would be reached."""
    if isinstance(plain, dict) and KEY in plain and _finite(plain):
        return sealed({name: value for name, value in plain.items() if name != KEY})
    return plain


def _finite(plain: Any) -> bool:
    try:
        json.dumps(plain, allow_nan=False)
    except ValueError:
        return False
    return True


def _somewhere(plain: Any, rng: np.random.Generator) -> tuple[Any, Any]:
    """A list or mapping at some depth, and a place in it."""
    inside, key = None, None
    while isinstance(plain, (dict, list)) and plain:
        keys = list(plain) if isinstance(plain, dict) else range(len(plain))
        inside, key = plain, keys[int(rng.integers(len(keys)))]
        plain = plain[key]
        if rng.random() < 0.25:
            break
    return inside, key


def renumbered(seed: bytes, rng: np.random.Generator) -> bytes:
    """A recipe with one or two numbers replaced by those that are hard."""
    text = seed.decode()
    places = [found.span() for found in re.finditer(r"(?<=[ =\[])-?[0-9][0-9.e+-]*", text)]
    chosen = sorted({int(k) for k in rng.integers(len(places), size=int(rng.integers(1, 3)))}, reverse=True)
    for start, stop in (places[k] for k in chosen):
        text = text[:start] + NUMBERS[int(rng.integers(len(NUMBERS)))] + text[stop:]
    return text.encode()
