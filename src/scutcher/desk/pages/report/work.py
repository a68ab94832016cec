"""The pages of a report, made behind: sections once a moment, their paper whenever a choice is other."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from scutcher.charts.memo import same
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, tell
from scutcher.desk.actions.reporting import report_maker
from scutcher.desk.context import Desk
from scutcher.study.work import Priority

if TYPE_CHECKING:
    from scutcher.charts.report.document import Document
    from scutcher.charts.report.material import Report
    from scutcher.charts.report.paper import Pixels

SLOT = "report-preview"

ALWAYS = ("models", "decisions", "versions")
"""Sections that are made anew whatever was changed: every choice is a decision."""


@frozen(eq=False)
class Made:
    """A report as it would be written now."""

    report: Report
    document: Document
    pdf: bytes
    pages: list[Pixels]
    begins: dict[str, int]
    """The page on which each section begins, from 0, by its title."""


class ReportWork:
    """Asks for the pages and keeps them.

    Attributes
    ----------
    made : Made or None
        The newest that are there.
    trouble : InputError or None
        Why there are none.
    busy : bool
    """

    def __init__(self, desk: Desk, arrived: Callable[[], object]) -> None:
        self.desk, self._arrived = desk, arrived
        self.made: Made | None = None
        self.trouble: InputError | None = None
        self.busy = False
        self._source: tuple[object, ...] = ()
        self._asked: tuple[object, ...] = ()
        self._report: Report | None = None

    def ask(self, width: int) -> None:
        """Make the pages of the study as it is, so many pixels wide."""
        source = self._source_of_now()
        asked = (*source, self.desk.moment.state.report, width)
        if self.busy and same(asked, self._asked):
            return  # these pages are being made
        self._asked = asked
        known = self._report if self._report is not None and same(source, self._source) else None
        make = report_maker(self.desk, self.desk.study.file)
        if make is None:
            self.trouble = InputError("There is no model to report.", "")
            self._arrived()
            return
        self.busy = True

        def work(watch: Watch) -> tuple[Made, tuple[object, ...]]:
            from scutcher.charts.report.contents import document_of
            from scutcher.charts.report.paper import beginnings, page_pictures
            from scutcher.charts.report.writing import pdf_of

            report = make(watch)
            if known is not None:
                report.parts.update((key, known.parts[key]) for key in known.parts if key not in ALWAYS)
            tell(watch, 0.2)
            document = document_of(report)
            tell(watch, 0.4)
            pdf = pdf_of(document, watch)
            tell(watch, 0.9)
            return Made(report, document, pdf, page_pictures(pdf, width), beginnings(pdf)), source

        self.desk.live.ask(SLOT, None, work, self._take, priority=Priority.GRIDS)

    def stop(self) -> None:
        """Nobody looks any more."""
        self.busy = False
        self.desk.live.queue.drop(SLOT)

    def _take(self, answer: Any) -> None:
        self.busy = False
        if isinstance(answer, InputError):
            self.trouble = answer
        elif isinstance(answer, Exception):
            raise answer
        else:
            (self.made, self._source), self.trouble = answer, None
            self._report = self.made.report
        self._arrived()

    def _source_of_now(self) -> tuple[object, ...]:
        """What sections are made of, but for the choices: where that is the same, only the paper is new."""
        moment = self.desk.moment
        state = moment.state
        own = (state.table, state.recipe, state.models, state.datasets, state.blocks)
        return (moment.found, moment.checked, self.desk.live.brought, *own)
