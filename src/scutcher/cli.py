"""The command line: a public contract; names here are never changed, only added."""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, get_args

from msgspec.structs import replace

from scutcher import __version__
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError, InputError
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.core.recipes.recipe import Engine, GapPolicy, Recipe

if TYPE_CHECKING:
    from scutcher.study.document.state import State
    from scutcher.study.storage.study_file import LogEntry

DONE, UNUSABLE = 0, 1


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command.

    Returns
    -------
    int
        0 done; 1 the data or recipe cannot be used (one line on stderr); 2 wrong call.
    """
    given = list(sys.argv[1:] if arguments is None else arguments)
    try:
        options = _parser().parse_args(given or ["open"])
    except SystemExit as wrong:  # argparse has printed usage, help or the version
        return int(wrong.code or 0)
    try:
        return int(options.run(options))
    except InputError as error:
        print(f"scutcher: {error}".replace("\n", " "), file=sys.stderr)
        return UNUSABLE
    except BrokenPipeError:
        return UNUSABLE
    except MemoryError:
        print("scutcher: The memory is not enough for these data. Use fewer variables.", file=sys.stderr)
        return UNUSABLE


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="scutcher", description="Treat, model and inspect stacked spectra and instrument signals."
    )
    parser.add_argument("--version", action="version", version=f"scutcher {__version__}")
    commands = parser.add_subparsers(metavar="COMMAND", required=True)

    window = commands.add_parser("open", help="the window, with data files")
    window.add_argument("files", nargs="*", type=Path, metavar="FILE")
    window.set_defaults(run=_open)

    demo = commands.add_parser("demo", help="the window, with a demo set")
    demo.add_argument("name", nargs="?", default="intake-nir", metavar="NAME")
    demo.add_argument("--pictures", type=Path, metavar="DIR", help="write pictures and tables, no window")
    demo.set_defaults(run=_demo)

    data = commands.add_parser("demo-data", help="write the demo sets and their truth files")
    data.add_argument("folder", type=Path, metavar="DIR")
    data.set_defaults(run=_demo_data)

    fit = commands.add_parser("fit", help="fit a component model and write its figures")
    _add_data_options(fit)
    fit.add_argument("--out", type=Path, required=True, metavar="DIR")
    fit.add_argument("--recipe", type=Path, metavar="FILE.toml")
    fit.add_argument("--full", action="store_true", help="write treated data and residuals too")
    fit.add_argument("--components", type=_positive, metavar="K")
    fit.add_argument("--engine", choices=get_args(Engine))
    fit.add_argument("--gaps", choices=get_args(GapPolicy), metavar="POLICY")
    fit.add_argument("--seed", type=int, metavar="N", help="of everything that is drawn at random")
    fit.add_argument("--study", type=Path, metavar="FILE", help="keep data and recipe as a study too")
    fit.set_defaults(run=_fit)

    applied = commands.add_parser("apply", help="project new samples onto a saved model")
    applied.add_argument("model", type=Path, metavar="MODEL", help="model.json of fit, or a study")
    _add_data_options(applied)
    applied.add_argument("--out", type=Path, required=True, metavar="DIR")
    applied.add_argument("--resample", action="store_true", help="read another axis onto the model's")
    applied.set_defaults(run=_apply)

    report = commands.add_parser("report", help="a study as a report")
    report.add_argument("study", type=Path, metavar="STUDY")
    report.add_argument("--out", type=Path, required=True, metavar="FILE.html|FILE.pdf")
    report.set_defaults(run=_report)

    treat = commands.add_parser("treat", help="treat data and write them as CSV")
    _add_data_options(treat)
    treat.add_argument("--recipe", type=Path, required=True, metavar="FILE.toml")
    treat.add_argument("--out", type=Path, required=True, metavar="FILE.csv")
    treat.set_defaults(run=_treat)

    formats = commands.add_parser("formats", help="what can be read and written")
    formats.set_defaults(run=_formats)

    treatments = commands.add_parser("treatments", help="every treatment, or one with its parameters")
    treatments.add_argument("name", nargs="?", metavar="NAME")
    treatments.add_argument("--markdown", action="store_true", help="the guide's page of all of them")
    treatments.set_defaults(run=_treatments)

    install = commands.add_parser("install", help="desktop entry, icon and file type for this user")
    install.set_defaults(run=_install)
    return parser


def _add_data_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("data", nargs="+", type=Path, metavar="DATA")
    parser.add_argument("--id", metavar="COL")
    parser.add_argument("--class", dest="classes", action="append", default=[], metavar="COL")
    parser.add_argument("--property", dest="properties", action="append", default=[], metavar="COL")
    parser.add_argument("--replicate", metavar="COL")
    parser.add_argument("--sheet", metavar="NAME", help="the sheet of a workbook, the matrix of a file")


def _positive(text: str) -> int:
    number = int(text)
    if number < 1:
        raise argparse.ArgumentTypeError("must be 1 or more")
    return number


def _open(options: argparse.Namespace) -> int:
    from scutcher.desk.shell.start import run_window

    return run_window(files=options.files)


def _demo(options: argparse.Namespace) -> int:
    if options.pictures is not None:
        from scutcher.desk.screenshots import write_gallery

        return write_gallery(options.name, options.pictures)
    from scutcher.desk.shell.start import run_window

    return run_window(demo=options.name)


def _demo_data(options: argparse.Namespace) -> int:
    from scutcher.demo.sets import write_demo_sets

    for path in write_demo_sets(options.folder):
        print(path)
    return DONE


def _recipe(options: argparse.Namespace) -> Recipe:
    """The recipe file, with what was said on the command line."""
    from scutcher.files.recipe_toml import read_recipe

    recipe = read_recipe(options.recipe) if options.recipe else Recipe()
    asked = {"components": options.components, "engine": options.engine, "gaps": options.gaps}
    asked = {name: value for name, value in asked.items() if value is not None}
    recipe = replace(recipe, model=replace(recipe.model, **asked))
    if options.seed is not None:
        recipe = replace(
            recipe,
            validate=replace(recipe.validate, seed=options.seed),
            model=replace(recipe.model, seed=options.seed),
        )
    return recipe


def _data(options: argparse.Namespace) -> Table:
    from scutcher.files.columns import Roles
    from scutcher.files.formats import read_tables

    roles = Roles(
        options.id, tuple(options.classes), tuple(options.properties), options.replicate, options.sheet
    )
    return read_tables(options.data, roles, resample=getattr(options, "resample", False))


def _fit(options: argparse.Namespace) -> int:
    import scipy.linalg.blas
    import scipy.special  # noqa: F401  (both here, so that their import is not counted as fitting)

    from scutcher.study.evaluation.checks import check, with_slow_lines
    from scutcher.study.evaluation.evaluator import Evaluator
    from scutcher.study.results.fit_results import write_fit

    recipe, table = _recipe(options), _data(options)
    evaluator = Evaluator(keeps=False)
    start = time.perf_counter()
    found = evaluator.evaluate(table, recipe)
    seconds = time.perf_counter() - start
    checked = check(found)
    if recipe.validate.scheme != "none":
        checked = with_slow_lines(found, checked)
    for path in write_fit(options.out, found, checked, seconds, options.full):
        print(path)
    if options.study is not None:
        print(_write_study(options.study, table, recipe))
    return DONE


def _write_study(path: Path, table: Table, recipe: Recipe) -> Path:
    from scutcher.study.document.state import State
    from scutcher.study.storage.study_file import StudyFile

    colour_by = table.classes[0].name if table.classes else ""
    StudyFile.create(path, State.of(path.stem, table, recipe, colour_by)).close()
    return path


def _apply(options: argparse.Namespace) -> int:
    from scutcher.core.models.pca.saved_model import project
    from scutcher.files.model_json import read_model
    from scutcher.study.results.apply_results import write_applied

    model = _model_of_study(options.model) if options.model.suffix == ".scutch" else read_model(options.model)
    table = _data(options)
    found = project(model, table, options.resample)
    for path in write_applied(options.out, model, table, found):
        print(path)
    return DONE


def _report(options: argparse.Namespace) -> int:
    from scutcher.charts.report import Report, write_report
    from scutcher.study.evaluation.checks import check, with_slow_lines
    from scutcher.study.evaluation.evaluator import Evaluator

    state, log = _study_of(options.study)
    assert state.table is not None
    found = Evaluator(keeps=False).evaluate(state.table, state.recipe, lenient=True)
    checked = with_slow_lines(found, check(found))
    write_report(Report(state, found, checked, log), options.out)
    print(options.out)
    return DONE


def _study_of(path: Path) -> tuple[State, tuple[LogEntry, ...]]:
    """State and log of a study file that holds data."""
    from scutcher.study.storage.study_file import StudyFile

    if not path.exists():
        raise FileError(f"There is no study {path.name}.", "Check the name.")
    file = StudyFile.open(path)
    try:
        state, log = file.state(file.place.now), tuple(file.log())
    finally:
        file.close()
    if state.table is None:
        raise FileError(f"{path.name} holds no data, so there is no model in it.", "Name another study.")
    return state, log


def _model_of_study(path: Path) -> SavedModel:
    from scutcher.study.evaluation.evaluator import Evaluator
    from scutcher.study.evaluation.saving import saved_model

    state, _ = _study_of(path)
    assert state.table is not None
    return saved_model(Evaluator(keeps=False).evaluate(state.table, state.recipe))


def _treat(options: argparse.Namespace) -> int:
    from scutcher.core.models.missing_values import filled, fills, usable_part
    from scutcher.core.recipes.chain import run_step
    from scutcher.core.scaling.scaler import fit_scaler
    from scutcher.files.recipe_toml import read_recipe
    from scutcher.files.results import write_matrix

    recipe, table = read_recipe(options.recipe), _data(options)
    usable = usable_part(table, recipe.model)
    part = table.take(usable.rows, usable.columns)
    part = filled(part, fills(part.values, recipe.model.gaps) if part.has_gaps else None)
    for step in recipe.treat:
        part = run_step(part, step).table
    values = part.values
    if recipe.scale is not None:
        values = fit_scaler(values, recipe.scale, part.axis).apply(values)
    write_matrix(options.out, part.ids, part.axis.labels, values)
    print(options.out)
    for row, reason in sorted(usable.left_out_rows.items()):
        print(f"left out: {table.ids[row]} ({reason})")
    return DONE


def _install(options: argparse.Namespace) -> int:
    from platformdirs import user_data_path

    from scutcher.desk.shell.desktop_entry import install

    command = Path(sys.executable).with_name("scutcher")
    for path in install(user_data_path(), command):
        print(path)
    return DONE


def _formats(options: argparse.Namespace) -> int:
    from scutcher.files.formats import FORMATS

    suffixes = [", ".join(known.suffixes) for known in FORMATS]
    wide = max(map(len, suffixes)) + 2
    for known, words in zip(FORMATS, suffixes, strict=True):
        use = "read, write" if known.writes else "read"
        print(f"{known.name:<15}{words:<{wide}}{use:<13}{known.note}")
    return DONE


def _treatments(options: argparse.Namespace) -> int:
    from scutcher.core.treatments import all_treatments, treatment
    from scutcher.core.treatments.support.manual import entry, guide

    if options.markdown:
        print(guide(all_treatments().values()), end="")
        return DONE
    if options.name is not None:
        print(entry(treatment(options.name)))
        return DONE
    for known in all_treatments().values():
        learns = "learns from the set" if known.learns else "row by row"
        print(f"{known.key:<26}{learns:<22}{known.purpose}")
    return DONE
