"""The grounds on which everything is drawn: light, dark, of high contrast; and paper, always light."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from scutcher.core.frozen import frozen
from scutcher.core.words import plain_numbers


@frozen
class Palette:
    """One ground with all that stands on it.

    Attributes
    ----------
    linen, paper : str
        Of the window and of panels, `#RRGGBB`.
    hairline, chip, faded : str
        Lines around panels, what is chosen, words that are switched off.
    ink, muted : str
        Words, and those that matter less.
    accent, ochre, alarm : str
    own, later : str
        Of a table's own components, and of common ones after the first.
    classes : tuple of 8 str
        Apart from each other for every eye; tested.
    no_class : str
    groups : tuple of 6 str
        Of groups of variables behind strips, pale.
    range : str
        In the middle of a map without signs.
    ramp : (str, str)
        Ends of a continuous scale of samples.
    """

    linen: str
    paper: str
    hairline: str
    chip: str
    ink: str
    muted: str
    faded: str
    accent: str
    ochre: str
    alarm: str
    own: str
    later: str
    classes: tuple[str, ...]
    no_class: str
    groups: tuple[str, ...]
    range: str
    ramp: tuple[str, str]


LIGHT = Palette(
    linen="#F3F0E8",
    paper="#FCFBF8",
    hairline="#DED8CB",
    chip="#E6E0D0",
    ink="#23262B",
    muted="#6F6B62",
    faded="#C9C4B8",
    accent="#1F2F6B",
    ochre="#B9770E",
    alarm="#B5381B",
    own="#C9BCA0",
    later="#4A5A98",
    classes=("#1B1E6E", "#CD3C14", "#E3B81A", "#146E60", "#7F2BC4", "#9D8FF0", "#4C1414", "#F07BB4"),
    no_class="#5C636E",
    groups=("#BFD0E0", "#EBC7B8", "#BFD6B3", "#D9C6E6", "#E3D5A9", "#C4C0B8"),
    range="#8C9AC4",
    ramp=("#D9C48A", "#23215E"),
)
DARK = Palette(
    linen="#1F1E1B",
    paper="#282723",
    hairline="#47443D",
    chip="#3B3933",
    ink="#ECE8DE",
    muted="#A8A296",
    faded="#6A665D",
    accent="#A9B8F2",
    ochre="#E2A94F",
    alarm="#FF8A65",
    own="#7D7460",
    later="#7484C4",
    classes=("#15A9F4", "#FFD89A", "#CA229C", "#6F9306", "#9A37F8", "#CBFBF5", "#D47F8E", "#40FF25"),
    no_class="#A7ADB8",
    groups=("#33475C", "#5A3A2E", "#38502F", "#4B3B5E", "#54491F", "#4A4843"),
    range="#6B7BB8",
    ramp=("#6C63B5", "#F0DFA0"),
)
CONTRAST = Palette(
    linen="#FFFFFF",
    paper="#FFFFFF",
    hairline="#6B6B6B",
    chip="#E2E2E2",
    ink="#000000",
    muted="#2E2E2E",
    faded="#767676",
    accent="#00006E",
    ochre="#7A4A00",
    alarm="#8E0000",
    own="#A8A8A8",
    later="#3B3B9C",
    classes=("#4A3EFF", "#A81673", "#1AA867", "#613106", "#C175E6", "#859E21", "#570194", "#010001"),
    no_class="#4A4A4A",
    groups=("#C4DCF4", "#F4CDBD", "#C2E0B3", "#E2CCF2", "#EFE2A8", "#D0D0D0"),
    range="#8088B8",
    ramp=("#C9B45A", "#12104A"),
)

PALETTES = {"light": LIGHT, "dark": DARK, "contrast": CONTRAST}

_chosen: list[Palette] = [LIGHT]
_on_paper: ContextVar[bool] = ContextVar("on_paper", default=False)


def choose(name: str) -> None:
    """The ground of everything on screen from now on; an unknown name is light."""
    _chosen[0] = PALETTES.get(name, LIGHT)


def now() -> Palette:
    """The palette by which is drawn: that of the screen, or of paper."""
    return LIGHT if _on_paper.get() else _chosen[0]


@contextmanager
def on_paper() -> Iterator[None]:
    """Whatever is drawn inside is for paper, whatever the screen looks like, numbers too; in this thread."""
    token = _on_paper.set(True)
    try:
        with plain_numbers():
            yield
    finally:
        _on_paper.reset(token)
