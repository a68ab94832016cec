"""Reading in a process of its own what a library in another language may break on.

A damaged MATLAB file can end the process that reads it, with all that is open there; it may take more memory
than there is. So another one reads it, within limits, and hands over what it found.
"""

from __future__ import annotations

import json
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from scutcher.core.errors import FileError, InputError
from scutcher.files.arrays.stored import Stored
from scutcher.files.own_process import own_process

MORE, TIMES = 2**30, 200
"""Bytes of memory that the other process may take, beside so many times the file: what it may unfold to."""

PATIENCE = 300.0
"""Seconds without an end after which it is ended."""

INDEX = "index.json"


def read_apart(path: Path, module: str) -> list[Stored]:
    """The arrays of a file as `read_here` of a module finds them, in another process.

    Raises
    ------
    FileError
        What the other one raised; or it broke, or took too much memory or time.
    """
    damaged = FileError(f"{path.name} is damaged: it cannot be read to its end.", "Save it anew.")
    with tempfile.TemporaryDirectory() as folder:
        command, own = own_process(module, str(path.absolute()), folder)
        try:
            done = subprocess.run(command, env=own, capture_output=True, timeout=PATIENCE)
        except subprocess.TimeoutExpired as error:
            raise damaged from error
        index = Path(folder) / INDEX
        if done.returncode or not index.exists():
            raise damaged
        told = json.loads(index.read_text())
        if "problem" in told:
            raise FileError(told["problem"], told["remedy"])
        return [
            Stored(name, np.load(Path(folder) / f"{place}.npy"), group)
            for place, (name, group) in enumerate(told["arrays"])
        ]


def hand_over(found: Sequence[Stored], folder: Path) -> None:
    """Write what was found for the process that asked."""
    for place, stored in enumerate(found):
        np.save(folder / f"{place}.npy", np.asarray(stored.values), allow_pickle=False)
    names = [(stored.name, stored.group) for stored in found]
    (folder / INDEX).write_text(json.dumps({"arrays": names}))


def hand_over_trouble(error: InputError, folder: Path) -> None:
    """Write why nothing was found."""
    (folder / INDEX).write_text(json.dumps({"problem": error.problem, "remedy": error.remedy}))


def limit_memory(path: Path) -> None:
    """In the other process: no more than the file can mean; where the system has no limits, none."""
    try:
        import resource
    except ImportError:
        return
    own = MORE + TIMES * path.stat().st_size
    _, hard = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (own if hard < 0 else min(own, hard), hard))
