"""Overlays, why, rebuild, extremes, probe, new samples, pairs, space, pictures, proposal, figures."""

import tempfile
import threading
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton

from scutcher.charts import colours
from scutcher.charts.overlays import NEW, Overlays
from scutcher.demo.sets import demo_set
from scutcher.desk.actions.new_samples import NewSamples
from scutcher.desk.actions.outlier_proposal import Proposal
from scutcher.desk.pages import aside
from scutcher.desk.pages.inspect import newcomers
from scutcher.desk.pages.inspect.why import Why
from scutcher.files.writing import write_csv
from scutcher.study.document.commands.samples import SetAside
from tests.desk.driving import LEFT, WindowCase, count_colour, settle


class OnThePlane(WindowCase):
    def test_every_overlay(self):
        menu, view = self.page.score_menu, self.page.scores_view
        for overlays, curves in (
            (Overlays(ellipses="all"), 1),
            (Overlays(ellipses="class"), 4),
            (Overlays(ellipses="sd"), 3),
            (Overlays(hulls=True), 4),
            (Overlays(centroids=True), 4),
            (Overlays(order=True), 1),
            (Overlays(replicates=True), 1),
        ):
            with self.subTest(overlays=overlays):
                menu.take(overlays)
                self.assertEqual(len(view.chart.curves), curves)
        menu.take(Overlays(ellipses="all"))
        self.assertGreater(count_colour(view, colours.ALARM, 60), 60)
        self.assertIn("T² 95 %", self.page.scores_panel.note.text())

    def test_arrows_name_the_strongest_channels_apart_from_each_other(self):
        self.page.score_menu.take(Overlays(arrows=True))
        named = [curve.name for curve in self.page.scores_view.chart.curves if curve.name]
        places = sorted(float(name.split()[0]) for name in named)
        self.assertGreater(len(places), 5)
        self.assertGreater(np.diff(places).min(), 30.0)
        self.assertIn("arrows: loadings ×", self.page.scores_panel.note.text())

    def test_samples_set_aside_stay_as_hollow_marks(self):
        rows = tuple(self.row(f"L17-{scan}") for scan in (1, 2, 3))
        self.desk.do(SetAside(rows, "wet"))
        settle()
        ghosts = self.page.scores_view.chart.ghosts
        self.assertEqual(set(ghosts.keys.tolist()), set(rows))
        self.assertEqual(set(self.page.distances.view.chart.ghosts.keys.tolist()), set(rows))
        self.assertGreater(self.page.distances.view.chart.ghosts.x.min(), 1.0)
        self.assertNotIn(rows[0], self.page.scores_view.chart.marks.keys)
        (way,) = self.page.scores_view.chart.curves  # how the others moved, for a moment
        self.assertEqual(len(way.x), 3 * 140)
        np.testing.assert_allclose(way.x[1::3], self.page.scores_view.chart.marks.x)
        self.page._settled.timeout.emit()
        self.assertEqual(self.page.scores_view.chart.curves, ())

    def test_probe_shows_the_signal_of_a_point_and_says_where_nobody_is(self):
        self.page._set_lasso("probe")
        view = self.page.scores_view
        self.click(view, self.data_place(view, -1.0, 0.0))
        self.assertIn("nearest:", self.page.strips.signals_panel.note.text())
        chart = self.page.strips.signals_view.chart
        model = self.model
        (left, _), _ = view.ground.viewRange()
        at = self.page.strips.probe_at
        wanted = (
            self.desk.moment.found.scaler.centre + at[0] * model.loadings[:, 0] + at[1] * model.loadings[:, 1]
        )
        np.testing.assert_allclose(chart.curves[0].y, wanted)
        (left, right), (bottom, top) = view.ground.viewRange()
        self.click(view, self.data_place(view, left + 0.9 * (right - left), bottom + 0.1 * (top - bottom)))
        self.assertIn("no samples near here", self.page.strips.signals_panel.note.text())
        self.page._set_lasso("box")
        self.assertIsNone(self.page.strips.probe_at)


