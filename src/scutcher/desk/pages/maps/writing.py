"""Maps and regions as files."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from scutcher.charts.map_files import write_map, write_regions
from scutcher.charts.maps import PictureMap
from scutcher.core.arrays import Booleans
from scutcher.core.errors import InputError
from scutcher.core.words import count_of
from scutcher.desk.actions.outcome import ask_path, write_behind
from scutcher.desk.context import Desk
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.study.evaluation.pixels import pixel_grid

KINDS = "Picture (*.png);;Float TIFF with scale (*.tif);;Table (*.csv);;HDF5 (*.h5);;NumPy (*.npy)"


class MapWriter:
    """Asks where, writes, and says that it is done."""

    def __init__(
        self, desk: Desk, maps: Callable[[], list[PictureMap]], picked: Callable[[], Booleans | None]
    ) -> None:
        self._desk, self._maps, self._picked = desk, maps, picked

    def fill(self, menu: ChoiceMenu) -> None:
        """The choices: each map that is shown, and regions."""
        for one in self._maps():
            menu.add(f"{one.title}…", False, partial(self._ask_map, menu, one))
        menu.line()
        menu.add("Picked pixels as outlines (GeoJSON)…", False, partial(self._ask_regions, menu, False))
        menu.add("Classes as outlines (GeoJSON)…", False, partial(self._ask_regions, menu, True))

    def write_map(self, one: PictureMap, path: Path) -> None:
        """One map, in the format of the ending; behind."""
        grid = pixel_grid(self._desk.moment.state.table)
        layout = grid.layout if grid else None
        write_behind(self._desk, f"{one.title} is", path, lambda watch: write_map(one, path, layout))

    def write_regions(self, path: Path, classes: bool) -> None:
        """What is picked, or every class, as outlines in pixels; behind."""
        regions = self._regions(classes)
        if not regions:
            self._desk.say(InputError("There is no region to write.", "Pick pixels, or tag a class."))
            return
        many = f"{count_of(len(regions), 'region')} {'is' if len(regions) == 1 else 'are'}"
        write_behind(self._desk, many, path, lambda watch: write_regions(path, regions))

    def _regions(self, classes: bool) -> list[tuple[str, Booleans]]:
        state = self._desk.moment.state
        grid, table = pixel_grid(state.table), state.table
        if grid is None or table is None:
            return []
        if not classes:
            inside = self._picked()
            return [] if inside is None or not inside.any() else [("picked", inside)]
        column = next((c for c in table.classes if c.name == state.colour_by), None)
        if column is None:
            return []
        codes = column.codes()
        return [
            (name, grid.inside((codes == code).nonzero()[0]))
            for code, name in enumerate(column.levels)
            if (codes == code).any()
        ]

    def _ask_map(self, menu: ChoiceMenu, one: PictureMap) -> None:
        ask_path(menu.window(), "Write a map", f"{one.key}.png", KINDS, partial(self.write_map, one))

    def _ask_regions(self, menu: ChoiceMenu, classes: bool) -> None:
        ask_path(
            menu.window(),
            "Write outlines",
            "regions.geojson",
            "Outlines (*.geojson)",
            lambda path: self.write_regions(path, classes),
        )
