"""Running a module of this package in a process of its own."""

from __future__ import annotations

import os
import sys
from pathlib import Path

PACKAGES = Path(__file__).parents[2]
"""The folder in which this package lies: the other process finds it there."""


def own_process(module: str, *arguments: str, **more: str) -> tuple[list[str], dict[str, str]]:
    """Command and environment of a process that runs a module; `more` are variables of its environment."""
    # -P, or a numpy.py in the folder of now would be run in place of NumPy
    command = [sys.executable, "-P", "-m", module, *arguments]
    path = os.pathsep.join(filter(None, (str(PACKAGES), os.environ.get("PYTHONPATH"))))
    return command, {**os.environ, "PYTHONPATH": path, **more}
