"""What a difference should look like, and how pairs are compared: the choices of one menu."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtWidgets import QFileDialog, QWidget

from scutcher.core.errors import InputError
from scutcher.core.recipes.unmix_settings import Shape
from scutcher.core.words import shown
from scutcher.desk.actions.outcome import tried
from scutcher.desk.context import Desk
from scutcher.desk.pages.series.hands import Hands, Wanted
from scutcher.desk.pages.series.work import SeriesWork
from scutcher.desk.widgets.choice_menu import ChoiceMenu

BACKGROUNDS = {
    -1: "no background",
    0: "but for an offset",
    1: "but for offset and slope",
    2: "but for a curve",
}
SHIFTS = (0.0, 1.0, 2.0, 4.0)
STRETCHES = (1, 3, 5, 9)


@dataclass(eq=False)
class References:
    """Reads the hands; `changed` hears the new ones."""

    desk: Desk
    work: SeriesWork
    hands: Callable[[], Hands]
    changed: Callable[[Hands], None]
    window: QWidget

    def fill(self, menu: ChoiceMenu) -> None:
        """All references, and how they are compared."""
        series, hands = self.work.series, self.hands()
        if series is None:
            return
        own = hands.wanted
        for place in range(min(len(series.components.verdicts), 3)):
            name = f"loading {place + 1}"
            menu.add(name, own.name == name, partial(self.want, Wanted("loading", name, place)))
        for shape in self.desk.moment.state.recipe.unmix.shapes:
            wanted = Wanted("shape", shape.name, shape=shape)
            menu.add(f"shape {shape.name}", own.name == shape.name, partial(self.want, wanted))
        menu.add("the picked samples", own.kind == "samples", self.want_picked)
        menu.add("a peak at the channel cursor", own.kind == "peak", self.want_peak)
        menu.add("from a file…", own.kind == "file", self._ask_file)
        menu.line()
        for degree, words in BACKGROUNDS.items():
            menu.add(words, hands.degree == degree, partial(self.set, degree=degree))
        menu.line()
        step = self._step()
        for shift in SHIFTS:
            words = f"shifted by up to {shown(shift * step)}" if shift else "not shifted"
            menu.add(
                words, bool(np.isclose(hands.shift, shift * step)), partial(self.set, shift=shift * step)
            )
        menu.add("with its sign", hands.signed, partial(self.set, signed=not hands.signed))
        menu.line()
        for count in STRETCHES:
            words = f"means of {count} neighbours" if count > 1 else "single spectra"
            menu.add(words, hands.stretch == count, partial(self.set, stretch=count))
        menu.add(
            "spectra as they are, not rebuilt",
            hands.all_components,
            partial(self.set, all_components=not hands.all_components),
        )
        menu.add("only the picked channels", len(hands.kept) > 0, self.keep_picked_channels)

    def _step(self) -> float:
        series = self.work.series
        return 1.0 if series is None else abs(float(np.median(np.diff(series.places))))

    def want(self, wanted: Wanted) -> None:
        """Another reference."""
        self.changed(replace(self.hands(), wanted=wanted))

    def set(self, **fields: object) -> None:
        """Another way of comparing."""
        self.changed(replace(self.hands(), **fields))  # type: ignore[arg-type]

    def want_picked(self) -> None:
        """The mean of the picked samples, less that of those picked before."""
        look, state = self.desk.selection.look, self.desk.moment.state
        if state.table is None or not look.picked:
            self.desk.say(InputError("No sample is picked.", "Pick one: its spectrum is the reference."))
            return
        ids = state.table.ids
        named = tuple(ids[row] for row in look.picked)
        before = tuple(ids[row] for row in look.before)
        name = f"{named[0]}{f' and {len(named) - 1} more' if len(named) > 1 else ''}"
        self.want(Wanted("samples", name, shape=Shape(name=name, samples=named, less=before)))

    def want_peak(self) -> None:
        """A bell at the channel cursor, or at the middle of the picked channels and as wide as they are."""
        look, series = self.desk.selection.look, self.work.series
        if series is None:
            return
        if len(look.channels) > 1:
            centre, sd = float(np.mean(look.channels)), float(np.ptp(look.channels)) / 2.355
        else:
            middle = float(np.median(series.places))
            centre = look.channel if look.channel is not None else (look.channels or (middle,))[0]
            sd = 6.0 * self._step()
        self.want_peak_at(centre, sd)

    def want_peak_at(self, centre: float, sd: float) -> None:
        """A bell at a place; centre and standard deviation in axis units."""
        sd = max(sd, self._step())
        self.want(Wanted("peak", f"a peak at {shown(centre, '.6g')}", peak=(centre, sd)))

    def from_file(self, path: Path) -> bool:
        """The first row of a file, on its own axis."""
        from scutcher.files.formats import read_tables

        series = self.work.series
        if series is None:
            return False

        def read() -> None:
            table = read_tables([path])
            axis = series.found.treated.axis
            if table.axis.ordered != axis.ordered or (not axis.ordered and table.shape[1] != len(axis)):
                raise InputError(
                    f"{path.name} is not on the axis of these data.", "Give a spectrum with its channels."
                )
            places = tuple(table.axis.places().tolist())
            shape = Shape(name=table.ids[0], places=places, values=tuple(table.values[0].tolist()))
            self.want(Wanted("file", table.ids[0], shape=shape))

        return tried(self.desk, read)

    def _ask_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.window, "A reference spectrum", "")
        if name:
            self.from_file(Path(name))

    def keep_picked_channels(self) -> None:
        """Compare on the picked channels only, or on all again."""
        hands, picked = self.hands(), self.desk.selection.look.channels
        if len(hands.kept):
            self.set(kept=())
        elif len(picked) < 8:
            self.desk.say(
                InputError(
                    "Fewer than eight channels are picked.", "Pick a range: Shift and drag on a strip."
                )
            )
        else:
            self.set(kept=picked)
