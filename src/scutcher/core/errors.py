"""Every error that a user may cause: one sentence says what was found and where, one says what to do.

InputError
├── FileError        a file cannot be read or written
│   ├── AxesDiffer   spectra that are to be stacked have different axes; resampling can be offered
│   └── Unclear      a file can be read in several ways that are as plausible as each other; one is asked for
├── TableError       the data cannot be used as they are
├── RecipeError      a recipe, or a value in it, cannot be used
└── ModelError       the model that was asked for does not exist
"""

from __future__ import annotations

from typing import Any

from scutcher.core.frozen import frozen


class InputError(Exception):
    """What was found (with value and place) and what to do about it.

    Attributes
    ----------
    problem, remedy : str
    mends : tuple of str
        Ways in which reading can go on all the same, when somebody asks for one: keys of `MENDS`.
    """

    def __init__(self, problem: str, remedy: str, mends: tuple[str, ...] = ()) -> None:
        super().__init__(problem, remedy)
        self.problem = problem
        self.remedy = remedy
        self.mends = mends

    def __str__(self) -> str:
        return f"{self.problem} {self.remedy}"


@frozen
class Mend:
    """A way to read data that are refused as they are: what to ask for, and what was done then."""

    ask: str
    done: str


MENDS = {
    "text-as-gaps": Mend("Take as gaps", "Text among numbers is taken as gaps"),
    "infinite-as-gaps": Mend("Take as gaps", "Infinite values are taken as gaps"),
    "ids-as-replicates": Mend("They are replicates", "Samples with one id are replicates, and are numbered"),
    "sound-part": Mend("Read what is sound", "Lost lines are gaps, doubled ones are taken once"),
    "number-ids": Mend("Number them", "Samples with one id are numbered"),
}


class FileError(InputError):
    """A file cannot be read or written."""


class AxesDiffer(FileError):
    """Spectra that are to be stacked have different axes."""


class Unclear(FileError):
    """A file can be read in several ways.

    Attributes
    ----------
    answers : tuple of (words, reading)
        What may be said about it, and the reading that says so.
    """

    def __init__(self, problem: str, remedy: str, answers: tuple[tuple[str, Any], ...]) -> None:
        super().__init__(problem, remedy)
        self.answers = answers


class TableError(InputError):
    """The data cannot be used as they are."""


class RecipeError(InputError):
    """A recipe, or a value in it, cannot be used."""


class ModelError(InputError):
    """The model that was asked for does not exist."""
