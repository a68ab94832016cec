"""Studies in files, from the window: nothing is lost, names, copies, snapshots, the log, two windows."""

import csv
import os
import sqlite3
import unittest
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QToolButton

from scutcher.desk.shell.beginning import demo_study, first_study, keep, put_away
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.windows import Windows
from scutcher.files.arrays.loading import load_hdf5
from scutcher.files.csv_text import harmless
from scutcher.files.formats import read_table
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study
from scutcher.study.storage import links
from scutcher.study.storage import state_folder as places
from tests.desk.driving import CTRL, LEFT, WindowCase, demo_state, settle
from tests.folder import InFolder


class WithState(InFolder):
    def prepare(self):
        super().prepare()
        patch = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        patch.start()
        self.addCleanup(patch.stop)


class Kept(WithState, WindowCase):
    def study(self):
        study = Study(demo_state(self.demo))
        study.keep_in(places.unnamed_path())
        self.addCleanup(study.close)
        return study

    def is_written(self, path):
        return f"is in {path.name}." in self.window.message.label.text() and path.exists()


class FewSamples(Kept):
    demo = "new-lots"

    def test_the_data_of_a_knot_in_every_format(self):
        for stage, suffixes in ((0, (".csv",)), (1, (".csv", ".xlsx", ".h5", ".dx")), (2, (".h5",))):
            self.desk.selection.change(stage=stage)
            shown = self.page.strips.signals_view.chart.lines
            for suffix in suffixes:
                with self.subTest(stage=stage, suffix=suffix):
                    path = self.folder / f"d{suffix}"
                    path.unlink(missing_ok=True)
                    self.assertTrue(self.window.filing.write_data(path))
                    self.until(lambda path=path: self.is_written(path))
                    again = read_table(path)
                    self.assertTrue(np.array_equal(again.values, shown.ys, equal_nan=True))
                    self.assertEqual(again.ids, shown.names)
                    self.assertTrue(np.array_equal(again.axis.positions, shown.x))
        self.window.filing.write_data(self.folder / "d.doc")
        said = "d.doc ends in '.doc', which is not written."
        self.until(lambda: said in self.window.message.label.text())
        self.assertFalse((self.folder / "d.doc").exists())

    def test_a_window_that_closes_waits_for_what_is_written(self):
        self.desk.selection.change(stage=0)
        path, missing = self.folder / "d.xlsx", self.folder / "gone" / "d.csv"
        self.window.filing.write_data(missing)
        self.assertFalse(self.window.close())
        self.assertTrue(self.window.isVisible())
        self.assertIn("d.csv", self.window.message.label.text())
        self.window.filing.write_data(path)
        self.window.filing.write_data(path.with_name("second.csv"))
        self.assertTrue(self.window.close())
        for name in ("d.xlsx", "second.csv"):
            self.assertEqual(read_table(self.folder / name).shape, self.state.table.shape)


