"""A recipe: treatments in order, then centre and scale, model, limits and validation settings."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal, TypeVar

import msgspec
from msgspec import Meta

from scutcher.core.errors import RecipeError
from scutcher.core.known_names import nearest
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.treatments import treatment
from scutcher.core.treatments.base import Parameters, Treatment, fields_of
from scutcher.core.words import shown

Centring = Literal["mean", "median", "none"]
Scaling = Literal["none", "sd", "pareto", "range", "level", "mad", "sqrt-mean"]
Engine = Literal["auto", "exact", "gram", "nipals", "randomised"]
GapPolicy = Literal["leave-out-samples", "leave-out-variables", "fill-mean", "fill-median", "nipals", "em"]
Scheme = Literal["random", "blinds", "blocks", "one-out", "class", "tiles", "images", "none"]


class Settings(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A table of a recipe."""


class Step(msgspec.Struct, frozen=True):
    """One treatment of the chain, with its parameters; switched off, it is passed over."""

    method: str
    parameters: Parameters
    on: bool = True

    @property
    def treatment(self) -> Treatment:
        """The declaration of its method."""
        return treatment(self.method)


class Block(Settings, frozen=True, omit_defaults=True):
    """Variables that are weighted together; without a weight, so that their variances sum to one."""

    variables: tuple[str, ...]
    weight: Annotated[float, Meta(ge=0.0)] | None = None


class ScaleSettings(Settings, frozen=True):
    """Centring and scaling of the variables, learned from the training set."""

    centre: Annotated[Centring, Meta(description="what is taken off each variable")] = "mean"
    method: Annotated[Scaling, Meta(description="what each variable is divided by")] = "none"
    off: Annotated[tuple[str, ...], Meta(description="variables that are centred and not scaled")] = ()
    weights: Annotated[
        tuple[tuple[str, Annotated[float, Meta(ge=0.0)]], ...],
        Meta(description="variables with a weight of their own, after the scaling"),
    ] = ()
    blocks: Annotated[tuple[Block, ...], Meta(description="variables that are weighted together")] = ()


class ModelSettings(Settings, frozen=True):
    """The component model."""

    components: Annotated[int, Meta(ge=1, description="components kept")] | None = None
    engine: Annotated[Engine, Meta(description="how components are computed; auto: by the size")] = "auto"
    gaps: Annotated[GapPolicy, Meta(description="what is done about gaps")] = "leave-out-samples"
    gap_share: Annotated[
        float, Meta(ge=0.0, lt=1.0, description="leave out variables with more gaps than this share")
    ] = 0.2
    tolerance: Annotated[float, Meta(gt=0.0, lt=1.0, description="of NIPALS: change that ends it")] = 1e-10
    rounds: Annotated[int, Meta(ge=1, description="of NIPALS: most iterations of a component")] = 2000
    seed: Annotated[int, Meta(ge=0, description="of the randomised engine")] = 1


class LimitSettings(Settings, frozen=True):
    """Limits of the distances; a level is a coverage."""

    level: Annotated[float, Meta(gt=0.5, lt=1.0, description="coverage of the limits")] = 0.95
    q: Annotated[Literal["jackson-mudholkar", "box"], Meta(description="whose limit of Q")] = (
        "jackson-mudholkar"
    )
    joint: Annotated[
        Literal["moments", "robust"], Meta(description="how the scale of the joint distance is learned")
    ] = "moments"
    distances: Annotated[
        Literal["fitted", "held-out"],
        Meta(description="distances of the fit, or to models that have not seen the sample"),
    ] = "fitted"


class ValidateSettings(Settings, frozen=True):
    """Segments of samples that are left out in turn."""

    scheme: Annotated[Scheme, Meta(description="how samples are dealt into segments")] = "random"
    segments: Annotated[int, Meta(ge=2, description="how many; none: by the number of groups")] | None = None
    column: Annotated[str, Meta(description="of the scheme class: its column")] | None = None
    repeats: Annotated[int, Meta(ge=1, le=1000, description="times all is dealt anew")] = 1
    seed: Annotated[int, Meta(ge=0, description="of the dealing, and of the evidence")] = 1
    block: Annotated[int, Meta(ge=1, description="variables predicted together; none: by p")] | None = None


class EvidenceSettings(Settings, frozen=True):
    """What the lines of evidence on the number of components need."""

    share: Annotated[float, Meta(gt=0.0, lt=1.0, description="share of variance to reach")] = 0.95
    permutations: Annotated[int, Meta(ge=19, le=100_000, description="times each column is permuted")] = 60
    halves: Annotated[int, Meta(ge=1, le=100_000, description="times the samples are split in halves")] = 20


class GroupSettings(Settings, frozen=True):
    """How classes are told apart."""

    column: Annotated[str, Meta(description="class column; empty: the first")] = ""
    method: Annotated[
        Literal["nearest-centre", "nearest-neighbours", "discriminant"],
        Meta(description="what a left-out sample is assigned by"),
    ] = "nearest-centre"
    neighbours: Annotated[int, Meta(ge=1, description="of nearest-neighbours: how many decide")] = 5
    permutations: Annotated[
        int, Meta(ge=19, le=100_000, description="times the class labels are permuted")
    ] = 199
    level: Annotated[float, Meta(gt=0.0, lt=1.0, description="coverage of the class regions")] = 0.9


