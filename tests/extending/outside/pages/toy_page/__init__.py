"""A page that says how many samples there are."""

from PySide6.QtWidgets import QLabel, QVBoxLayout

from scutcher.desk.context import Desk, follow
from scutcher.desk.pages.declaration import Page, PageAct, PageView


class ToyView(PageView):
    """One label that follows the moment."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.greeted = desk, 0
        self.words = QLabel()
        QVBoxLayout(self).addWidget(self.words)
        follow(self, desk.live, lambda changed: self.refresh())
        self.refresh()

    def refresh(self) -> None:
        """Say how many samples the model has."""
        found = self.desk.moment.found
        self.words.setText("" if found is None else f"{found.scaled.shape[0]} samples in the model")

    def greet(self) -> None:
        """What its one action does."""
        self.greeted += 1


PAGE = Page(
    name="Toy",
    order=85,
    purpose="Shows how a page is added",
    make=ToyView,
    acts=(PageAct("Greet the toy page", "", lambda view: view.greet()),),
)
