"""Libraries that pages need are read behind, once the first picture stands: no page waits for them."""

from __future__ import annotations

import importlib
import sys
import threading
import time

from scutcher.core.numeric.threads import give_way

SOON = 1200
"""Milliseconds after the first picture."""

LIBRARIES = (
    "scipy.special",
    "scipy.linalg",
    "scipy.optimize",
    "scipy.interpolate",
    "scutcher.core.treatments",
    "scutcher.charts.class_models",
    "scutcher.charts.groups",
    "scutcher.charts.printing",
    "scutcher.files.formats",
    "scutcher.files.model_json",
    "scutcher.files.mixture_json",
    "scutcher.study.audit",
)
"""Those that take longest to read; none of them touches the screen."""

PAUSE = 0.02
"""Seconds between two of them, for whoever waits for the interpreter."""

_begun = threading.Event()


def warm() -> None:
    """Begin, once in a program."""
    if not _begun.is_set():
        _begun.set()
        threading.Thread(target=_read, name="warming", daemon=True).start()


def _read() -> None:
    give_way()
    for name in LIBRARIES:
        if name not in sys.modules:
            importlib.import_module(name)
            time.sleep(PAUSE)
