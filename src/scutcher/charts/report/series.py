"""A series in a report: what changes and when, the picture, the amounts of shapes and what is left over."""

from __future__ import annotations

from scutcher.charts.report.document import Heading, Paragraph, Part, Picture, Rows
from scutcher.charts.series.amounts import amounts, leftover, shapes
from scutcher.charts.series.finding import finding
from scutcher.charts.series.picture import picture
from scutcher.charts.series.windows import growing
from scutcher.charts.words import with_minus
from scutcher.core.errors import InputError
from scutcher.core.unmixing.mixture import Mixture
from scutcher.core.words import shown
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.orders import order_of
from scutcher.study.evaluation.series import mixture_of, series_of

LISTED = 60
"""Spectra whose amounts are listed."""


def series_section(state: State, found: Evaluation) -> list[Part]:
    """The section; empty where samples have no order and no shapes were chosen."""
    how, series = found.recipe.unmix, series_of(state, found)
    if series is None and not how.asks:
        return []
    parts: list[Part] = [Heading("Series" if series is not None else "Amounts")]
    mixture: Mixture | None = None
    if how.asks:
        try:
            mixture = mixture_of(found, order_of(state), how)
        except InputError as error:
            parts.append(Paragraph(f"No amounts: {error.problem} {error.remedy}"))
    if series is not None:
        windows = series.windows() if series.has_amounts else None
        parts.append(Paragraph("".join(words for words, _ in finding(series, mixture, windows))))
        parts.append(Picture(picture(series, "plain", 0), "The series, position by channel, true to scale."))
        if windows is not None:
            parts.append(Picture(growing(series, windows, False), "Singular values of growing windows."))
    if mixture is None:
        return parts
    if series is not None:
        parts += [
            Picture(amounts(series, mixture), "Amounts along the series, with their bands."),
            Picture(shapes(series, mixture), "The shapes; of found ones all that explain the data as well."),
            Picture(leftover(state, series, mixture), "What the shapes leave over of each spectrum."),
        ]
    return [*parts, *_listed(found, mixture)]


def _listed(found: Evaluation, mixture: Mixture) -> list[Part]:
    """The first amounts with their bands, how they were found, and whether another shape is needed."""
    rows = [
        (
            found.treated.ids[row],
            *(
                with_minus(f"{shown(amount, '.4g')} ({shown(low, '.4g')} to {shown(high, '.4g')})")
                for amount, low, high in zip(
                    mixture.amounts[row], mixture.low[row], mixture.high[row], strict=True
                )
            ),
        )
        for row in range(min(len(mixture.amounts), LISTED))
    ]
    how = found.recipe.unmix
    said = f"Amounts {how.rule.replace('-', ' ')}"
    if mixture.opened is not None:
        said += (
            f"; shapes found without references, range {shown(mixture.opened.width, '.2f')} "
            f"({mixture.opened.said})"
        )
    if mixture.leftover is not None:
        needed = "is needed" if mixture.another_is_needed else "is not needed"
        said += f"; another shape {needed} (z {with_minus(shown(mixture.leftover.z, '.1f'))}, limit 2.3)"
    more = len(mixture.amounts) - LISTED
    words = f"{said}." + (f" {more} more spectra are not listed." if more > 0 else "")
    return [Paragraph(words), Rows(rows, ("sample", *mixture.names))]