class Recipe(msgspec.Struct, frozen=True, kw_only=True):
    """All that turns a table into a model. `scale` None: by the kind of the axis."""

    treat: tuple[Step, ...] = ()
    scale: ScaleSettings | None = None
    model: ModelSettings = ModelSettings()
    limits: LimitSettings = LimitSettings()
    validate: ValidateSettings = ValidateSettings()
    evidence: EvidenceSettings = EvidenceSettings()
    groups: GroupSettings = GroupSettings()
    unmix: UnmixSettings = UnmixSettings()
    blocks: BlocksSettings = BlocksSettings()

    def scaling_for(self, ordered: bool) -> ScaleSettings:
        """The scaling asked for, or the default: none on an ordered axis, SD for mixed variables."""
        return self.scale or ScaleSettings(method="none" if ordered else "sd")


S = TypeVar("S", bound=msgspec.Struct)

SMALLEST, LARGEST, MOST_COUNT, DEEPEST = 1e-100, 1e100, 2**63, 8
"""Numbers of a recipe: the smallest and largest beside zero, the largest count, how deep tables go."""

SECTIONS: dict[str, type[msgspec.Struct]] = {
    "scale": ScaleSettings,
    "model": ModelSettings,
    "limits": LimitSettings,
    "validate": ValidateSettings,
    "evidence": EvidenceSettings,
    "groups": GroupSettings,
    "unmix": UnmixSettings,
    "blocks": BlocksSettings,
}


def recipe_from_plain(plain: Mapping[str, Any]) -> Recipe:
    """Read a recipe from plain data, as TOML gives it.

    Raises
    ------
    RecipeError
        An unknown key (the nearest known one is named), a value out of range, an unknown method.
    """
    _check_keys(plain, ("treat", *SECTIONS), "the recipe")
    steps = plain.get("treat", [])
    if not isinstance(steps, (list, tuple)):
        raise RecipeError("`treat` is not a list of tables.", "Write each treatment under [[treat]].")
    sections: dict[str, Any] = {
        name: _section(plain[name], kind, f"[{name}]") for name, kind in SECTIONS.items() if name in plain
    }
    return Recipe(treat=tuple(_step(step, place + 1) for place, step in enumerate(steps)), **sections)


def recipe_to_plain(recipe: Recipe) -> dict[str, Any]:
    """The plain data that `recipe_from_plain` reads back to the same recipe."""
    plain: dict[str, Any] = {}
    if recipe.treat:
        plain["treat"] = [
            {
                "method": step.method,
                **_spare(msgspec.to_builtins(step.parameters)),
                **({} if step.on else {"on": False}),
            }
            for step in recipe.treat
        ]
    for name in SECTIONS:
        value = getattr(recipe, name)
        spared = {} if value is None else _spare(msgspec.to_builtins(value))
        if spared:
            plain[name] = spared
    return plain


def _spare(plain: dict[str, Any]) -> dict[str, Any]:
    """Without what is not set: None, empty lists and empty texts."""
    return {key: value for key, value in plain.items() if value is not None and value not in ((), [], "")}


def _step(plain: Any, place: int) -> Step:
    where = f"treatment {place}"
    if not isinstance(plain, Mapping) or "method" not in plain:
        raise RecipeError(f"{where.capitalize()} names no method.", 'Add a line method = "…".')
    declared = treatment(str(plain["method"]))
    rest = {key: value for key, value in plain.items() if key not in ("method", "on")}
    on = plain.get("on", True)
    if not isinstance(on, bool):
        raise RecipeError(f"`on` of {where} is {on!r}.", "Write true or false.")
    parameters = _section(rest, declared.parameters, f"{where} ({declared.key})", extra=("method", "on"))
    return Step(declared.key, parameters, on)


def _section(plain: Any, kind: type[S], where: str, extra: tuple[str, ...] = ()) -> S:
    if not isinstance(plain, Mapping):
        raise RecipeError(f"{where} is {plain!r}, not a table of settings.", "Write key = value lines.")
    _check_keys(plain, (*(field.name for field in fields_of(kind)), *extra), where)
    _check_numbers(plain, where)
    try:
        return msgspec.convert(dict(plain), kind)
    except msgspec.ValidationError as error:
        text = str(error).replace("$.", "").replace("`", "")
        raise RecipeError(f"A setting in {where} cannot be used: {text}.", "Correct it.") from error


def _check_numbers(value: Any, where: str, depth: int = 0) -> None:
    """Refuse numbers that nothing can be computed with, and nesting that no setting has."""
    if depth > DEEPEST:
        raise RecipeError(f"A setting in {where} is nested deeply.", "Write it as the manual shows.")
    if isinstance(value, Mapping):
        for own in value.values():
            _check_numbers(own, where, depth + 1)
    elif isinstance(value, (list, tuple)):
        for own in value:
            _check_numbers(own, where, depth + 1)
    elif isinstance(value, float) and not (value == 0.0 or SMALLEST <= abs(value) <= LARGEST):
        raise RecipeError(
            f"A setting in {where} is {shown(value)}; numbers lie between {shown(SMALLEST)} and "
            f"{shown(LARGEST)}.",
            "Correct it.",
        )
    elif isinstance(value, int) and abs(value) > MOST_COUNT:
        raise RecipeError(f"A setting in {where} is a whole number beyond 2^63.", "Correct it.")


def _check_keys(plain: Mapping[str, Any], known: tuple[str, ...], where: str) -> None:
    for key in plain:
        if key not in known:
            near = nearest(str(key), known)
            remedy = f"The nearest known key is {near!r}." if near else "It takes no settings."
            raise RecipeError(f"Unknown key {key!r} in {where}.", remedy)
