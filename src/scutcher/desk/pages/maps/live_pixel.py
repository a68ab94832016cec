"""The pixel under the pointer, read from the file where not every pixel is in the study."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF

from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.desk.pages.maps.beside import Beside
from scutcher.desk.pages.maps.wall import MapWall
from scutcher.study.evaluation.whole_image import WholeMaps

SLOT = "maps pixel"


class LivePixel:
    """Asks for one pixel at a time, the newest; it stands on the spectra strip and in the readings."""

    def __init__(self, desk: Desk, wall: MapWall, beside: Beside) -> None:
        self.desk, self.wall, self.beside = desk, wall, beside

    def _whole(self) -> WholeMaps | None:
        found = self.desk.moment.found
        return None if found is None else self.wall.behind.whole_of(found)

    def keep_up(self) -> None:
        """Nothing is read any more where only the pixels of the study are shown."""
        if self._whole() is None:
            self.beside.here = None

    def point(self, place: QPointF | None) -> None:
        """The pointer is at a place in pixels of the study, or nowhere."""
        whole = self._whole()
        if whole is None or place is None:
            self.desk.live.queue.drop(SLOT)
            self.beside.show_here(None)
            return
        column = min(max(int(place.x() * whole.step), 0), whole.columns - 1)
        row = min(max(int(place.y() * whole.step), 0), whole.rows - 1)

        def done(answer: Any) -> None:
            if isinstance(answer, InputError):
                self.desk.say(answer)
            elif isinstance(answer, Exception):
                raise answer
            elif whole is self.wall.behind.whole:
                self.beside.show_here(answer)

        key = (id(whole), column, row)
        self.desk.live.ask(SLOT, key, lambda watch: whole.pixel(column, row), done)
