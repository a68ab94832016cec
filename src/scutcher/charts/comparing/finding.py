"""Which of two models is better and in what, in one sentence; never more than the errors allow."""

from __future__ import annotations

from collections.abc import Sequence

from scutcher.charts.words import Pieces
from scutcher.core.words import Shown, count_of, shown
from scutcher.study.evaluation.comparison import Comparison
from scutcher.study.evaluation.comparison_figures import Figure

WORDS = {
    "separation": {
        "better": "B keeps the classes further apart ({b:.2f} for {a:.2f})",
        "worse": "B keeps the classes less far apart ({b:.2f} for {a:.2f})",
        "same": "B keeps the classes as far apart",
    },
    "replicates": {
        "better": "replicates lie closer ({b:.2f} for {a:.2f})",
        "worse": "replicates lie further apart ({b:.2f} for {a:.2f})",
        "same": "replicates lie as close",
    },
    "within": {
        "better": "limits hold better ({b:.2f} within both for {a:.2f})",
        "worse": "limits hold less well ({b:.2f} within both for {a:.2f})",
        "same": "",
    },
    "q2": {
        "better": "left-out values are predicted better (Q² {b:.3f} for {a:.3f})",
        "worse": "left-out values are predicted less well (Q² {b:.3f} for {a:.3f})",
        "same": "Q² is the same to within its error",
    },
}
"""What a verdict on a figure is called, in the order of the sentence."""

FAR = 1.0
"""Root mean square distances that a sample moves before it is named."""


def finding(compared: Comparison, keys: Sequence[int]) -> Pieces:
    """The sentence; Q² only where it is the share of the same data.

    Parameters
    ----------
    keys : for each common sample its row in the table that is looked at; negative where it is not there
    """
    if compared.turned.agreement <= compared.turned.by_chance:
        return [("What A and B show of these samples agrees no better than chance would make it.", ())]
    parts = [words for key in WORDS for words in _said(compared, key)]
    parts = _with_components(parts, compared.figure("components"))
    parts += _of_shapes(compared.figure("shapes"), compared.figure("left-over"))
    if not parts:
        parts = ["No figure of A and B can be told apart"]
    pieces: list[tuple[str, tuple[int, ...]]] = [("; ".join(parts), ())]
    first = int(compared.turned.moved.argmax())
    if compared.turned.moved[first] >= FAR and keys[first] >= 0:
        name = compared.a.found.table.ids[int(compared.rows_a[first])]
        pieces += [("; ", ()), (name, (keys[first],)), (" moved most", ())]
    return _capital([*pieces, (".", ())])


def _said(compared: Comparison, key: str) -> list[str]:
    figure = compared.figure(key)
    if (
        figure is None
        or figure.a is None
        or figure.b is None
        or not figure.verdict
        or (key == "q2" and not compared.same_data)
    ):
        return []
    words = WORDS[key][figure.verdict]
    return [words.format(a=Shown(figure.a), b=Shown(figure.b))] if words else []


def _with_components(parts: list[str], figure: Figure | None) -> list[str]:
    """How many components fewer or more, said with the first of the others."""
    if figure is None or figure.a is None or figure.b is None or figure.a == figure.b:
        return parts
    fewer = int(figure.a - figure.b)
    words = f"{count_of(abs(fewer), 'component')} {'fewer' if fewer > 0 else 'more'}"
    if not parts:
        return [f"B has {words}"]
    return [f"{parts[0]} with {words}", *parts[1:]]


def _of_shapes(counts: Figure | None, over: Figure | None) -> list[str]:
    """What shapes leave over; never that more of them are better."""
    if counts is None or over is None:
        return []
    told = [
        f"{name} leaves {shown(100.0 * left, '.2g')} % over with {count_of(int(count), 'shape')}"
        for name, count, left in (("A", counts.a, over.a), ("B", counts.b, over.b))
        if count is not None and left is not None
    ]
    return [", ".join(told)]


def _capital(pieces: list[tuple[str, tuple[int, ...]]]) -> Pieces:
    words, rows = pieces[0]
    return [(words[:1].upper() + words[1:], rows), *pieces[1:]]
