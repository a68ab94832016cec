"""The window by hand: the handle, switches, setting aside, tags, undo, search, files and bad files."""

import time
import unittest
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent, QMimeData, QObject, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QToolButton, QWidget

from scutcher.demo.sets import THREE
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.desk.widgets.popover import Ask, Listing
from scutcher.files import formats
from scutcher.files.formats import FORMATS
from scutcher.study.current_model import Coming
from scutcher.study.document.study import Study
from tests.desk.driving import CTRL, LEFT, WindowCase, settle
from tests.folder import InFolder

ALT = Qt.KeyboardModifier.AltModifier


class Alone(QObject):
    """Notes widgets that are shown as windows of their own."""

    def __init__(self):
        super().__init__()
        self.seen = []

    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow():
            self.seen.append(type(watched).__name__)
        return False


class NothingFlashes(unittest.TestCase):
    def test_no_part_of_a_window_is_shown_before_it_has_its_place(self):
        alone = Alone()
        application().installEventFilter(alone)
        self.addCleanup(QApplication.instance().removeEventFilter, alone)
        for demo, pages in (
            ("practice", ("Samples", "Treat", "Rank", "Groups", "Report")),
            ("drying", ("Series",)),
            ("belt-scan", ("Maps",)),
            (THREE, ("Blocks",)),
        ):
            window = Window(demo_study(demo))
            window.show()
            for page in pages:
                window.show_page(page)
                settle()
                self.assertEqual(window.stack.current, page)
            dispose(window)
        self.assertEqual(alone.seen, ["Window"] * 4)


class Computing(WindowCase):
    def test_the_bar_says_so_and_nothing_on_it_moves(self):
        bar, live = self.window.topbar, self.desk.live
        places = [button.geometry() for button in (*bar.pages.values(), bar.undo, bar.search)]
        self.assertFalse(bar.working.isVisible())
        live.coming = Coming(self.state, self.state.recipe)
        live.announce({"busy"})
        settle()
        self.assertTrue(bar.working.isVisible())
        self.assertEqual([b.geometry() for b in (*bar.pages.values(), bar.undo, bar.search)], places)
        live.coming = None
        live.announce({"busy"})
        settle()
        self.assertFalse(bar.working.isVisible())


class Handle(WindowCase):
    def places(self, *kept):
        bars = self.window.bottom.bars
        return [QPoint(round(bars.handle_x(k)), 20) for k in kept]

    def test_everything_follows_while_it_is_held_and_one_command_on_release(self):
        bars = self.window.bottom.bars
        t2, q = self.model.t2, self.model.q
        self.drag(bars, self.places(4, 3, 2), release=False)
        self.assertEqual(self.model.k, 2)
        self.assertEqual(self.state.recipe.model.components, 4)  # only a preview yet
        self.assertEqual(self.window.bottom.headline.text(), "2 of 142 components kept")
        self.assertFalse(np.allclose(self.model.t2, t2))
        self.assertTrue((self.model.q >= q - 1e-12).all())
        self.drag(bars, self.places(2, 2))
        self.assertEqual(self.state.recipe.model.components, 2)
        self.assertEqual(self.desk.study.undo_label, "Keep 4 → 2 components")
        self.assertEqual(bars.ladder.kept, 2)
        np.testing.assert_array_equal(
            self.page.distances.run_view.chart.marks.y, self.model.q / self.model.q_limit.value
        )
        self.key(Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.model.k, 4)
        np.testing.assert_allclose(self.model.t2, t2)

    def test_loadings_follow_when_their_component_goes(self):
        self.desk.selection.change(pair=(0, 3))
        self.drag(self.window.bottom.bars, self.places(4, 2))
        self.assertEqual(self.page.strips.loadings_view.chart.lines.names, ("component 1", "component 2"))

    def test_one_component(self):
        self.drag(self.window.bottom.bars, self.places(4, 1))
        self.assertEqual(self.model.k, 1)
        self.assertEqual(self.page.strips.loadings_view.chart.lines.names, ("component 1",))

    def test_keys(self):
        self.key(Qt.Key.Key_Right, ALT)
        self.assertEqual(self.model.k, 5)
        self.key(Qt.Key.Key_Left, ALT)
        self.key(Qt.Key.Key_Left, ALT)
        self.assertEqual(self.model.k, 3)


