"""Reports of few sections take less time, where no test looks at the others."""

from __future__ import annotations

from scutcher.charts.report.contents import KEYS
from scutcher.study.document.commands.report import ReportBy
from scutcher.study.document.report_settings import ReportSettings, SectionSettings


def only_sections(*kept: str) -> ReportBy:
    """The command that switches all others off."""
    off = (SectionSettings(key, on=False) for key in KEYS if key not in kept)
    return ReportBy(ReportSettings(sections=tuple(off)))
