"""Grounds, the size of text, what comes back with the next start, one window for one study."""

import os
import subprocess
import sys
import time
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from scutcher.charts import colours, palettes
from scutcher.desk.shell import ground, text_size
from scutcher.desk.shell.beginning import asked_for
from scutcher.desk.shell.single import Doorbell, hand_over, place_of
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.study import Study
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.session import Open, keep_session, session
from scutcher.study.storage.settings import Settings, keep, settings
from tests.desk.driving import pixels, settle
from tests.desk.shell.test_windows import OnWindows


class WithWindows(OnWindows):
    def setUp(self):
        super().setUp()
        self.addCleanup(self.light_again)
        self.addCleanup(self.windows.dispose)

    def light_again(self):
        palettes.choose("light")
        ground.dress(QApplication.instance())

    def opened(self, name="a.scutch", data="bench"):
        window = self.windows.open(Study.open(self.named(name, data)))
        settle(8)
        return window

    def act(self, window, words):
        next(action for action in window.actions_list if action.words == words).run()
        settle(10)


class Grounds(WithWindows):
    def test_dark_at_once_with_the_same_study_and_page(self):
        window = self.opened()
        window.show_page("Samples")
        window.desk.do(KeepComponents(2))
        self.act(window, "Ground: dark")
        (fresh,) = self.windows.all
        self.assertIsNot(fresh, window)
        self.assertIs(fresh.study.state.models[0].recipe, fresh.study.state.recipe)
        self.assertEqual(fresh.study.state.recipe.model.components, 2)
        self.assertEqual(fresh.stack.current, "Samples")
        self.assertEqual(settings().ground, "dark")
        shown = pixels(fresh)
        np.testing.assert_allclose(shown[-5, 5], colours.rgb(palettes.DARK.linen), atol=3)
        self.assertTrue(fresh.desk.do(KeepComponents(3)))  # the study is writable still
        self.assertEqual(fresh.study.undo_label and fresh.study.state.recipe.model.components, 3)

    def test_plots_stand_on_the_ground_of_now(self):
        window = self.opened()
        self.act(window, "Ground: dark")
        (fresh,) = self.windows.all
        fresh.show_page("Inspect")
        settle(10)
        plane = fresh.view("Inspect").scores_view
        shown = pixels(plane).reshape(-1, 3)
        dark = (np.abs(shown.astype(int) - colours.rgb(palettes.DARK.paper)).sum(axis=1) < 12).mean()
        self.assertGreater(dark, 0.6)

    def test_as_the_desktop_says(self):
        hints = mock.Mock()
        hints.accessibility.return_value.contrastPreference.return_value.name = "NoPreference"
        hints.colorScheme.return_value = Qt.ColorScheme.Dark
        self.assertEqual(ground.of_desktop(hints), "dark")
        hints.colorScheme.return_value = Qt.ColorScheme.Light
        self.assertEqual(ground.of_desktop(hints), "light")
        hints.accessibility.return_value.contrastPreference.return_value.name = "HighContrast"
        self.assertEqual(ground.of_desktop(hints), "contrast")
        keep(Settings(ground="dark"))
        self.assertEqual(ground.wanted(), "dark")
        keep(Settings(ground="nonsense"))
        self.assertIn(ground.wanted(), palettes.PALETTES)

    def test_the_same_ground_again_leaves_the_window(self):
        window = self.opened()
        self.act(window, "Ground: light")
        self.assertEqual(self.windows.all, [window])


class TextSize(WithWindows):
    def test_the_chosen_size_is_known_before_the_application(self):
        keep(Settings(text=150))
        environment = {}
        text_size.prepare(environment)
        self.assertEqual(environment["QT_SCALE_FACTOR"], "1.5")
        set_by_others = {"QT_SCALE_FACTOR": "2"}
        text_size.prepare(set_by_others)
        self.assertEqual(set_by_others, {"QT_SCALE_FACTOR": "2"})
        keep(Settings(text=900))
        text_size.prepare(environment := {})
        self.assertEqual(environment["QT_SCALE_FACTOR"], "1.75")
        keep(Settings())
        text_size.prepare(environment := {})
        self.assertEqual(environment, {})

    def test_the_desktops_text_is_followed(self):
        self.assertEqual(text_size.of_desktop(96.0), 1.0)
        self.assertEqual(text_size.of_desktop(120.0), 1.25)
        self.assertEqual(text_size.of_desktop(400.0), 1.75)
        self.assertEqual(text_size.of_desktop(72.0), 1.0)
        screen = mock.Mock()
        screen.logicalDotsPerInch.return_value = 144.0
        with mock.patch.object(text_size.QGuiApplication, "primaryScreen", return_value=screen):
            self.assertEqual(text_size.due({}), 1.5)
            self.assertIsNone(text_size.due({"QT_SCALE_FACTOR": "1.5"}))  # started again already
            keep(Settings(text=100))
            self.assertIsNone(text_size.due({}))  # chosen otherwise

    def test_a_fresh_program_has_no_factor_of_the_old_one(self):
        with mock.patch.dict(os.environ, {"QT_SCALE_FACTOR": "1.5", "SCUTCHER_TEXT": "chosen"}):
            self.assertNotIn("QT_SCALE_FACTOR", text_size.fresh_environment())
            self.assertEqual(text_size.fresh_environment(1.25)["QT_SCALE_FACTOR"], "1.25")
        with mock.patch.dict(os.environ, {"QT_SCALE_FACTOR": "2"}):
            self.assertEqual(text_size.fresh_environment()["QT_SCALE_FACTOR"], "2")

    def test_it_is_offered_to_start_again_and_the_studies_come_back(self):
        window = self.opened()
        with mock.patch("scutcher.desk.shell.windows.start_again") as again:
            self.act(window, "Text size: 150 %")
            self.assertEqual(settings().text, 150)
            self.assertTrue(window.message.isVisible())
            window.preferences.begin_again.emit()
            settle(6)
        again.assert_called_once()
        self.assertEqual([one.path for one in session()], [str(self.folder / "a.scutch")])
        self.assertEqual(self.windows.all, [])


