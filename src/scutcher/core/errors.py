"""Every error that a user may cause: one sentence says what was found and where, one says what to do.

InputError
├── FileError        a file cannot be read or written
│   └── AxesDiffer   spectra that are to be stacked have different axes; resampling can be offered
├── TableError       the data cannot be used as they are
├── RecipeError      a recipe, or a value in it, cannot be used
└── ModelError       the model that was asked for does not exist
"""

from __future__ import annotations


class InputError(Exception):
    """What was found (with value and place) and what to do about it."""

    def __init__(self, problem: str, remedy: str) -> None:
        super().__init__(problem, remedy)
        self.problem = problem
        self.remedy = remedy

    def __str__(self) -> str:
        return f"{self.problem} {self.remedy}"


class FileError(InputError):
    """A file cannot be read or written."""


class AxesDiffer(FileError):
    """Spectra that are to be stacked have different axes."""


class TableError(InputError):
    """The data cannot be used as they are."""


class RecipeError(InputError):
    """A recipe, or a value in it, cannot be used."""


class ModelError(InputError):
    """The model that was asked for does not exist."""
