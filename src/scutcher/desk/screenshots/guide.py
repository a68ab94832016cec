"""The guide as one text."""

from __future__ import annotations

from scutcher.desk.pages.guide import whole_guide
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.document.study import Study


def guide_text() -> str:
    """The guide as it stands in the docs."""
    application()
    window = Window(Study())
    whole = whole_guide(window.papers.keys())
    dispose(window)
    return whole
