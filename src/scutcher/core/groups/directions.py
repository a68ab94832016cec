"""The two directions in which classes lie farthest apart, and where left-out samples lie on them."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.groups.class_scores import class_scores


@frozen(eq=False)
class Directions:
    """Canonical variates of classes in k scores.

    Attributes
    ----------
    weights : (k, 2) float array
        What scores are multiplied by; in them the spread within classes is one.
    middle : (2,) float array
        The mean of the class centres there.
    centres : (c, 2) float array
        The class centres, less the middle.
    classes : (c,) int array
    ratios : (2,) float array
        Between over within variance along each.
    """

    weights: Floats
    middle: Floats
    centres: Floats
    classes: Integers
    ratios: Floats

    def places(self, scores: Floats) -> Floats:
        """Where samples lie, (m, 2), from the middle of the classes."""
        found: Floats = scores @ self.weights - self.middle
        return found


def directions(scores: Floats, codes: Integers) -> Directions | None:
    """The two directions with the largest between over within variance; None where there are not two.

    Parameters
    ----------
    scores : (n, k) float array
    codes : (n,) int array
        Class of each sample; negative where not known: passed over.

    References
    ----------
    Fisher, Ann. Eugenics 7 (1936) 179–188; Rao, J. R. Stat. Soc. B 10 (1948) 159–203.
    """
    of = class_scores(scores, codes)
    k = of.usable
    if k < 2 or len(of.classes) < 2:
        return None
    white = of.white_centres()[:, :k]
    middle = white.mean(axis=0)
    weighted = (white - np.average(white, axis=0, weights=of.sizes)) * np.sqrt(of.sizes)[:, np.newaxis]
    singular, turned = np.linalg.svd(weighted, full_matrices=True)[1:]
    axes = turned[:2].T  # (k, 2); of two classes the second is any direction across the first
    weights = np.zeros((scores.shape[1], 2))
    weights[:k] = of.whitening[:k, :k].T @ axes
    ratios = np.zeros(2)
    ratios[: len(singular[:2])] = singular[:2] ** 2 / max(len(of.classes) - 1, 1)
    return Directions(weights, middle @ axes, (white - middle) @ axes, of.classes, ratios)


def turned_places(found: Directions, full: Directions, scores: Floats) -> Floats:
    """Places on directions of a segment, turned so that its class centres lie nearest to those of all.

    References
    ----------
    Schönemann, Psychometrika 31 (1966) 1–10.
    """
    common, mine, theirs = np.intersect1d(found.classes, full.classes, return_indices=True)
    left, _, right = np.linalg.svd(found.centres[mine].T @ full.centres[theirs])
    places: Floats = found.places(scores) @ (left @ right) if len(common) else found.places(scores)
    return places
