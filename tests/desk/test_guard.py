"""What cannot be drawn is marked and reported once; the window lives on."""

import ast
import sys
import unittest
from pathlib import Path
from unittest import mock

import scutcher.desk
from scutcher.charts import colours
from scutcher.desk.painting import marks_item
from scutcher.desk.widgets.ladder import LadderBars
from tests.desk.driving import WindowCase, pixels, settle

PAINTERS = {"paintEvent", "paint", "drawForeground", "drawBackground"}


def is_coloured(picture, colour: str) -> bool:
    """Whether a picture has a pixel close to a colour."""
    wanted = [int(colour[k : k + 2], 16) for k in (1, 3, 5)]
    return bool((abs(picture[:, :, :3].astype(int) - wanted).max(axis=2) < 12).any())


class EveryPainter(unittest.TestCase):
    def test_is_guarded(self):
        found = 0
        for path in Path(scutcher.desk.__file__).parent.rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.FunctionDef) and node.name in PAINTERS:
                    found += 1
                    with self.subTest(f"{path.name} {node.name}"):
                        self.assertIn("guarded", [ast.unparse(one) for one in node.decorator_list])
        self.assertGreater(found, 20)


class Guarded(WindowCase):
    def setUp(self):
        super().setUp()
        self.told = []
        hook = mock.patch.object(sys, "excepthook", lambda kind, error, trace: self.told.append(error))
        hook.start()
        self.addCleanup(hook.stop)

    def test_a_widget_is_marked_and_comes_back(self):
        bars = self.window.bottom.bars
        before = pixels(bars)
        self.assertFalse(is_coloured(before, colours.ALARM))
        with mock.patch.object(LadderBars, "_paint_box", side_effect=ZeroDivisionError("boxes")):
            for _ in range(3):
                broken = pixels(bars)
                bars.repaint()
                settle()
        self.assertEqual([str(error) for error in self.told], ["boxes"])
        self.assertTrue(is_coloured(broken, colours.ALARM))
        self.told.clear()
        self.assertTrue((pixels(bars) == before).all())
        self.assertEqual(self.told, [])

    def test_an_item_of_a_plot_is_left_out_and_the_rest_stands(self):
        plane = self.page.scores_view
        before = pixels(plane)
        with mock.patch.object(marks_item, "put_sprites", side_effect=ValueError("sprites")):
            plane.viewport().repaint()
            broken = pixels(plane)
            plane.viewport().repaint()
        self.assertEqual({str(error) for error in self.told}, {"sprites"})
        self.assertLessEqual(len(self.told), 2)  # once for the marks, once for those of new samples
        left = plane.left_axis.width()
        self.assertTrue((broken[:, : int(left) - 4] == before[:, : int(left) - 4]).all())
        self.assertGreater((broken != before).sum(), 100)
        plane.viewport().repaint()
        self.assertTrue((pixels(plane) == before).all())

    def test_nobody_stays_at_work_on_a_widget(self):
        bars = self.window.bottom.bars
        kept = []  # an error whose frames live on keeps their painters

        def fails(self, painter, *given):
            kept.append(painter)
            raise OSError("held")

        with mock.patch.object(LadderBars, "_paint_box", fails):
            pixels(bars)
        self.assertEqual([painter.isActive() for painter in kept], [False] * len(kept))
        self.assertTrue(kept)


if __name__ == "__main__":
    unittest.main()
