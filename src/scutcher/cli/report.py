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
    report.add_argument("--sign", type=Path, metavar="KEY", help="sign it with this SSH key: FILE.sig")
    report.set_defaults(run=_report)


def _report(options: argparse.Namespace) -> int:
    from scutcher.charts.report.contents import write_report
    from scutcher.charts.report.material import Report
    from scutcher.charts.report.writing import check_ending
    from scutcher.cli.studies import study_of, study_seal
    from scutcher.study.audit import audit_of
    from scutcher.study.evaluation.checks import check, with_slow_lines
    from scutcher.study.evaluation.evaluator import Evaluator

    check_ending(options.out)
    state, log = study_of(options.study)
    assert state.table is not None
    found = Evaluator(keeps=False).evaluate(state.table, state.recipe, lenient=True)
    checked = with_slow_lines(found, check(found))
    seal, altered = study_seal(options.study)
    audit = audit_of(state.recipe, state.source)
    write_report(Report(state, found, checked, log, audit, seal, altered), options.out)
    print(options.out)
    if options.sign is not None:
        from scutcher.files.signing import sign

        print(sign(options.out, options.sign))
    return DONE
