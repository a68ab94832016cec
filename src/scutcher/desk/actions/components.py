"""The handle of the components, wherever it is drawn: what its moves do."""

from __future__ import annotations

from scutcher.desk.context import Desk
from scutcher.study.document.commands.recipe import KeepComponents, with_components


def preview_components(desk: Desk, kept: int) -> None:
    """While the handle is held."""
    desk.live.preview(with_components(desk.study.state.recipe, kept))


def keep_components(desk: Desk, kept: int) -> None:
    """When it is let go: one command, where the number is another."""
    if desk.study.state.recipe.model.components == kept:
        desk.live.refresh()
    else:
        desk.do(KeepComponents(kept))
