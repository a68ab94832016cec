"""Recipes and models as files, as the window sees them."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.desk.actions.outcome import then_say, write_behind
from scutcher.desk.context import Desk
from scutcher.files.safely import write_text
from scutcher.study.document.commands.recipe import UseRecipe
from scutcher.study.evaluation.orders import order_of
from scutcher.study.work import Priority

RECIPES, MODELS = "Recipes (*.toml)", "Models (*.json)"
KINDS = {".onnx": "onnx", ".py": "numpy", ".pmml": "pmml"}
ELSEWHERE = "ONNX graphs (*.onnx);;NumPy files (*.py);;PMML (*.pmml)"

NO_MODEL = InputError("There is no model yet.", "Bring in data first.")


class RecipeFiling:
    """Asks for paths, reads and writes."""

    def __init__(self, desk: Desk, window: QWidget) -> None:
        self.desk, self.window = desk, window

    def open(self, path: Path) -> bool:
        """Take the recipe of a file for the data of this study."""
        from scutcher.files.recipe_toml import read_recipe

        try:
            recipe = read_recipe(path)
        except InputError as error:
            self.desk.say(error)
            return False
        return self.desk.do(UseRecipe(recipe, path.name))

    def save(self, path: Path) -> bool:
        """Write the recipe as TOML, behind."""
        from scutcher.files.recipe_toml import recipe_text

        to, text = _named(path, ".toml"), recipe_text(self.desk.study.state.recipe)
        return write_behind(self.desk, "The recipe is", to, lambda watch: write_text(to, text))

    def save_model(self, path: Path) -> bool:
        """Write the model for new samples, as `scutcher apply` reads it; behind."""
        moment = self.desk.moment
        found, checked = moment.found, moment.checked
        if found is None:
            self.desk.say(NO_MODEL)
            return False
        to = _named(path, ".json")

        def work(watch: Watch) -> None:
            from scutcher.files.model_json import write_model
            from scutcher.study.audit import audit_of
            from scutcher.study.evaluation.saving import saved_model

            made = audit_of(moment.state.recipe, moment.state.source).plain()
            write_model(to, saved_model(found, checked), made)

        return write_behind(self.desk, "The model is", to, work)

    def export_model(self, path: Path) -> bool:
        """Write the model so that it runs without Scutcher, by the file's ending; behind, with its proof."""
        found, checked = self.desk.moment.found, self.desk.moment.checked
        if found is None:
            self.desk.say(NO_MODEL)
            return False
        to = _named(path, ".onnx")
        if to.suffix not in KINDS:
            words = f"{to.name} is none of {', '.join(KINDS)}."
            self.desk.say(InputError(words, "Give it one of these endings."))
            return False

        def work(watch: Watch) -> InputError:
            from scutcher.files.model_export import export_model
            from scutcher.study.evaluation.saving import saved_model

            kind = KINDS[to.suffix]
            exported = export_model(saved_model(found, checked).judging(), kind, to, found.part)
            return InputError(f"The model is in {to.name}, which runs without Scutcher.", exported.sentence)

        self.desk.live.ask(f"export {to}", None, work, then_say(self.desk), priority=Priority.OUT)
        return True

    def save_shapes(self, path: Path) -> bool:
        """Write the shapes of the model for new spectra, as `scutcher apply` reads them; behind."""
        found, state = self.desk.moment.found, self.desk.moment.state
        if found is None or not found.recipe.unmix.asks:
            self.desk.say(InputError("The model has no shapes.", "Keep some on the page Series or Maps."))
            return False

        to = _named(path, ".json")

        def work(watch: Watch) -> None:
            from scutcher.files.mixture_json import write_mixture_model
            from scutcher.study.evaluation.mixtures import saved_mixture

            write_mixture_model(to, saved_mixture(found, order_of(state)))

        return write_behind(self.desk, "The model of shapes is", to, work)

    def ask_export_model(self) -> None:
        """Ask where the model that runs elsewhere goes."""
        path, _ = QFileDialog.getSaveFileName(self.window, "Export the model", "model.onnx", ELSEWHERE)
        if path:
            self.export_model(Path(path))

    def ask_save_shapes(self) -> None:
        """Ask where the shapes go."""
        path, _ = QFileDialog.getSaveFileName(self.window, "Save the shapes", "shapes.json", MODELS)
        if path:
            self.save_shapes(Path(path))

    def ask_open(self) -> None:
        """Ask which recipe."""
        path, _ = QFileDialog.getOpenFileName(self.window, "Open a recipe", "", RECIPES)
        if path:
            self.open(Path(path))

    def ask_save(self) -> None:
        """Ask where the recipe goes."""
        path, _ = QFileDialog.getSaveFileName(self.window, "Save the recipe", "recipe.toml", RECIPES)
        if path:
            self.save(Path(path))

    def ask_save_model(self) -> None:
        """Ask where the model goes."""
        path, _ = QFileDialog.getSaveFileName(self.window, "Save the model", "model.json", MODELS)
        if path:
            self.save_model(Path(path))


def _named(path: Path, suffix: str) -> Path:
    """With its ending where somebody gave none."""
    return path if path.suffix else path.with_suffix(suffix)
