"""All that a report is made of."""

from __future__ import annotations

from dataclasses import field

from scutcher.charts.emphasis import colouring_of
from scutcher.charts.report.document import Part
from scutcher.charts.report.groups import GroupsSection, groups_section
from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen
from scutcher.study.audit import Audit
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.new_samples import Newcomers
from scutcher.study.storage.history import LogEntry

MOST_LINES = 600
"""Samples up to which each has a line in a report: of more, the means of the classes."""


@frozen(eq=False)
class Report:
    """What sections are made of.

    Attributes
    ----------
    state, found, checked
        The study, the evaluation of its current model, and what was found out about it.
    log : tuple of LogEntry
        Every decision, the first first.
    audit : Audit or None
    log_seal : str
        The seal of the last decision; "" for a study that is in no file.
    altered : str
        What of the study was changed by another program; "" where all bears its seal.
    new : Newcomers or None
        New samples that are on the model.
    """

    state: State
    found: Evaluation
    checked: Checked
    log: tuple[LogEntry, ...] = ()
    audit: Audit | None = None
    log_seal: str = ""
    altered: str = ""
    new: Newcomers | None = None
    parts: dict[str, list[Part]] = field(default_factory=dict, repr=False)
    """Of the sections that were made already: settings choose of them, and make none anew."""

    @computed_once
    def groups(self) -> GroupsSection | None:
        """What is said of the classes; computed when it is first asked for."""
        return groups_section(self.state, self.found)

    @property
    def legend(self) -> tuple[tuple[int, str], ...]:
        """Code and name of the first classes."""
        return colouring_of(self.state).named()[:8]

    @property
    def pair(self) -> tuple[int, int]:
        """The two components that are drawn."""
        return 0, min(1, self.found.model.k - 1)

    @property
    def means(self) -> bool:
        """Whether there are too many samples to draw each."""
        return len(self.found.usable.rows) > MOST_LINES
