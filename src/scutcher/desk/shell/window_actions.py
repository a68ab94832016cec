"""Everything that keys, the menu and the search field reach, in one list: of the window, and of its pages."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Protocol

from scutcher.core.data.layouts import SeriesLayout
from scutcher.desk.actions.action import Action
from scutcher.desk.actions.numerals import NUMBERS
from scutcher.desk.actions.opening import DEMOS, Opening
from scutcher.desk.actions.picked_samples import Acting
from scutcher.desk.actions.preferences import GROUNDS, SIZES, Preferences
from scutcher.desk.actions.recipe_files import RecipeFiling
from scutcher.desk.actions.study_files import Filing
from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import PageAct
from scutcher.desk.pages.page_stack import PageStack
from scutcher.desk.shell.areas import Areas
from scutcher.desk.shell.bottom_bar import BottomBar
from scutcher.desk.shell.papers import Papers
from scutcher.desk.shell.top_bar import TopBar
from scutcher.desk.trail.trail import Trail
from scutcher.study.document.commands.series import LieAs

STUDY, DATA, SAMPLES, MODEL, VIEWS, PAGES, HELP = (
    "Study", "Data", "Samples", "Treatments and model", "Other views", "On this page", "Help",
)  # fmt: skip


class Parts(Protocol):
    """What a window is made of, as far as actions reach into it."""

    @property
    def desk(self) -> Desk: ...
    @property
    def opening(self) -> Opening: ...
    @property
    def preferences(self) -> Preferences: ...
    @property
    def filing(self) -> Filing: ...
    @property
    def recipes(self) -> RecipeFiling: ...
    @property
    def acting(self) -> Acting: ...
    @property
    def papers(self) -> Papers: ...
    @property
    def stack(self) -> PageStack: ...
    @property
    def topbar(self) -> TopBar: ...
    @property
    def bottom(self) -> BottomBar: ...
    @property
    def trail(self) -> Trail: ...
    @property
    def areas(self) -> Areas: ...
    def undo(self) -> None: ...
    def redo(self) -> None: ...
    def clear(self) -> None: ...
    def whole(self) -> None: ...
    def switch_last_step(self) -> None: ...
    def full_screen(self) -> None: ...
    def show_menu(self) -> None: ...
    def close(self) -> bool: ...
    def quit(self) -> None: ...


def window_actions(window: Parts) -> tuple[Action, ...]:
    """The actions of a window, those of its pages after them."""
    demos = (
        Action(
            f"Open the demo: {name}",
            "",
            partial(window.opening.open_demo, name),
            HELP,
            "example, sample data",
        )
        for name in DEMOS
    )
    return (
        *_on_studies(window),
        *_on_data(window),
        *_on_samples(window),
        *_on_models(window),
        *_looks(window),
        *_on_pages(window),
        *_help(window),
        *demos,
        Action("Open the demo: three tables on the same lots", "", window.opening.open_three_tables, HELP,
               "example, sample data, blocks, multiblock, data fusion"),
    )  # fmt: skip


def _on_studies(window: Parts) -> tuple[Action, ...]:
    return (
        Action("New study", "Ctrl+N", window.opening.new_study, STUDY),
        Action("Name this study…", "Ctrl+S", window.filing.ask_name, STUDY, "save, save as"),
        Action("Close this study", "Ctrl+W", window.close, STUDY, "exit"),
        Action(
            "Quit: close all windows, which come back with the next start",
            "Ctrl+Q",
            window.quit,
            STUDY,
            "exit, session",
        ),
        Action("Undo", "Ctrl+Z", window.undo, STUDY),
        Action("Redo", "Ctrl+Shift+Z", window.redo, STUDY, "again"),
        Action("Find…", "Ctrl+K", window.topbar.search.start, STUDY, "search"),
        Action(
            "Write a report (HTML or PDF)…", "", window.filing.ask_report, STUDY, "report, print, document"
        ),
    )


def _on_data(window: Parts) -> tuple[Action, ...]:
    opening = window.opening
    return (
        Action("Open a file…", "Ctrl+O", opening.ask_for_file, DATA, "import, load, spectra, read"),
        Action("Paste a table from a spreadsheet", "Ctrl+V", opening.paste, DATA, "clipboard"),
        Action("Add a data set to this study…", "", opening.ask_to_add, DATA, "import, second table"),
        Action("Cut this table into blocks…", "", window.papers.cut_into_blocks, DATA,
               "multiblock, regions, groups of variables, split"),
        Action("How the file was read, and what each column is…", "I", window.papers.show_columns, DATA,
               "import view, columns, roles, delimiter, decimal, header, sheet, transpose, wavelength"),
        Action("Read another file in the same way…", "", opening.ask_for_like, DATA, "next file, "
               "import again"),
        Action("Look at each file before it is taken: on or off", "",
               window.preferences.switch_look_first, DATA,
               "import view, setting, preferences"),
        Action("Write the data of this knot…", "", window.filing.ask_data, DATA,
               "export, save data, spectra, csv, xlsx, hdf5, jcamp, parquet"),
    )  # fmt: skip


def _on_samples(window: Parts) -> tuple[Action, ...]:
    desk, bottom, acting = window.desk, window.bottom, window.acting
    return (
        Action("Clear the pick", "Esc", window.clear, SAMPLES, "deselect"),
        Action("Set aside the picked samples…", "Del", lambda: acting.set_aside(bottom.set_aside), SAMPLES,
               "delete, exclude, remove, leave out, outlier"),
        Action("Watch the picked samples: out of the model, shown on it", "H", acting.watch, SAMPLES,
               "supplementary, test set, passive"),
        Action("Tag the picked samples…", "T", lambda: acting.tag(bottom.tag), SAMPLES, "class, label, "
               "group"),
        Action("What the model does not see", "A", lambda: acting.show_set_aside(window.topbar.study),
               SAMPLES,
               "excluded, set aside, bring back"),
        Action("Samples follow each other: a series", "", lambda: desk.do(LieAs(SeriesLayout())), SAMPLES,
               "time, depth, order, kinetics, process, evolution"),
        Action("Propose outliers (robust fit)…", "", window.papers.propose_outliers, SAMPLES,
               "outlier, mcd, robust, detect"),
        Action("Show all classes", "C", lambda: desk.selection.change(focus=None, alone=False), SAMPLES),
    )  # fmt: skip


def _on_models(window: Parts) -> tuple[Action, ...]:
    papers, recipes, shelf = window.papers, window.recipes, window.trail.shelf
    return (
        Action("Add a treatment…", "+", papers.add_treatment, MODEL,
               "preprocessing, pretreatment, smoothing, baseline, scatter, normalise, derivative"),
        Action("Try several treatments…", "Ctrl+T", papers.try_several, MODEL, "compare preprocessing, "
               "optimise"),
        Action("Switch the last treatment on or off", "S", window.switch_last_step, MODEL),
        Action("Centre and scale the variables…", "", window.trail.open_scaling, MODEL,
               "scale, scaling, autoscale, standardise, unit variance, pareto, centre, center, mean"),
        Action("Settings of the model: engine, gaps, tolerance…", "", window.trail.open_model_settings, MODEL,
               "engine, nipals, svd, gram, randomised, gaps, missing values, tolerance, iterations"),
        Action("Watch a folder that an instrument writes into…", "", papers.ask_to_watch, MODEL,
               "monitor, online, control chart, new samples, at line"),
        Action("Keep one component more", "Alt+Right", lambda: window.bottom.step(1), MODEL, "rank"),
        Action("Keep one component fewer", "Alt+Left", lambda: window.bottom.step(-1), MODEL, "rank"),
        Action("Put the model by on the shelf", "B", shelf.put, MODEL, "keep, bookmark"),
        Action("Compare the models on the shelf", "Shift+B", papers.compare, MODEL),
        Action("Two models side by side", "Ctrl+B", papers.side_by_side, MODEL, "compare, turned, "
               "Procrustes, which is better"),
        Action("Open a recipe…", "", recipes.ask_open, MODEL, "import, toml, load"),
        Action("Save the recipe…", "", recipes.ask_save, MODEL, "export, toml"),
        Action("Save the model (model.json)…", "", recipes.ask_save_model, MODEL, "export, json"),
        Action("Export the model to run elsewhere (ONNX, NumPy)…", "", recipes.ask_export_model, MODEL,
               "onnx, python, script, deploy, save, numpy, pmml"),
        Action("Save the shapes of the model (model.json)…", "", recipes.ask_save_shapes, MODEL,
               "export, json, unmixing, amounts"),
        Action("Project new samples onto the model…", "Ctrl+Shift+O", papers.ask_new, MODEL,
               "apply, predict, new data"),
        Action("Send the new samples away", "", lambda: window.desk.live.bring(None), MODEL),
    )  # fmt: skip


def _looks(window: Parts) -> tuple[Action, ...]:
    papers = window.papers
    return (
        Action("All pairs of components", "P", lambda: papers.show_space("pairs"), VIEWS, "scatter matrix"),
        Action("Scores in space (3-D)", "D", lambda: papers.show_space("space"), VIEWS, "3d, rotate"),
        Action("Samples and loadings as pictures", "L", lambda: papers.show_space("pictures"), VIEWS,
               "image"),
        Action("Samples rebuilt by more and more components", "G", lambda: papers.show_space("rebuilds"),
               VIEWS,
               "reconstruction"),
        Action("Loadings as points", "", lambda: papers.show_space("loadings"), VIEWS, "loadings plot, "
               "scatter"),
        Action("Loadings as correlations (circle)", "", lambda: papers.show_space("circle"), VIEWS),
        Action("Loadings as a table", "", lambda: papers.show_space("table"), VIEWS, "numbers"),
        Action("Is it right?", "", papers.show_answer, VIEWS, "known answer, practice"),
        Action("Practice: three exercises…", "", papers.practise, VIEWS, "learn, tutorial, exercise, leak"),
        Action("Show the whole axis", "W", window.whole, VIEWS, "zoom out, reset view"),
        *(
            Action(f"Ground: {words}", "", partial(window.preferences.choose_ground, key), VIEWS,
                   "theme, dark mode, colours, appearance, contrast")
            for key, words in GROUNDS.items()
        ),
        Action("Text size: as the desktop", "", partial(window.preferences.choose_size, 0), VIEWS,
               "font, zoom, scale, larger"),
        *(
            Action(f"Text size: {size} %", "", partial(window.preferences.choose_size, size), VIEWS,
                   "font, zoom, scale, larger")
            for size in SIZES
        ),
        Action("A cluster for large images…", "",
               lambda: window.preferences.ask_cluster(papers.window), VIEWS,
               "dask, distributed, scheduler, workers, address"),
        *(
            Action(f"Numbers: {words}", "", partial(window.preferences.choose_numbers, key), VIEWS,
                   "decimal comma, decimal point, locale, language, separator")
            for key, words in NUMBERS.items()
        ),
    )  # fmt: skip


def _help(window: Parts) -> tuple[Action, ...]:
    return (
        Action("All actions, as a menu", "F10", window.show_menu, HELP, "menu, commands"),
        Action("Guide to this page", "F1", window.papers.show_guide, HELP, "help, manual, documentation"),
        Action("Next area of the window", "F6", lambda: window.areas.step(1), HELP, "keyboard, focus, panel"),
        Action("Area before this one", "Shift+F6", lambda: window.areas.step(-1), HELP, "keyboard, focus"),
        Action("Full screen, or no longer", "F11", window.full_screen, HELP, "maximise, presentation"),
        Action(
            "About Scutcher: version and licences", "", window.papers.show_about, HELP, "version, licence"
        ),
    )


def _on_pages(window: Parts) -> Iterator[Action]:
    """Each goes to its page first."""
    for page in window.stack.pages.values():
        for act in page.acts:
            yield Action(act.words, act.key, partial(_on_page, window, page.name, act), page.name, act.also)


def _on_page(window: Parts, name: str, act: PageAct) -> object:
    view = window.stack.show_page(name, at_once=True)
    return None if view is None else act.run(view)
