"""Class models as JSON: the saved model of each class, self-contained, versioned, readable."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from scutcher import __version__
from scutcher.core.blocks.saved_blocks import SavedBlocks
from scutcher.core.errors import FileError
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.core.unmixing.saved_mixture import SavedMixture
from scutcher.files.blocks_json import FORMAT as BLOCKS
from scutcher.files.blocks_json import blocks_of_plain
from scutcher.files.content_seal import check_seal, sealed
from scutcher.files.mixture_json import FORMAT as SHAPES
from scutcher.files.mixture_json import mixture_of_plain
from scutcher.files.model_json import FORMAT as ONE
from scutcher.files.model_json import model_of_plain, model_plain, read_plain
from scutcher.files.results import write_json

FORMAT, VERSION = "scutcher class models", 1


def write_class_models(path: Path, column: str, models: list[tuple[str, SavedModel]]) -> None:
    """Write the models of classes by name."""
    plain = {
        "format": FORMAT,
        "version": VERSION,
        "written_by": f"scutcher {__version__}",
        "column": column,
        "models": [{"class": name, "model": model_plain(model)} for name, model in models],
    }
    write_json(path, sealed(plain))


AnyModel = SavedModel | SavedMixture | SavedBlocks | list[tuple[str, SavedModel]]
"""One model, the shapes of a mixture, several tables, or the models of classes by name."""


def read_any_model(path: Path) -> AnyModel:
    """Whichever model the file holds.

    Raises
    ------
    FileError
        It is none of them, is from a newer version, or its parts do not fit together.
    """
    plain = read_plain(path)
    if plain.get("format") == ONE:
        return model_of_plain(path, plain)
    if plain.get("format") == SHAPES:
        return mixture_of_plain(path, plain)
    if plain.get("format") == BLOCKS:
        return blocks_of_plain(path, plain)
    if plain.get("format") != FORMAT:
        raise FileError(f"{path.name} is not a Scutcher model.", "Name a model.json of scutcher fit.")
    models: Any = plain.get("models")
    if plain.get("version") != VERSION or not isinstance(models, list) or not models:
        raise FileError(
            f"{path.name} holds no class models that can be read.", "Write it again with scutcher fit."
        )
    check_seal(path, plain)
    found = []
    for one in models:
        if not isinstance(one, dict) or not isinstance(one.get("model"), dict):
            raise FileError(
                f"{path.name} is damaged: its parts do not fit together.", "Write it again with scutcher fit."
            )
        found.append((str(one.get("class", "")), model_of_plain(path, one["model"])))
    return found