class SetAsideBehind(WindowCase):
    def test_what_takes_long_to_treat_is_projected_behind(self):
        """What random actions found: thousands set aside after a slow treatment held the window."""
        where = []
        before = aside.set_aside_projected

        def noted(*given):
            where.append(threading.current_thread())
            return before(*given)

        with mock.patch.object(aside, "AT_ONCE", 0), mock.patch.object(aside, "set_aside_projected", noted):
            self.desk.do(SetAside((3, 8), "x"))
            self.until(lambda: self.page.scores_view.chart.ghosts is not None)
        self.assertEqual(set(self.page.scores_view.chart.ghosts.keys.tolist()), {3, 8})
        self.assertEqual(set(self.page.distances.view.chart.ghosts.keys.tolist()), {3, 8})
        self.assertNotIn(threading.main_thread(), where)
        self.window.undo()
        settle()
        self.assertIsNone(self.page.scores_view.chart.ghosts)

    def test_two_pages_do_not_take_them_from_each_other(self):
        with mock.patch.object(aside, "AT_ONCE", 0):
            works = [aside.AsideWork(self.desk, slot, lambda: None) for slot in ("one page", "another")]
            self.desk.do(SetAside((3, 8), "x"))
            self.assertEqual([work.now() for work in works], [None, None])
            self.until(lambda: None not in [work.now() for work in works])


class Reasons(WindowCase):
    def test_why_names_the_bands_of_the_oil(self):
        self.desk.selection.pick([self.row(f"L30-{scan}") for scan in (1, 2, 3)])
        self.key("y")
        (paper,) = self.window.findChildren(Why)
        shown = [float(paper.table.item(row, 0).text().split()[0]) for row in range(6)]
        for band in (2012.0, 2184.0):
            self.assertLess(min(abs(place - band) for place in shown), 25.0)
        paper.table.selectRow(0)
        settle()
        self.assertEqual(self.look.channel, shown[0])
        self.page.distances.set_run("channel")
        settle()
        raw = self.state.table
        column = raw.axis.labels.index(f"{shown[0]:g}")
        np.testing.assert_array_equal(self.page.distances.run_view.chart.marks.y, raw.values[:, column])
        paper.against.setCurrentIndex(1)
        paper.refresh()
        self.assertEqual(paper.table.rowCount(), 12)

    def test_one_group_against_another(self):
        """Two groups made by hand: the channels that differ are those of the difference of their means."""
        scores = self.model.scores[:, 0]
        rows = self.desk.moment.found.usable.rows
        low, high = np.argsort(scores)[:8], np.argsort(scores)[-40:-32]
        self.desk.selection.pick(rows[high].tolist())
        self.desk.selection.pick(rows[low].tolist())
        self.key("y")
        (paper,) = self.window.findChildren(Why)
        words = [paper.against.itemText(place) for place in range(paper.against.count())]
        self.assertEqual(words[0], "all other samples")
        self.assertTrue(words[1].startswith("the pick before ("))
        paper.kind.setCurrentIndex(1)
        paper.against.setCurrentIndex(1)
        paper.refresh()
        z = self.desk.moment.found.z
        away = z[low].mean(axis=0) - z[high].mean(axis=0)
        loadings, eigenvalues = self.model.loadings, self.model.decomposition.eigenvalues[: self.model.k]
        shares = away * (loadings @ ((away @ loadings) / eigenvalues))
        name = paper.table.item(0, 0).text()
        axis = self.desk.moment.found.treated.axis
        self.assertEqual(name, axis.name(int(np.abs(shares).argmax())))
        first = float(paper.table.item(0, 1).text().replace("−", "-"))
        wanted = 100 * shares[np.abs(shares).argmax()] / np.abs(shares).sum()
        self.assertAlmostEqual(first, float(wanted), delta=0.051)

    def test_why_opens_on_the_distance_that_is_farthest_past_its_limit(self):
        model, rows = self.model, self.desk.moment.found.usable.rows
        ratio = (model.t2 / model.t2_limit.value) / (model.q / model.q_limit.value)
        for place, words in ((int(ratio.argmax()), "share of T²"), (int(ratio.argmin()), "share of Q")):
            self.desk.selection.pick([int(rows[place])])
            self.key("y")
            paper = self.window.findChildren(Why)[-1]
            self.assertEqual(paper.kind.currentText(), words)
            for group in paper.references.values():
                self.assertNotIn(place, group)
            paper.dismiss()

    def test_a_group_is_held_against_groups_of_its_size(self):
        rng = np.random.default_rng(0)
        rows = self.desk.moment.found.usable.rows
        self.desk.selection.pick(rows[rng.choice(len(rows), 24, replace=False)].tolist())
        self.key("y")
        paper = self.window.findChildren(Why)[-1]
        self.assertIn("range of groups of 24 from the reference", paper.note.text())

    def test_why_without_a_pick_says_what_to_do(self):
        self.key("y")
        self.assertIn("Nothing in the model is picked.", self.window.message.label.text())

    def test_rebuild_and_extremes(self):
        row = self.row("L05-1")
        self.desk.selection.pick([row])
        self.key("r")
        lines = self.page.strips.signals_view.chart.lines
        np.testing.assert_allclose(lines.ys[0] - lines.ys[1], lines.ys[2])
        place = self.desk.moment.found.places()[row]
        np.testing.assert_allclose((lines.ys[2] ** 2).sum(), self.model.q[place], rtol=1e-6)
        self.key("e")
        self.assertFalse(self.page.strips.rebuild_switch.isChecked())
        chart = self.page.strips.signals_view.chart
        scores = self.model.scores[:, 0]
        ids = self.desk.moment.found.treated.ids
        self.assertEqual(chart.lines.names, (ids[scores.argmin()], ids[scores.argmax()]))