class Files(Kept):
    def test_ctrl_s_names_the_study_and_the_history_comes_along(self):
        self.desk.do(KeepComponents(3))
        old = self.desk.study.file.path
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(self.folder / "mill"), "")):
            self.key("s", CTRL)
        path = self.folder / "mill.scutch"
        self.assertTrue(path.exists())
        self.assertFalse(old.exists())
        self.assertEqual(self.window.windowTitle(), "mill — Scutcher")
        self.assertEqual(places.recent(), [path])
        self.desk.do(KeepComponents(2))
        self.desk.study.close()
        again = Study.open(path)
        self.addCleanup(again.close)
        self.assertEqual(again.state.recipe.model.components, 2)
        again.undo()
        self.assertEqual(again.undo_label, "Keep 4 → 3 components")

    def test_linked_data_are_copied_in_behind(self):
        csv_file = self.folder / "large.csv"
        csv_file.write_text("id,1,2,3\n" + "\n".join(f"s{n},{n},{n * n},{n % 3}" for n in range(40)))
        with mock.patch.object(links, "COPIED", 100):
            self.window.opening.open_files([csv_file], adding=True)
            self.wait_for_reading()
            self.assertEqual(self.desk.study.state.table.shape, (40, 3))
            self.assertTrue(self.desk.study.file.history.is_linked)
        entries = {entry.words: entry for entry in self.window.filing.entries()}
        entries["Copy the data into the study"].run()
        self.until(lambda: not self.desk.study.file.history.is_linked)
        self.until(lambda: "Their file may go." in self.window.message.label.text())
        self.assertNotIn("Copy the data into the study", {e.words for e in self.window.filing.entries()})

    def test_a_copy_that_cannot_be_written_is_said(self):
        self.window.filing.save_copy(self.folder / "no" / "where")
        self.until(lambda: "cannot be written" in self.window.message.label.text())
        self.desk.do(KeepComponents(3))
        self.window.filing.save_copy(self.folder / "copy")
        self.desk.do(KeepComponents(2))  # while it is written
        self.until(lambda: "The copy is in copy.scutch." in self.window.message.label.text())
        copy = Study.open(self.folder / "copy.scutch")
        self.addCleanup(copy.close)
        self.assertIn(copy.state.recipe.model.components, (2, 3))

    def test_log_as_csv(self):
        self.desk.do(SetAside((3,), "=cmd()"))
        self.window.filing.export_log(self.folder / "log.csv")
        with self.written(self.folder / "log.csv").open() as stream:
            rows = list(csv.DictReader(stream))
        self.assertEqual([row["kind"] for row in rows], ["start", "do"])
        self.assertEqual(rows[1]["why"], "'=cmd()")
        self.assertEqual(harmless("plain"), "plain")

    def test_the_numbers_of_any_view(self):
        charts = {chart.title: chart for chart in self.window.charts()}
        self.assertIn("Scores", charts)
        for suffix in (".csv", ".xlsx", ".h5"):
            path = self.folder / f"n{suffix}"
            self.assertTrue(self.window.charts_out.write_numbers(charts["Scores"], path))
            self.until(lambda path=path: self.is_written(path))
            name = self.page.scores_panel.x_title.text()
            if suffix == ".h5":
                column = next(c for c in load_hdf5(path) if c.name == name).values
            else:
                table = read_table(path)
                column = table.values[:, table.axis.labels.index(name)]
            np.testing.assert_array_equal(column, self.model.scores[:, 0])
        self.key("k", CTRL)
        QTest.keyClicks(self.window.topbar.search, "copy the numbers of scores")
        self.key(Qt.Key.Key_Return, widget=self.window.topbar.search)
        lines = QApplication.clipboard().text().splitlines()
        self.assertEqual(len(lines), 144)
        self.assertEqual(float(lines[1].split("\t")[1]), self.model.scores[0, 0])

    def test_snapshot_and_back(self):
        self.assertTrue(self.window.filing.snapshot("four"))
        self.desk.do(KeepComponents(2))
        self.key("k", CTRL)
        QTest.keyClicks(self.window.topbar.search, "snapshot four")
        self.key(Qt.Key.Key_Return, widget=self.window.topbar.search)
        self.assertEqual(self.model.k, 4)
        self.key("z", CTRL)
        self.assertEqual(self.model.k, 2)

    def test_read_only_says_so_and_refuses(self):
        second = Study.open(self.desk.study.file.path)
        self.addCleanup(second.close)
        windows = Windows()
        window = windows.open(second)
        self.addCleanup(dispose, window)
        settle()
        self.assertIn("is open in another window: you can look", window.message.label.text())
        window.desk.do(KeepComponents(2))
        self.assertEqual(window.desk.moment.found.model.k, 4)
        self.assertIn("nothing can be changed here", window.message.label.text())


class Forgetting(WithState, WindowCase):
    def study(self):
        study = demo_study("intake-nir")
        study.keep_in(self.folder / "long.scutch")
        self.addCleanup(study.close)
        return study

    def test_the_steps_are_forgotten_with_consent_only(self):
        for k in (2, 3, 4, 2, 3):
            self.desk.do(KeepComponents(k))
        file = self.desk.study.file
        size = file.path.stat().st_size
        asked = self.window.filing.ask_to_forget()
        self.assertIn("cannot be brought back", " ".join(one.text() for one in asked.findChildren(QLabel)))
        asked.dismiss()
        settle()
        self.assertEqual(self.desk.study.undo_label, "Keep 2 → 3 components")
        asked = self.window.filing.ask_to_forget()
        QTest.mouseClick(asked.buttons["Forget them"], LEFT)
        self.until(lambda: "smaller now" in self.window.message.label.text())
        self.assertIsNone(self.desk.study.undo_label)
        self.assertFalse(self.window.topbar.undo.isEnabled())
        self.assertLess(file.path.stat().st_size, size)
        self.assertEqual(self.state.recipe.model.components, 3)
        self.desk.do(KeepComponents(2))
        self.desk.study.undo()
        self.assertEqual(self.state.recipe.model.components, 3)


