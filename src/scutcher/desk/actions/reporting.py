"""What a report of the moment is made of, gathered at once and computed behind."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk
from scutcher.study.storage.study_file import StudyFile

if TYPE_CHECKING:
    from scutcher.charts.report.material import Report


def report_maker(desk: Desk, file: StudyFile | None) -> Callable[[Watch], Report] | None:
    """What makes the report of the moment of now, on any thread; None where there is no model."""
    moment, brought = desk.moment, desk.live.brought
    found, checked = moment.found, moment.checked
    if found is None:
        return None
    log, seal, altered = (
        ((), "", "") if file is None else (tuple(file.history.log()), file.history.log_seal(), file.altered)
    )

    def make(watch: Watch) -> Report:
        from scutcher.charts.report.material import Report
        from scutcher.study.audit import audit_of
        from scutcher.study.evaluation.checks import check, with_slow_lines
        from scutcher.study.evaluation.new_samples import newcomers

        known = checked if checked is not None else with_slow_lines(found, check(found, watch), watch)
        try:
            new = None if brought is None else newcomers(found, *brought, known)
        except InputError:
            new = None  # it has been said when they were brought
        audit = audit_of(moment.state.recipe, moment.state.source)
        return Report(moment.state, found, known, log, audit, seal, altered, new)

    return make
