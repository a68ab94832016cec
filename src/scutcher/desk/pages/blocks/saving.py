"""The model of several tables as a file, with which new samples are judged elsewhere."""

from __future__ import annotations

from pathlib import Path

from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.saved_blocks import saved_blocks
from scutcher.core.errors import InputError
from scutcher.desk.actions.outcome import write_behind
from scutcher.desk.context import Desk
from scutcher.files.blocks_json import write_blocks_model


def save_model(desk: Desk, fitted: FittedBlocks | None, path: Path) -> bool:
    """Write the model of the tables as they are now, behind; whether there was one."""
    if fitted is None:
        desk.say(InputError("The tables are not compared yet.", "Wait a moment."))
        return False
    return write_behind(
        desk, "The model is", path, lambda watch: write_blocks_model(path, saved_blocks(fitted))
    )