class NewLots(WindowCase):
    def test_a_dropped_file_is_projected_and_the_strange_ones_are_told(self):
        table, truth = demo_set("new-lots")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "new-lots.csv"
            write_csv(table, path)
            self.window.papers.bring_new([path])
            self.wait_for_reading()
            self.until(lambda: self.window.findChildren(NewSamples))
        (listing,) = self.window.findChildren(NewSamples)
        told = {listing.table.item(row, 0).text(): listing.table.item(row, 3).text() for row in range(20)}
        self.assertEqual({name for name, word in told.items() if word == "no"}, set(truth["strange"]))
        ghosts = self.page.scores_view.chart.ghosts
        self.assertEqual((len(ghosts.x), int(ghosts.keys.min())), (20, NEW))
        self.assertIn("1730 nm", listing.table.item(0, 4).text())
        self.writes_a_report(listing, set(truth["strange"]))
        self.desk.live.bring(None)
        settle()
        self.page.refresh()
        self.assertIsNone(self.page.scores_view.chart.ghosts)

    def writes_a_report(self, listing, strange):
        (button,) = (b for b in listing.findChildren(QPushButton) if b.text().startswith("Write"))
        with tempfile.TemporaryDirectory() as folder:
            for name in ("new.html", "new.pdf", "new.csv", "new.odt"):
                path = Path(folder) / name
                with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
                    QTest.mouseClick(button, LEFT)
                told = "new.odt ends in" if name.endswith("odt") else f"are in {name}"
                self.until(lambda told=told: told in self.window.message.label.text())
            text = (Path(folder) / "new.html").read_text()
            lines = (Path(folder) / "new.csv").read_text().splitlines()
            self.assertGreater((Path(folder) / "new.pdf").stat().st_size, 20_000)
            self.assertFalse((Path(folder) / "new.odt").exists())
        ids = listing._new.found.table.ids
        self.assertEqual(len(lines), 21)
        self.assertEqual(text.count("<figure>"), 3)
        for name in ids:
            verdict = "no" if name in strange else "yes"
            self.assertIn(f"<tr><td>{name}</td><td>{verdict}</td>", text)
        for name in strange:  # in its line of the table, and on each figure
            self.assertEqual(text.count(name), 4)
        self.assertIn(f"<td>{len(ids) - len(strange)} of {len(ids)}</td>", text)

    def test_an_axis_that_does_not_match_offers_resampling(self):
        table, _ = demo_set("new-lots")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "coarse.csv"
            write_csv(table.take(np.arange(20), np.r_[0, np.arange(1, 699, 3), 699]), path)
            self.window.papers.bring_new([path])
            self.wait_for_reading()
            self.until(lambda: "lacks" in self.window.message.label.text())
            self.assertEqual(self.window.message.act.text(), "Resample")
            QTest.mouseClick(self.window.message.act, LEFT)
            self.wait_for_reading()
        self.until(lambda: self.desk.live.brought is not None)

    def test_many_are_projected_behind_and_listed_when_they_are_there(self):
        go, project = threading.Event(), newcomers.newcomers

        def slow(*arguments):
            go.wait(60)
            return project(*arguments)

        with mock.patch.multiple(newcomers, AT_ONCE=0, newcomers=slow):
            self.desk.live.bring(demo_set("new-lots")[0])
            settle()
            self.key("n")
            self.assertEqual(self.window.findChildren(NewSamples), [])
            self.assertIsNone(self.page.scores_view.chart.ghosts)
            go.set()
            self.until(lambda: self.window.findChildren(NewSamples))
            self.assertEqual(len(self.page.scores_view.chart.ghosts.x), 20)
            bench = demo_set("bench")[0]
            self.desk.live.bring(bench)
            self.until(lambda: "bench over mixed variables" in self.window.message.label.text())
            self.assertIsNone(self.page.newcomers.now())


