"""Modules that a library names on import although nobody uses them: read when somebody does."""

from __future__ import annotations

import sys
from importlib.util import LazyLoader, find_spec, module_from_spec


def read_when_used(*names: str) -> None:
    """Let modules be read when something of theirs is first asked for; those that are there already stay.

    SciPy lists all of NumPy when it is first read, its translator of Fortran and its tests too: a third of
    the time that SciPy itself takes.

    Parameters
    ----------
    names : of modules of a package that has been read, "numpy.f2py"
    """
    for name in names:
        package, _, own = name.rpartition(".")
        spec = None if name in sys.modules else find_spec(name)
        if spec is None or spec.loader is None:
            continue
        spec.loader = LazyLoader(spec.loader)
        module = sys.modules[name] = module_from_spec(spec)
        setattr(sys.modules[package], own, module)
        spec.loader.exec_module(module)