class Recipe(WindowCase):
    def test_snv_off_and_on_and_undo(self):
        knot = self.window.trail.knots[1]
        with_snv = self.model.decomposition.eigenvalues[0]
        QTest.mouseClick(knot.switch, LEFT)
        settle()
        self.assertFalse(self.state.recipe.treat[0].on)
        self.assertEqual(knot.switch.text(), "off")
        self.assertEqual(self.page.strips.signals_panel.note.text(), "as brought in")
        self.assertNotAlmostEqual(self.model.decomposition.eigenvalues[0], with_snv)
        self.key("s")
        self.assertAlmostEqual(self.model.decomposition.eigenvalues[0], with_snv)
        self.key(Qt.Key.Key_Z, CTRL)
        self.assertFalse(self.state.recipe.treat[0].on)

    def test_signs_do_not_mirror_while_working(self):
        before = self.model.loadings[:, 0].copy()
        for _ in range(2):
            self.key("s")
        self.assertGreater(before @ self.model.loadings[:, 0], 0.99)

    def test_scaling_menu(self):
        menu = self.window.trail.scaling_knot.menu
        menu.aboutToShow.emit()
        next(a for a in menu.actions() if a.text() == "each to SD 1").trigger()
        settle()
        np.testing.assert_allclose(self.desk.moment.found.z.std(axis=0, ddof=1), 1.0)
        self.assertEqual(self.window.trail.knots[-1].name.text(), "Centre and scale")

    def test_treatment_added_and_removed(self):
        trail = self.window.trail
        trail.add_link.click()
        settle()
        search = self.window.focusWidget()
        self.type("standard normal", search)
        self.key(Qt.Key.Key_Return, widget=search)
        settle()
        self.assertEqual(len(self.state.recipe.treat), 2)
        self.assertEqual(len(trail.knots), 4)
        remove = [b for b in trail.knots[2].findChildren(QToolButton) if b.text() == "×"]
        QTest.mouseClick(remove[0], LEFT)
        settle()
        self.assertEqual(len(self.state.recipe.treat), 1)