class FromOutside(WindowCase):
    def test_pairs_pick_what_is_clicked(self):
        self.key("p")
        page = self.window.stack.over
        view = page.pairs_view
        np.testing.assert_allclose(view.found.overall, np.eye(4), atol=1e-8)
        x, y = view.places(1, 0)
        place = int(x.argmax())
        QTest.mouseClick(view, LEFT, pos=QPoint(round(x[place]), round(y[place])))
        settle()
        self.assertIn("L17", self.state.table.ids[self.look.picked[0]])
        self.key(Qt.Key.Key_Escape)
        self.assertIsNone(self.window.stack.over)

    def test_space_turns_and_picks(self):
        self.key("d")
        view = self.window.stack.over.turn_view
        before = view.seen(view.points)[0].copy()
        self.drag(view, [QPoint(300, 300), QPoint(340, 310), QPoint(380, 330)])
        x, y, _ = view.seen(view.points)
        self.assertGreater(np.abs(x - before).max(), 20.0)
        place = int(x.argmax())
        QTest.mouseClick(view, LEFT, pos=QPoint(round(x[place]), round(y[place])))
        settle()
        self.assertEqual(len(self.look.picked), 1)
        self.assertGreater(count_colour(view, colours.FADED, 30), 50)

    def test_robust_fit_proposes_the_wet_and_the_oily_lot(self):
        self.window.papers.propose_outliers()
        (paper,) = self.window.findChildren(Proposal)
        self.until(lambda: paper.pick.isEnabled())
        names = {self.state.table.ids[row].split("-")[0] for row in paper.rows}
        self.assertLessEqual({"L17", "L30"}, names)
        self.assertIn("Nearly all of retting green straw are among them", paper.words.text())
        self.assertEqual(self.state.table.set_aside, {})
        paper._pick()
        self.assertEqual(len(self.look.picked), len(paper.rows))


class Pictures(WindowCase):
    demo = "liquor-landscapes"

    def test_loadings_and_samples_as_pictures(self):
        self.key("l")
        page = self.window.stack.over
        pictures = {picture.title: picture for picture in page.pictures_view.pictures}
        self.assertEqual(pictures["mean"].values.shape, (24, 60))
        left_over = np.abs(pictures["left over"].values)
        row, column = np.unravel_index(left_over.argmax(), left_over.shape)
        self.assertAlmostEqual(page.pictures_view.axes.rows[row], 455.0, delta=15.0)
        self.assertAlmostEqual(page.pictures_view.axes.columns[column], 540.0, delta=15.0)


class OnPaper(WindowCase):
    def test_pictures_are_copied_and_figures_saved(self):
        chart = self.page.scores_view.chart
        self.window.charts_out.copy_picture(chart)
        self.until(lambda: "is on the clipboard" in self.window.message.label.text())
        data = QApplication.clipboard().mimeData()
        self.assertTrue(data.hasImage())
        self.assertIn(b"<svg", bytes(data.data("image/svg+xml")))
        paper = self.window.charts_out.figure(chart)
        paper.title.setText("Lots of two years")
        with tempfile.TemporaryDirectory() as folder:
            for ending in ("svg", "pdf", "png"):
                self.assertTrue(paper.save(Path(folder) / f"figure.{ending}"))
                self.until(lambda ending=ending: f"is in figure.{ending}" in self.window.message.label.text())
            svg = (Path(folder) / "figure.svg").read_text()
            self.assertIn("240.9", svg.split("width=")[1][:12])  # 85 mm in points
            self.assertFalse(paper.save(Path(folder) / "figure.doc"))
        self.takes_names_ranges_and_panels()
        paper.points.setText("huge")
        self.assertFalse(paper.save(Path("nowhere.svg")))
        self.assertIn("size of the letters", self.window.message.label.text())

    def takes_names_ranges_and_panels(self):
        self.desk.selection.pick([3, 5])
        paper = self.window.charts_out.figure(self.page.scores_view.chart)
        names = [self.state.table.ids[row] for row in (3, 5)]
        self.assertEqual([text for _, _, text in paper.figure().names], names)
        paper.names.setChecked(False)
        paper.x_ends.low.setText("−2".replace("−", "-"))
        paper.reverse.setChecked(True)
        wanted = paper.figure()
        self.assertEqual((wanted.names, wanted.x_range, wanted.reverse), ((), (-2.0, None), True))
        paper.panels.setChecked(True)
        with tempfile.TemporaryDirectory() as folder:
            self.assertTrue(paper.save(Path(folder) / "all.svg"))
            self.until(lambda: "is in all.svg" in self.window.message.label.text())
            svg = (Path(folder) / "all.svg").read_text()
        for title in ("Scores", "Loadings", "Distance to the model", "Distance in run order"):
            self.assertIn(title, svg)
        paper.x_ends.high.setText("-2")
        self.assertFalse(paper.save(Path("nowhere.svg")))
        self.assertIn("Both ends of the across axis are -2", self.window.message.label.text())