def kept_demo():
    """A demo study, kept as a window keeps a new one."""
    study = first_study((), "intake-nir").study
    keep(study)
    return study


class Starting(WithState):
    def test_work_without_a_name_comes_back_after_a_crash(self):
        study = kept_demo()
        places.remember(study.file.path)
        study.do(KeepComponents(3))
        study.file.close()  # as when the process is gone
        again = first_study((), None).study
        self.addCleanup(again.close)
        self.assertEqual(again.state.recipe.model.components, 3)
        self.assertEqual(again.undo_label, "Keep 4 → 3 components")

    def test_nothing_done_leaves_no_trace(self):
        study = kept_demo()
        path = study.file.path
        put_away(study)
        self.assertFalse(path.exists())
        study = kept_demo()
        study.do(KeepComponents(3))
        put_away(study)
        self.assertTrue(study.file.path.exists())

    def test_a_damaged_last_study_does_not_stop_the_start(self):
        broken = self.folder / "b.scutch"
        broken.write_text("x")
        places.remember(broken)
        for files in ((), (broken,)):
            begun = first_study(files, None)
            self.addCleanup(begun.study.close)
            self.assertIsNone(begun.study.state.table)
            self.assertIn("b.scutch is not a study file", str(begun.trouble))
            self.assertEqual(begun.damaged, broken)

    def test_the_window_comes_back_as_it_was_left(self):
        application()
        for height in (660, None):  # the offscreen screen is small
            study = kept_demo()
            windows = Windows()
            window = windows.open(study)
            if height is not None:
                window.resize(window.minimumWidth(), height)
            settle()
            self.assertEqual((window.width(), window.height()), (window.minimumWidth(), 660))
            windows.dispose()

    def test_a_damaged_study_is_rescued_into_a_copy(self):
        application()
        path = self.folder / "mill.scutch"
        study = demo_study("intake-nir")
        study.keep_in(path)
        study.do(KeepComponents(3))
        study.close()
        link = sqlite3.connect(path)
        link.execute("UPDATE revisions SET state = '[1]' WHERE id = 2")
        link.commit()
        link.close()
        windows = Windows()
        empty = Study()
        empty.keep_in(places.unnamed_path())
        window = windows.open(empty)
        self.assertIsNone(windows.open_file(path, window))
        self.assertIn("A state in the study file cannot be read", window.message.label.text())
        QTest.mouseClick(window.message.act, LEFT)
        settle()
        self.assertTrue((self.folder / "mill-rescued.scutch").exists())
        kept = windows.all[1].desk.study.state.recipe.model.components
        self.assertEqual(kept, 3)  # the newest state is in the file a second time
        windows.dispose()

    def test_start_paper_lists_recent_studies_and_opens_them(self):
        application()
        study = demo_study("intake-nir")
        study.keep_in(self.folder / "mill.scutch")
        study.close()
        places.remember(self.folder / "mill.scutch")
        windows = Windows()
        empty = Study()
        empty.keep_in(places.unnamed_path())
        window = windows.open(empty)
        settle()
        links = [b for b in window.stack.start.findChildren(QToolButton) if b.text().startswith("mill")]
        QTest.mouseClick(links[0], LEFT)
        settle()
        self.assertEqual(len(windows.all), 2)
        self.assertEqual(windows.all[1].desk.live.evaluation.model.k, 4)
        self.assertEqual(windows.all[1].windowTitle(), "mill — Scutcher")
        QTest.mouseClick(links[0], LEFT)  # it is open already
        self.assertEqual(len(windows.all), 2)
        windows.dispose()
        QApplication.processEvents()


if __name__ == "__main__":
    unittest.main()
