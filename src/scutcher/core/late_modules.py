"""What a library does on import although nobody uses it: put off until somebody does, or left out."""

from __future__ import annotations

import sys
from functools import cache
from importlib.util import LazyLoader, find_spec, module_from_spec, spec_from_file_location
from pathlib import Path
from types import ModuleType
from typing import Any, NamedTuple


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


class Undocumented(dict[str, list[Any]]):
    """Stands for the parsed documentation of a function: every section of it is empty."""

    def __init__(self, *of: object, **settings: object) -> None:
        super().__init__()

    def __missing__(self, section: str) -> list[Any]:
        return self.setdefault(section, [])

    def __str__(self) -> str:
        return "\n"


class Parameter(NamedTuple):
    """One of the documented parameters."""

    name: str
    type: str
    desc: list[str]


PARSER = "scipy._lib._docscrape"


def without_documentation() -> None:
    """Let SciPy be read without its documentation, for a program in which nobody asks for that.

    It parses the documentation of some hundred functions, to add a paragraph on what kinds of arrays they
    take: more than half the time in which `scipy.special` is read. Where SciPy is there already nothing
    happens.
    """
    if PARSER in sys.modules or "scipy" in sys.modules:
        return
    parser = ModuleType(PARSER)
    vars(parser).update(FunctionDoc=Undocumented, Parameter=Parameter, __getattr__=_of_the_parser)
    sys.modules[PARSER] = parser


def _of_the_parser(name: str) -> Any:
    """What some parts of SciPy need of the parser itself."""
    if name.startswith("__"):
        raise AttributeError(name)
    return getattr(_parser_itself(), name)


@cache
def _parser_itself() -> ModuleType:
    import scipy

    spec = spec_from_file_location(f"{PARSER}_itself", Path(scipy.__file__).parent / "_lib" / "_docscrape.py")
    assert spec is not None and spec.loader is not None
    whole = module_from_spec(spec)
    spec.loader.exec_module(whole)
    return whole
