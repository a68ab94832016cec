"""A band of many corners looks as the library draws it, and is drawn once while nothing changes."""

import unittest
from unittest import mock

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QGraphicsPathItem, QGraphicsScene, QGraphicsView

from scutcher.desk.painting.kept_path import MANY, KeptPath
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.shell.start import application


def band(corners):
    """A rugged band over 0 to 100, 1 high and more."""
    x = np.linspace(0.0, 100.0, corners // 2)
    low = np.random.default_rng(3).normal(size=len(x))
    return pg.arrayToQPath(np.r_[x, x[::-1]], np.r_[low, low[::-1] + 1.5])


def pixels(image):
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    return (
        np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)[:, :, :3].copy()
    )


class KeptPaths(unittest.TestCase):
    def setUp(self):
        application()
        self.drawn = 0

        def paint(item, *of):
            self.drawn += 1
            return real(item, *of)

        real = QGraphicsPathItem.paint
        counting = mock.patch.object(QGraphicsPathItem, "paint", paint)
        counting.start()
        self.addCleanup(counting.stop)

    def view(self, kind, corners=2 * MANY):
        scene = QGraphicsScene()
        item = kind(band(corners))
        item.setBrush(QColor("#d08040"))
        item.setPen(Qt.PenStyle.NoPen)
        scene.addItem(item)
        view = QGraphicsView(scene)
        view.setRenderHint(QPainter.RenderHint.Antialiasing)
        view.resize(300, 120)
        view.fitInView(QRectF(0.0, -4.0, 100.0, 9.0))
        self.addCleanup(view.deleteLater)
        view.scene_kept = scene
        return view, item

    def seen(self, view):
        return pixels(view.grab().toImage())

    def test_it_looks_as_the_library_draws_it(self):
        (kept, _), (plain, _) = self.view(KeptPath), self.view(QGraphicsPathItem)
        for change in (
            lambda view: None,
            lambda view: view.fitInView(QRectF(40.0, -4.0, 1.0, 9.0)),  # far in
            lambda view: view.resize(420, 90),
            lambda view: view.scene().items()[0].setBrush(QColor("#204060")),
        ):
            change(kept), change(plain)
            for _ in range(2):
                ours, wanted = self.seen(kept), self.seen(plain)
                self.assertGreater(len(np.unique(wanted.reshape(-1, 3), axis=0)), 2)
                self.assertLessEqual(int(np.abs(ours.astype(int) - wanted).max()), 2)

    def test_it_is_drawn_once(self):
        view, item = self.view(KeptPath)
        for _ in range(4):
            self.seen(view)
        self.assertEqual(self.drawn, 1)
        view.translate(3.0, 0.0)
        self.seen(view)
        self.assertEqual(self.drawn, 2)
        self.assertLessEqual(item._picture.width(), view.width())

    def test_few_corners_and_paper_are_drawn_as_they_are(self):
        view, item = self.view(KeptPath, 40)
        self.seen(view), self.seen(view)
        self.assertEqual(self.drawn, 2)
        view, item = self.view(KeptPath)
        large = QImage(1200, 480, QImage.Format.Format_RGB32)
        large.fill(Qt.GlobalColor.white)
        painter = QPainter(large)
        view.render(painter)
        view.scene().render(painter)
        painter.end()
        self.assertIsNone(item._of)
        self.assertLess(int(pixels(large)[:, 900:].min()), 255)


if __name__ == "__main__":
    unittest.main()
