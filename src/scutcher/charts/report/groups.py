"""The classes in a report: the finding, their table, labels worth a look, the plane, the difference."""

from __future__ import annotations

import numpy as np

from scutcher.charts.class_differences import difference_strip
from scutcher.charts.class_table import class_square
from scutcher.charts.description import Chart
from scutcher.charts.groups import GroupsLook, group_plane
from scutcher.charts.held_out_groups import doubtful_words, finding
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.grouping import grouping_of, held_out_groups, with_p_value


@frozen(eq=False)
class GroupsSection:
    """What a report says of the classes.

    Attributes
    ----------
    column, sentence : str
    table : header and rows of the class table
    doubtful : tuple of str
    figures : charts with their captions
    """

    column: str
    sentence: str
    table: tuple[list[str], list[list[object]]]
    doubtful: tuple[str, ...]
    figures: tuple[tuple[Chart, str], ...]


def groups_section(state: State, found: Evaluation) -> GroupsSection | None:
    """The classes of the colouring, or of the first column; None where there are not two to tell apart."""
    names = [column.name for column in found.treated.classes]
    try:
        column = state.colour_by if state.colour_by in names else ""
        grouping = grouping_of(found, column, state.recipe.groups)
        held = with_p_value(grouping, held_out_groups(grouping))
    except InputError:
        return None
    away = np.nan_to_num(grouping.distances, nan=np.inf)
    np.fill_diagonal(away, np.inf)
    one, two = (int(place) for place in np.unravel_index(int(away.argmin()), away.shape))
    near = (int(grouping.present[one]), int(grouping.present[two]))
    figures = (
        (
            group_plane(grouping, grouping.pair, GroupsLook(), near),
            "Where the classes lie farthest apart.",
        ),
        (
            difference_strip(grouping, near, grouping.difference(*near), "difference"),
            "The two classes that lie nearest: difference of their means, 95 % band over lots.",
        ),
    )
    return GroupsSection(
        grouping.column.name,
        "".join(words for words, _ in finding(grouping, held)) + ".",
        class_square(grouping, held).rows(),
        tuple(doubtful_words(grouping, held)),
        figures,
    )
