"""Samples that took no part: new ones, and those that some tables lack; what the missing tables would say."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.prediction import Expected, expected_z, in_units
from scutcher.core.blocks.projection import NewOnBlocks, by_block, on_blocks
from scutcher.core.blocks.saved_blocks import SavedBlocks, saved_blocks
from scutcher.core.computed_once import computed_once
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.numeric.row_kinds import kinds_of_rows


@frozen(eq=False)
class Later:
    """Samples on the model of several tables that it was not made of.

    Attributes
    ----------
    new : NewOnBlocks
    expected : tuple of Expected
        For each table the samples that were not measured there, as the others predict them.
    """

    new: NewOnBlocks
    expected: tuple[Expected, ...]

    def expected_of(self, sample: str, block: int) -> np.ndarray | None:
        """The row that the other tables predict, (p,); None where it was measured or nothing is known."""
        return self._rows.get((sample, block))

    @computed_once
    def _rows(self) -> dict[tuple[str, int], np.ndarray]:
        return {
            (sample, one.block): row
            for one in self.expected
            for sample, row in zip(one.samples, one.values, strict=True)
        }


def incomplete_samples(fitted: FittedBlocks) -> Later | None:
    """The samples that some of the study's tables lack; None where all have all.

    Raises
    ------
    InputError
        They cannot be treated.
    """
    tables = {}
    for source in fitted.matched.sources:
        rows = [row for row, key in enumerate(source.keys) if key in fitted.matched.only]
        if rows:
            tables[source.name] = source.table.take(np.array(rows, dtype=np.intp))
    return _later(fitted, saved_blocks(fitted), tables) if tables else None


def new_samples(fitted: FittedBlocks, tables: Sequence[Table], resample: bool = False) -> Later:
    """New samples, a table for each block that was measured, whichever it is by name or by variables.

    Raises
    ------
    InputError
        A table is of no block, two are of the same, or one cannot be treated.
    """
    model = saved_blocks(fitted)
    return _later(fitted, model, by_block(model, tables, resample), resample)


def _later(
    fitted: FittedBlocks, model: SavedBlocks, tables: Mapping[str, Table], resample: bool = False
) -> Later:
    new = on_blocks(model, tables, resample)
    found = []
    for b in range(len(fitted.names)):
        missing = np.flatnonzero(~new.measured[:, b])
        values = np.full((len(missing), fitted.model.blocks[b].z.shape[1]), np.nan)
        patterns = new.measured[missing]
        first, kind = kinds_of_rows(patterns)
        for place, row in enumerate(first.tolist()):
            own = np.flatnonzero(kind == place)
            z = {c: new.z[c][missing[own]] for c in np.flatnonzero(patterns[row]).tolist()}
            guess = expected_z(fitted.model, b, z)
            if guess is not None:
                values[own] = in_units(fitted, b, guess)
        known = np.isfinite(values).all(axis=1)
        if known.any():
            samples = tuple(new.ids[row] for row in missing[known].tolist())
            found.append(Expected(b, samples, values[known]))
    return Later(new, tuple(found))