class Sessions(WithWindows):
    def test_quit_brings_all_windows_back_and_their_pages(self):
        one, two = self.opened("a.scutch"), self.opened("b.scutch", "drying")
        two.show_page("Series")
        one.quit()
        settle(8)
        self.assertEqual(self.windows.all, [])
        self.assertEqual(
            session(),
            [Open(str(self.folder / "a.scutch"), "Inspect"), Open(str(self.folder / "b.scutch"), "Series")],
        )
        self.assertEqual(asked_for(()), [self.folder / "a.scutch", self.folder / "b.scutch"])

    def test_a_study_that_was_closed_stays_closed_and_the_last_one_comes_back(self):
        one, two = self.opened("a.scutch"), self.opened("b.scutch")
        one.close()
        settle(8)
        self.assertEqual([Path(each.path).name for each in session()], ["b.scutch"])
        two.close()
        settle(8)
        self.assertEqual([Path(each.path).name for each in session()], ["b.scutch"])

    def test_what_was_open_when_the_program_was_killed_comes_back(self):
        self.opened("a.scutch")
        self.opened("b.scutch")
        self.assertEqual([Path(each.path).name for each in session()], ["a.scutch", "b.scutch"])

    def test_what_is_gone_or_cannot_be_read_is_passed_over(self):
        keep_session([Open(str(self.folder / "gone.scutch")), Open("relative.scutch")])
        self.assertEqual(session(), [])
        (places.state_folder() / "session.json").write_text("[[[")
        self.assertEqual(session(), [])
        self.assertEqual(asked_for((Path("x.csv"),)), [])
        self.assertEqual(asked_for((Path("x.scutch"), Path("y.csv"))), [Path("x.scutch")])


ASKS = "import sys; from pathlib import Path; from PySide6.QtCore import QCoreApplication as A; a = A([]); "
ASKS += "from scutcher.desk.shell.single import hand_over; print(hand_over(Path(sys.argv[1])))"


class Single(WithWindows):
    def asked(self, path):
        """What another program is told."""
        asking = subprocess.Popen([sys.executable, "-c", ASKS, str(path)], stdout=subprocess.PIPE, text=True)
        self.addCleanup(asking.wait)
        self.addCleanup(asking.stdout.close)
        for _ in range(600):
            settle(1)
            if asking.poll() is not None:
                break
            time.sleep(0.05)
        return asking.stdout.read().strip()

    def test_another_program_hands_over_to_the_window_that_has_the_study(self):
        window = self.opened()
        with mock.patch.object(window, "come_forward") as come:
            self.windows._ring_at(window)
            self.assertEqual(self.asked(self.folder / "a.scutch"), "True")
            come.assert_called_once()
        self.assertEqual(self.asked(self.folder / "other.scutch"), "False")
        window.close()
        settle(8)
        self.assertEqual(self.asked(self.folder / "a.scutch"), "False")

    def test_a_study_that_got_a_name_answers_by_it(self):
        window = self.opened()
        window.study.move_to(self.folder / "renamed.scutch")
        settle()
        self.assertEqual(self.asked(self.folder / "renamed.scutch"), "True")
        self.assertEqual(self.asked(self.folder / "a.scutch"), "False")

    def test_without_a_state_folder_nobody_answers_and_nothing_breaks(self):
        blocked = self.folder / "blocked"
        blocked.write_text("a file where the folder should be")
        with mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(blocked)}):
            self.assertFalse(hand_over(self.folder / "a.scutch"))
            self.assertEqual(session(), [])
            window = self.opened("b.scutch")
            self.assertTrue(window.isVisible())
            window.close()
            settle(8)

    def test_a_socket_left_by_a_killed_program_is_no_answer(self):
        Path(place_of(self.folder / "a.scutch")).write_bytes(b"")
        self.assertFalse(hand_over(self.folder / "a.scutch"))
        bell = Doorbell(self.folder / "a.scutch", lambda: None, self.opened("b.scutch"))
        self.assertTrue(bell.rings)
        bell.close()


READS = "import sys, threading; from scutcher.desk.shell import warming as w; before = set(sys.modules); "
READS += "w.warm(); w.warm(); "
READS += "[t.join() for t in threading.enumerate() if t.name == 'warming']; "
READS += "of_qt = [n for n in set(sys.modules) - before if n.startswith(('PySide6', 'pyqtgraph'))]; "
READS += "print(all(name in sys.modules for name in w.LIBRARIES), of_qt)"


class Warming(unittest.TestCase):
    def test_what_pages_need_is_read_behind_and_nothing_of_the_screen(self):
        told = subprocess.run([sys.executable, "-c", READS], capture_output=True, text=True, check=True)
        self.assertEqual(told.stdout.strip(), "True []")


if __name__ == "__main__":
    unittest.main()
