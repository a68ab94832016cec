"""The last knots: the component model, and under it the shapes whose amounts are found."""

from __future__ import annotations

from PySide6.QtCore import Qt

from scutcher.core.models.kind import kind_of
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.words import count_of, shown
from scutcher.desk.context import Desk
from scutcher.desk.trail.knot import Knot, link
from scutcher.desk.widgets.model_form import ModelForm
from scutcher.study.document.commands.kinds import PLAIN, SMOOTH
from scutcher.study.document.commands.series import UnmixBy


class ModelKnot(Knot):
    """Of the moment's model, or of the one that is being computed."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(with_picture=False)
        self.desk = desk
        self.last = self.is_chosen = True
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.link = link("engine, gaps…", "Engine, gaps and tolerance of the model")
        self.link.setObjectName("flush")
        self.link.clicked.connect(self.open_settings)
        self.body.addWidget(self.link, 0, Qt.AlignmentFlag.AlignLeft)

    def open_settings(self) -> ModelForm:
        """Engine, gaps and tolerance, beside the knot."""
        form = ModelForm(self.window(), self.desk)
        form.open_at(self.link, above=False)
        return form

    def refresh(self) -> None:
        """As the model is now."""
        live = self.desk.live
        if live.trouble is not None:
            self.describe("No model", live.trouble.problem, None, on=False)
        elif live.evaluation is None or live.busy:
            share = "" if live.progress is None else f" {100 * live.progress:.0f} %"
            self.describe("Model", f"computing…{share}", None)
        else:
            model, now = live.evaluation.model, self.desk.moment.state.model
            is_smooth = now is not None and now.kind == SMOOTH
            kind = kind_of(SMOOTH if is_smooth else PLAIN)
            engine = "by smoothness" if is_smooth else f"engine {model.decomposition.engine}"
            name = f"{now.name} · " if now is not None and now.name else ""
            self.describe(
                f"{kind.name} · {count_of(model.k, 'component')}",
                f"{name}{shown(len(model.t2), ',')} samples · {engine}",
                None,
            )


class ShapesKnot(Knot):
    """Hidden where no shapes are asked for."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(with_picture=False)
        self.last = self.is_chosen = True
        self.setToolTip("Shapes whose amounts are found: see the page Series")
        remove = link("×", "Without shapes")
        remove.clicked.connect(lambda: desk.do(UnmixBy(UnmixSettings())))
        self.words.addWidget(remove)

    def refresh(self, how: UnmixSettings) -> None:
        """As it is asked for."""
        self.setVisible(how.asks)
        if not how.asks:
            return
        names = ", ".join(shape.name for shape in how.shapes)
        small = f"amounts {how.rule.replace('-', ' ')}" + (f" · {names}" if names else "")
        alone = ["found without references"] if how.number and not names else []
        many = count_of(how.number or len(how.shapes), "shape")
        self.describe(f"Shapes · {many}", " · ".join([*alone, small]), None)
