"""What each figure on screen means and where it is published; tooltips and the guide read it here."""

from __future__ import annotations

DEFINITIONS: dict[str, str] = {
    "signals": "The data at the chosen knot of the trail, one line per sample. Pick samples to bring their "
    "lines to the front. Wheel: zoom the channel axis of all strips; drag: move it; double-click: all.",
    "loadings": "Loadings P: the weight of each variable in a component, columns orthonormal. The largest "
    "weight is positive when a model is first fitted and keeps its sign while you work. Band: ± 2 standard "
    "errors, by leaving out the segments of the validation in turn (Martens & Martens 2000); pale: not told from zero.",
    "scores": "Scores T = Z P: where each sample lies on the components, in the unit of the treated data. "
    "The share is λₐ / total variance. Tails lead to where models that have "
    "not seen a sample put it, turned onto this one.",
    "leftover": "Residual e = z − P Pᵀz at each variable. The pale ribbon is the 2.5–97.5 % range of all "
    "samples in the model at that variable (of every so many-th where there are more than 1200).",
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
    "treat_before": "The samples in the model before this step: what it gets. Lines in ink: the reference that it "
    "holds spectra against; in red: the baselines it takes off (of the picked samples, or of eight).",
    "treat_after": "The samples after this step: what the next one gets.",
    "class_ratio": "F at each variable: [Σ n_c (m_c − m)²/(c − 1)] / [Σ Σ (x − m_c)²/(n − c)], classes by the "
    "colouring. Fisher 1925. The grey line is the ratio before the step.",
    "effect_separation": "Share of samples whose nearest neighbour among the other samples is of their own class, "
    "on the data at this knot. Replicates never vouch for each other. Guessing reaches the largest class's share.",
    "effect_replicates": "Standard deviation within replicates over that of all samples, over all variables: less "
    "is better.",
    "effect_noise": "Variance of second differences along the axis, divided by six, over the variance of the data: "
    "what is white along the axis. An estimate; sharp lines count as noise.",
    "effect_q2": "Q² with the components kept, cross-validated, without this step and with it; everything learned "
    "from the set is learned again in each segment.",
    "treat_scores": "Scores of the model as it is now. Hollow: where the samples lay without this step, brought to "
    "the same size.",
    "shares": "Bars: share of the total variance of each component, λₐ / total. Dark: R² with 1…k components. Red: "
    "held-out Q² = 1 − PRESS/Σz², each left-out value predicted from the other variables of its sample (Bro et al. "
    "2008), with one standard error over segments.",
    "evidence": "Each line of evidence with the number of components that it suggests. None decides alone: point "
    "at one to read what it means and where it misleads.",
    "gallery": "Each component: its loading, its scores by class, and how much of the loading is white along the "
    "axis. A component that looks like noise is noise.",
    "variance": "1 − Σe²/Σz² of each variable with the components kept. Constant variables have none.",
    "channel": "The values of the channel under the cursor as they were brought in, in the order of the table.",
}