class Limits(WindowCase):
    demo = "tank-log"

    def test_level_and_method_are_chosen_on_the_plane(self):
        menu = self.page.distances.limit_menu
        menu.fill()
        next(a for a in menu.choices.actions() if a.text() == "99 %").trigger()
        settle()
        self.assertEqual(self.state.recipe.limits.level, 0.99)
        self.assertIn("99 %", self.page.distances.panel.note.text())
        menu.fill()
        next(a for a in menu.choices.actions() if a.text() == "Q limit: Box").trigger()
        settle()
        self.assertEqual(self.model.q_limit.method, "box")

    def test_trained_on_the_calm_stretch_the_fault_of_the_rest_stands_out(self):
        truth = demo_set("tank-log")[1]
        self.page.distances.limit_menu.train_on("calm")
        settle()
        self.assertEqual(len(self.desk.moment.found.z), 120)
        watched = self.page.distances.run_view.chart.ghosts
        self.assertEqual(len(watched.x), 120)
        past = {self.state.table.ids[row] for row in watched.keys[watched.y > 1.0]}
        ids = self.state.table.ids
        fault = set(ids[ids.index(truth["fault"]["from"]) : ids.index(truth["fault"]["to"]) + 1])
        self.assertGreater(len(past & fault), 0.9 * len(fault))
        self.assertLess(len(past - fault), 0.15 * (120 - len(fault)))

    def test_limits_from_a_stretch_that_was_picked(self):
        menu = self.page.distances.limit_menu
        menu.fill()
        self.assertFalse([a for a in menu.choices.actions() if "picked" in a.text()])
        self.desk.selection.pick(range(40, 110))
        menu.fill()
        next(a for a in menu.choices.actions() if "the 70 picked samples only" in a.text()).trigger()
        settle()
        self.assertEqual(self.desk.moment.found.usable.rows.tolist(), list(range(40, 110)))
        self.assertEqual(len(self.page.distances.run_view.chart.ghosts.x), 170)
        self.assertEqual(self.state.model.use.watched[:2], (0, 1))
        self.assertIn("watched", self.state.table.set_aside[0])


class Names(WindowCase):
    def test_outlying_samples_are_named_and_names_do_not_cover_each_other(self):
        self.window.resize(1280, 800)
        view = self.page.scores_view
        self.page.score_menu.take(Overlays(labels="outlying"))
        settle()
        names = [label.textItem.toPlainText() for label in view.names._labels]
        self.assertIn("L42-3", names)
        self.assertLess(len(names), 12)
        self.page.score_menu.take(Overlays(labels="all", label_by="retting"))
        settle()
        areas = [view.names._area_of(label, label.pos().x(), label.pos().y()) for label in view.names._labels]
        self.assertGreater(len(areas), 5)
        for place, area in enumerate(areas):
            self.assertFalse(any(area.intersects(other) for other in areas[:place]))

    def test_loadings_as_points_circle_and_table(self):
        self.window.papers.show_space("circle")
        page = self.window.stack.over
        marks = page.loading_view.chart.marks
        z, scores = self.desk.moment.found.z, self.model.scores
        column = int(marks.keys[40])
        self.assertAlmostEqual(marks.x[40], np.corrcoef(z[:, column], scores[:, 0])[0, 1])
        page.choose("loadings")
        before = len(page.loading_view.chart.marks.x)
        page.weakest.setValue(60)
        settle()
        self.assertLess(len(page.loading_view.chart.marks.x), before)
        page.choose("table")
        page.table.selectRow(0)
        settle()
        strongest = int(np.abs(self.model.loadings[:, 0]).argmax())
        axis = self.desk.moment.found.treated.axis
        self.assertEqual(self.look.channel, float(axis.places()[strongest]))
