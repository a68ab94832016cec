"""Everything that keys and the search field reach, in one list: of the window, and of its pages."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Protocol

from scutcher.desk.actions.action import Action
from scutcher.desk.actions.opening import DEMOS, Opening
from scutcher.desk.actions.picked_samples import Acting
from scutcher.desk.actions.recipe_files import RecipeFiling
from scutcher.desk.actions.study_files import Filing
from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import PageAct
from scutcher.desk.pages.page_stack import PageStack
from scutcher.desk.shell.bottom_bar import BottomBar
from scutcher.desk.shell.papers import Papers
from scutcher.desk.shell.top_bar import TopBar
from scutcher.desk.trail.trail import Trail


class Parts(Protocol):
    """What a window is made of, as far as actions reach into it."""

    @property
    def desk(self) -> Desk: ...
    @property
    def opening(self) -> Opening: ...
    @property
    def filing(self) -> Filing: ...
    @property
    def recipes(self) -> RecipeFiling: ...
    @property
    def acting(self) -> Acting: ...
    @property
    def papers(self) -> Papers: ...
    @property
    def stack(self) -> PageStack: ...
    @property
    def topbar(self) -> TopBar: ...
    @property
    def bottom(self) -> BottomBar: ...
    @property
    def trail(self) -> Trail: ...
    def undo(self) -> None: ...
    def redo(self) -> None: ...
    def clear(self) -> None: ...
    def whole(self) -> None: ...
    def switch_last_step(self) -> None: ...
    def close(self) -> bool: ...


def window_actions(window: Parts) -> tuple[Action, ...]:
    """The actions of a window, those of its pages after them."""
    return (
        *_on_studies(window),
        *_on_samples(window),
        *_on_models(window),
        *_looks(window),
        *_on_pages(window),
        *(Action(f"Open the demo: {name}", "", partial(window.opening.open_demo, name)) for name in DEMOS),
    )


def _on_studies(window: Parts) -> tuple[Action, ...]:
    return (
        Action("Open a file…", "Ctrl+O", window.opening.ask_for_file),
        Action("Paste a table from a spreadsheet", "Ctrl+V", window.opening.paste),
        Action("New study", "Ctrl+N", window.opening.new_study),
        Action("Add a data set to this study…", "", window.opening.ask_to_add),
        Action("Close this study", "Ctrl+W", window.close),
        Action("Name this study…", "Ctrl+S", window.filing.ask_name),
        Action("Undo", "Ctrl+Z", window.undo),
        Action("Redo", "Ctrl+Shift+Z", window.redo),
        Action("Find…", "Ctrl+K", window.topbar.search.start),
    )


def _on_samples(window: Parts) -> tuple[Action, ...]:
    desk, bottom, acting = window.desk, window.bottom, window.acting
    return (
        Action("Clear the pick", "Esc", window.clear),
        Action("Set aside the picked samples…", "Del", lambda: acting.set_aside(bottom.set_aside)),
        Action("Watch the picked samples: out of the model, shown on it", "H", acting.watch),
        Action("Tag the picked samples…", "T", lambda: acting.tag(bottom.tag)),
        Action("What the model does not see", "A", lambda: acting.show_set_aside(window.topbar.study)),
        Action("What each column of the file is…", "I", window.papers.show_columns),
        Action("Propose outliers (robust fit)…", "", window.papers.propose_outliers),
        Action("Show all classes", "C", lambda: desk.selection.change(focus=None, alone=False)),
    )


def _on_models(window: Parts) -> tuple[Action, ...]:
    papers, recipes, shelf = window.papers, window.recipes, window.trail.shelf
    return (
        Action("Keep one component more", "Alt+Right", lambda: window.bottom.step(1)),
        Action("Keep one component fewer", "Alt+Left", lambda: window.bottom.step(-1)),
        Action("Switch the last treatment on or off", "S", window.switch_last_step),
        Action("Add a treatment…", "+", papers.add_treatment),
        Action("Try several treatments…", "Ctrl+T", papers.try_several),
        Action("Put the model by on the shelf", "B", shelf.put),
        Action("Compare the models on the shelf", "Shift+B", papers.compare),
        Action("Open a recipe…", "", recipes.ask_open),
        Action("Save the recipe…", "", recipes.ask_save),
        Action("Save the model (model.json)…", "", recipes.ask_save_model),
        Action("Project new samples onto the model…", "Ctrl+Shift+O", papers.ask_new),
    )


def _looks(window: Parts) -> tuple[Action, ...]:
    papers = window.papers
    return (
        Action("All pairs of components", "P", lambda: papers.show_space("pairs")),
        Action("Scores in space (3-D)", "D", lambda: papers.show_space("space")),
        Action("Samples and loadings as pictures", "L", lambda: papers.show_space("pictures")),
        Action("Samples rebuilt by more and more components", "G", lambda: papers.show_space("rebuilds")),
        Action("Loadings as points", "", lambda: papers.show_space("loadings")),
        Action("Loadings as correlations (circle)", "", lambda: papers.show_space("circle")),
        Action("Loadings as a table", "", lambda: papers.show_space("table")),
        Action("Is it right?", "", papers.show_answer),
        Action("Show the whole axis", "W", window.whole),
    )


def _on_pages(window: Parts) -> Iterator[Action]:
    """Each goes to its page first."""
    for page in window.stack.pages.values():
        for act in page.acts:
            yield Action(act.words, act.key, partial(_on_page, window, page.name, act))


def _on_page(window: Parts, name: str, act: PageAct) -> object:
    view = window.stack.show_page(name)
    return None if view is None else act.run(view)