class Acting(WindowCase):
    def ask(self) -> Ask:
        return next(paper for paper in self.window.findChildren(Ask) if paper.isVisible())

    def test_set_aside_with_a_reason_and_bring_back(self):
        row = self.row("L42-3")
        self.desk.selection.pick([row])
        QTest.mouseClick(self.window.bottom.set_aside, LEFT)
        settle()
        self.type("spiked", self.window.focusWidget())
        self.key(Qt.Key.Key_Return, widget=self.window.focusWidget())
        self.assertEqual(dict(self.state.table.set_aside), {row: "spiked"})
        self.assertNotIn(row, self.desk.moment.found.usable.rows)
        self.assertEqual(len(self.model.t2), 142)
        self.assertIn("1 set aside", self.window.trail.data_knot.set_aside_link.text())
        QTest.mouseClick(self.window.trail.data_knot.set_aside_link, LEFT)
        settle()
        listing = self.window.findChild(Listing)
        self.assertTrue(any("spiked" in label.text() for label in listing.findChildren(QLabel)))
        bring = next(b for b in listing.findChildren(QPushButton) if b.text() == "Bring back")
        QTest.mouseClick(bring, LEFT)
        settle()
        self.assertEqual(len(self.model.t2), 143)

    def test_without_a_reason_nothing_happens_and_it_says_so(self):
        self.desk.selection.pick([3])
        self.key(Qt.Key.Key_Delete)
        QTest.mouseClick(self.ask().yes, LEFT)
        settle()
        self.assertEqual(dict(self.state.table.set_aside), {})
        self.assertIn("No reason was given.", self.window.message.label.text())
        self.assertTrue(self.ask().isVisible())

    def test_nothing_picked(self):
        self.key("t")
        self.assertIn("Nothing is picked.", self.window.message.label.text())

    def test_tag_makes_a_class_and_undo_takes_it_back(self):
        rows = [self.row("L17-1"), self.row("L17-2")]
        self.desk.selection.pick(rows)
        self.key("t")
        self.type("wet", self.window.focusWidget())
        self.key(Qt.Key.Key_Return, widget=self.window.focusWidget())
        column = self.state.table.classes[0]
        self.assertEqual([column.values[row] for row in rows], ["wet", "wet"])
        self.assertIn("wet", self.page.legend.cells())
        self.key(Qt.Key.Key_Z, CTRL)
        self.assertNotIn("wet", self.page.legend.cells())
        self.key(Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.assertIn("wet", self.page.legend.cells())

    def test_rename_from_the_search_field(self):
        self.key("k", CTRL)
        self.type("rename class green", self.window.topbar.search)
        self.key(Qt.Key.Key_Return, widget=self.window.topbar.search)
        self.type("unretted", self.window.focusWidget())
        QTest.mouseClick(self.ask().yes, LEFT)
        settle()
        self.assertEqual(self.state.table.classes[0].levels[0], "unretted")


class Search(WindowCase):
    def find(self, text):
        self.key("k", CTRL)
        self.type(text, self.window.topbar.search)
        self.key(Qt.Key.Key_Return, widget=self.window.topbar.search)

    def test_sample_channel_and_action(self):
        self.find("L30-2")
        self.assertEqual(self.look.picked, (self.row("L30-2"),))
        self.find("1724 nm")
        self.assertEqual(self.look.channel, 1724.0)
        self.find("switch snv off")
        self.assertFalse(self.state.recipe.treat[0].on)

    def test_typing_is_not_taken_for_keys(self):
        self.key("k", CTRL)
        self.type("smt", self.window.topbar.search)
        self.assertTrue(self.state.recipe.treat[0].on)
        self.assertEqual(self.window.topbar.search.text(), "smt")
        self.key(Qt.Key.Key_Escape, widget=self.window.topbar.search)
        self.assertFalse(self.window.topbar.search.list.isVisible())


class Files(InFolder, WindowCase):
    def drop(self, *paths, wait=True):
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        copy, no = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
        enter = QDragEnterEvent(QPoint(300, 300), copy, mime, LEFT, no)
        QApplication.sendEvent(self.window, enter)
        self.assertTrue(enter.isAccepted())
        QApplication.sendEvent(self.window, QDropEvent(QPointF(300, 300), copy, mime, LEFT, no))
        self.wait_for_reading() if wait else settle()

    def write(self, name, text):
        path = self.folder / name
        path.write_text(text)
        return path

    def test_a_dropped_table_of_mixed_variables(self):
        rng = np.random.default_rng(0)
        lines = [f"s{i},{'ab'[i % 2]},{','.join(f'{v:.3f}' for v in rng.normal(size=4))}" for i in range(12)]
        path = self.write("bench.csv", "id,kind,lignin,pectin,wax,ash\n" + "\n".join(lines) + "\n")
        self.drop(path)
        self.assertEqual(self.state.name, "bench")
        self.assertEqual(self.state.colour_by, "kind")
        self.assertEqual(self.desk.moment.found.scaling.method, "sd")
        self.assertTrue(self.page.strips.loadings_view.chart.bars)
        self.assertEqual(self.page.strips.loadings_view.chart.tick_names, ("lignin", "pectin", "wax", "ash"))
        self.assertFalse(self.window.message.isVisible())

    def test_bad_files_are_said_and_the_study_stays(self):
        before = self.state
        cases = {
            "empty.csv": ("", "empty.csv is empty."),
            "ragged.csv": ("id,1,2\na,1\n", "Row 2 of ragged.csv has 2 values, the header 3."),
            "text.csv": ("id,1,2\na,1,2\nb,x,3\nc,2,2\n", "Row 3 of text.csv has 'x' in column '1'"),
            "one.csv": ("id,1,2\na,1,2\n", "one: 1 sample of 1 can be used"),
            "flat.csv": ("id,1,2\na,1,2\nb,1,2\n", "flat: 0 variables of 2 can be used"),
            "single.csv": ("id,1\na,1\nb,2\n", "single: 1 variable of 1 can be used"),
            "inf.csv": ("id,1,2\na,1,inf\nb,1,2\n", "The value of 2 of sample a is infinite."),
            "twice.csv": ("id,1,2\na,1,3\na,1,2\n", "The id 'a' stands at samples 1 and 2."),
        }
        for name, (text, words) in cases.items():
            with self.subTest(name):
                self.window.message.hide()
                self.drop(self.write(name, text))
                self.assertTrue(self.window.message.isVisible())
                self.assertIn(words, self.window.message.label.text().replace("<b>", "").replace("</b>", ""))
                self.assertIs(self.desk.study.state, before)
        self.drop(self.folder / "missing.csv")
        self.assertIn("There is no file missing.csv", self.window.message.label.text())

    def test_a_large_file_is_read_behind_and_can_be_stopped(self):
        rng = np.random.default_rng(0)
        rows = [",".join([f"s{i}", *map(str, rng.normal(size=1000).tolist())]) for i in range(500)]
        path = self.write(
            "large.csv", "id," + ",".join(map(str, range(1000))) + "\n" + "\n".join(rows) + "\n"
        )
        before = self.state
        real = formats.read_tables

        def slow_disk(paths, roles, watch, resample):
            """Nothing comes from the disk before the button is pressed."""
            while watch(0.1):
                time.sleep(0.005)
            return real(paths, roles, watch, resample)

        slow = mock.patch.object(formats, "read_tables", slow_disk)
        slow.start()
        self.drop(path, wait=False)
        paper = self.window.opening.reading.paper
        self.until(paper.isVisible)
        self.assertEqual(paper.words.text(), "Reading large.csv")
        self.assertIs(self.desk.study.state, before)
        QTest.mouseClick(paper.stop, LEFT)
        self.assertFalse(self.window.opening.reading.busy)
        self.assertFalse(paper.isVisible())
        slow.stop()
        self.assertIn("Reading large.csv was stopped.", self.window.message.label.text())
        self.assertIs(self.desk.study.state, before)
        self.drop(path)
        self.until(lambda: self.state.table.shape == (500, 1000) and not self.desk.live.busy)
        self.assertEqual(len(self.model.t2), 500)

    def test_a_table_pasted_from_a_spreadsheet(self):
        QApplication.clipboard().setText("id\tkind\t1000\t1002\na\tx\t1\t2\nb\ty\t3\t1\nc\tx\t2\t2\n")
        self.key("v", CTRL)
        self.wait_for_reading()
        self.assertEqual(self.state.table.ids, ("a", "b", "c"))
        QApplication.clipboard().setText("hello")
        self.key("v", CTRL)
        self.assertIn("The clipboard holds no table.", self.window.message.label.text())

    def test_files_with_other_axes_are_resampled_only_when_asked(self):
        first = self.write("one.csv", "id,1,2,3,4\na,1,2,3,4\nb,2,2,5,1\n")
        second = self.write("two.csv", "id,2,4,6\nc,20,40,60\nd,1,5,1\n")
        before = self.state
        self.drop(first, second)
        self.assertIs(self.state, before)
        self.assertIn("one has 4 from 1 to 4; two has 3 from 2 to 6", self.window.message.label.text())
        QTest.mouseClick(self.window.message.act, LEFT)
        self.wait_for_reading()
        self.assertEqual(self.state.table.ids, ("a", "b", "c", "d"))
        np.testing.assert_array_equal(self.state.table.axis.positions, [2.0, 4.0])
        np.testing.assert_array_equal(self.state.table.values, [[2, 4], [2, 1], [20, 40], [1, 5]])
        self.assertTrue(self.state.source.resampled)
        self.window.papers.show_columns()  # read again, as it was asked for: nobody is asked once more
        view = self.window.stack.over
        self.until(lambda: not view.busy)
        self.assertFalse(self.window.message.isVisible())
        np.testing.assert_array_equal(view.table.axis.positions, [2.0, 4.0])

    def test_opening_can_be_undone(self):
        self.drop(self.write("t.csv", "id,1,2,3\na,1,2,4\nb,2,1,5\nc,4,4,4\n"))
        self.assertEqual(self.state.table.shape, (3, 3))
        self.key(Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.state.table.shape, (144, 700))
        self.assertEqual(self.model.k, 4)


class Empty(WindowCase):
    def study(self):
        return Study()

    def test_start_paper_says_what_to_do_and_opens_the_demo(self):
        self.assertTrue(self.window.stack.start.isVisible())
        self.assertIsNone(self.window.view("Inspect"))
        words = " ".join(label.text() for label in self.window.stack.start.findChildren(QLabel))
        for known in FORMATS:  # whatever can be read is named
            for name in known.name.removeprefix("XY ").split(", "):
                self.assertIn(name.split(" ")[0], words)
        demo = [b for b in self.window.stack.start.findChildren(QPushButton) if "demo" in b.text()]
        QTest.mouseClick(demo[0], LEFT)
        settle()
        self.assertFalse(self.window.stack.start.isVisible())
        self.assertEqual(self.desk.moment.found.model.k, 4)
        self.key(Qt.Key.Key_Z, CTRL)
        self.assertTrue(self.window.stack.start.isVisible())


if __name__ == "__main__":
    unittest.main()
