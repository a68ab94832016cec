"""What each figure on screen means and where it is published; tooltips and the guide read it here."""

from __future__ import annotations

DEFINITIONS: dict[str, str] = {
    "signals": "The data at the chosen knot of the trail, one line per sample. Pick samples to bring their "
    "lines to the front. Wheel: zoom the channel axis of all strips; drag: move it; double-click: all.",
    "loadings": "Loadings P: the weight of each variable in a component, columns orthonormal. The largest "
    "weight is positive when a model is first fitted and keeps its sign while you work.",
    "scores": "Scores T = Z P: where each sample lies on the components, in the unit of the treated data. "
    "The share is λₐ / total variance. Click a title to change the component.",
    "leftover": "Residual e = z − P Pᵀz at each variable. The pale ribbon is the 2.5–97.5 % range of all "
    "samples in the model at that variable.",
    "q_share": "sign(e)·e² at each variable: the sizes add up to Q. Ribbon: 2.5–97.5 % of all samples.",
    "t2_share": "z·Σ t p/λ at each variable: the shares add up to T² and may be negative. "
    "Westerhuis, Gurden & Smilde 2000. Ribbon: 2.5–97.5 % of all samples.",
    "t2": "T² = Σ t²/λ: distance within the model plane. Limit for samples that made the model: "
    "((n−1)²/n)·Beta. Tracy, Young & Mason 1992.",
    "q": "Q = Σ e²: distance from the model plane. Limit: Jackson & Mudholkar 1979, or Box's "
    "approximation (Nomikos & MacGregor 1995) where that is impossible.",
    "joint": "Joint distance N_h·h/h₀ + N_q·Q/q₀, moments of the training samples; limit χ² with "
    "N_h + N_q degrees of freedom. Pomerantsev 2008.",
    "ladder": "Filled part of each box: share of the total variance (R²) with so many components. "
    "Drag the handle, or press Alt+Left and Alt+Right.",
}
