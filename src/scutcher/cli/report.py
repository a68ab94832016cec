"""`report`: a study as a report."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import DONE, Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    report = commands.add_parser("report", help="a study as a report")
    report.add_argument("study", type=Path, metavar="STUDY")
    report.add_argument("--out", type=Path, required=True, metavar="FILE.html|FILE.pdf")
    report.set_defaults(run=_report)


def _report(options: argparse.Namespace) -> int:
    from scutcher.charts.report import Report, write_report
    from scutcher.cli.studies import study_of
    from scutcher.study.evaluation.checks import check, with_slow_lines
    from scutcher.study.evaluation.evaluator import Evaluator

    state, log = study_of(options.study)
    assert state.table is not None
    found = Evaluator(keeps=False).evaluate(state.table, state.recipe, lenient=True)
    checked = with_slow_lines(found, check(found))
    write_report(Report(state, found, checked, log), options.out)
    print(options.out)
    return DONE
