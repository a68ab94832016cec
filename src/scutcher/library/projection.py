"""New samples on a model: scores, distances, and which of them belong to it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from scutcher.core.frozen import frozen
from scutcher.core.models.pca.saved_model import Projected
from scutcher.core.models.pca.saved_model import SavedModel as Core
from scutcher.files.results import component_names
from scutcher.study.results.apply_results import past_limits

if TYPE_CHECKING:
    import pandas


@frozen(eq=False)
class Projection:
    """What a model says of new samples.

    Attributes
    ----------
    model, found
        What it was made from, as the rest of Scutcher sees it.
    names : tuple of str
        Of all the samples that were given.
    """

    model: Core
    found: Projected
    names: tuple[str, ...]

    @property
    def scores(self) -> pandas.DataFrame:
        """PC1…PCk of each sample that could be projected."""
        import pandas

        return pandas.DataFrame(
            self.found.scores,
            index=pandas.Index(self.found.table.ids, name="sample"),
            columns=component_names(self.model.k),
        )

    @property
    def distances(self) -> pandas.DataFrame:
        """T², Q and joint distance, and for each whether it is past the limit for new samples."""
        import pandas

        found, past = self.found, past_limits(self.model, self.found)
        columns: dict[str, object] = {"t2": found.t2, "q": found.q}
        columns |= {} if found.joint is None else {"joint": found.joint}
        columns |= {f"{name}_past": flag for name, flag in past.items() if flag is not None}
        return pandas.DataFrame(columns, index=pandas.Index(found.table.ids, name="sample"))

    @property
    def belongs(self) -> pandas.Series[bool]:
        """Whether each is within the limit of the joint distance; where there is none, of T² and Q."""

        frame = self.distances
        flags = ["joint_past"] if "joint_past" in frame else [c for c in frame if c.endswith("_past")]
        inside: pandas.Series[bool] = ~frame[flags].any(axis=1)
        return inside.rename("belongs")

    @property
    def refused(self) -> dict[str, str]:
        """Samples that could not be projected, each with the reason."""
        return {self.names[row]: why for row, why in self.found.refused.items()}

    def __repr__(self) -> str:
        return f"<Projection of {len(self.found.rows)} samples on {self.model.k} components>"
