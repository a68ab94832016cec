"""Figures on paper: every kind of file, letters that stay letters, a legend that says which line is which."""

import re
from dataclasses import replace

import numpy as np
from matplotlib.colors import to_rgb
from matplotlib.text import Text

from scutcher.charts.description import Chart, Curve, Lines, Marks
from scutcher.charts.figure import Figure
from scutcher.charts.printing import KINDS, draw, draw_panels, in_three_forms, save_figure, svg_text
from scutcher.core.errors import FileError
from scutcher.core.progress import Stopped
from tests.folder import InFolder

X = np.array([2500.0, 2000.0, 1500.0, 1000.0])
LOADINGS = Chart(
    title="Loadings",
    x_title="wavenumber / cm⁻¹",
    y_title="loading",
    lines=Lines(X, np.arange(8.0).reshape(2, 4), np.arange(2), np.full(2, -1), ("1", "2"), "component"),
)
SCORES = Chart(
    title="Scores",
    x_title="component 1",
    y_title="component 2",
    marks=Marks(np.arange(3.0), np.arange(3.0), np.arange(3), np.array([0, 1, 0]), ("a", "b", "c")),
)


class Printing(InFolder):
    def test_every_kind_begins_as_it_should(self):
        begins = {
            ".svg": b"<?xml",
            ".pdf": b"%PDF",
            ".eps": b"%!PS",
            ".png": b"\x89PNG",
            ".tif": b"II*",
            ".tiff": b"II*",
        }
        for kind in KINDS:
            path = self.folder / f"f{kind}"
            save_figure(LOADINGS, path, Figure(dots=100))
            self.assertTrue(path.read_bytes().startswith(begins[kind]), kind)
        with self.assertRaises(FileError) as caught:
            save_figure(LOADINGS, self.folder / "f.gif", Figure())
        self.assertIn("figures are SVG, PDF, EPS, TIFF or PNG", str(caught.exception))

    def bars(self, p):
        values = np.vstack([np.arange(1.0, p + 1.0), -np.arange(1.0, p + 1.0)])
        lines = Lines(
            np.arange(1.0, p + 1.0),
            values,
            np.arange(2),
            np.full(2, -1),
            ("1", "2"),
            "component",
            values > p - 2,
        )
        names = tuple(f"variable {place}" for place in range(p))
        return draw(Chart("Loadings", lines=lines, bars=True, tick_names=names), Figure(width=150.0))

    def test_of_very_many_variables_some_are_named_and_every_bar_is_drawn(self):
        """What the monkey found: a picture of thousands of them took a minute."""
        (few,), (many,) = self.bars(20).axes, self.bars(400).axes
        self.assertEqual(len(few.get_xticklabels()), 20)
        named = [text.get_text() for text in many.get_xticklabels()]
        self.assertLess(len(named), 40)
        places = [int(name.split()[1]) + 1 for name in named]
        self.assertEqual([int(at) for at in many.get_xticks()], places)
        self.assertEqual(len(few.patches), 40)
        self.assertEqual([len(one.get_paths()) for one in many.collections], [400, 400])
        for axes, p in ((few, 20), (many, 400)):
            low, high = axes.get_ylim()
            self.assertTrue(low <= -p and high >= p)
        tops = [path.vertices[:, 1].max() for path in many.collections[0].get_paths()]
        np.testing.assert_array_equal(tops, np.arange(1.0, 401.0))

    def test_very_many_lines_are_one_drawing_of_the_same(self):
        x, rng = np.arange(5.0), np.random.default_rng(1)
        ys = rng.normal(size=(300, 5))
        ys[7, 2] = np.nan  # a gap breaks its line
        names = tuple(str(place) for place in range(300))

        def axes_of(count):
            lines = Lines(x, ys[:count], np.arange(count), np.arange(count) % 3, names[:count])
            return draw(Chart("Signals", lines=lines), Figure(width=150.0)).axes[0]

        some, many = axes_of(150), axes_of(300)
        self.assertEqual((len(some.lines), len(many.lines)), (150, 0))
        (drawn,) = many.collections
        self.assertEqual(len(drawn.get_segments()), 300)
        for place in (0, 7, 149):
            np.testing.assert_array_equal(drawn.get_paths()[place].vertices[:, 1], ys[place])
            colour = some.lines[place].get_color()
            np.testing.assert_allclose(drawn.get_colors()[place][:3], to_rgb(colour))
        (low, high), (left, right) = many.get_ylim(), many.get_xlim()
        self.assertTrue(low < np.nanmin(ys) < np.nanmax(ys) < high and left < 0.0 and right > 4.0)

    def test_pictures_for_the_clipboard_end_between_two_forms_where_nobody_waits(self):
        asked = []

        def watch(share):
            asked.append(share)
            return share < 0.5

        with self.assertRaises(Stopped):
            in_three_forms(SCORES, Figure(), watch)
        self.assertEqual(asked, [0.25, 0.5])

    def test_letters_stay_letters(self):
        text = svg_text(LOADINGS, Figure())
        self.assertIn("<text", text)
        self.assertIn("wavenumber / cm⁻¹", text)
        save_figure(LOADINGS, self.folder / "f.pdf", Figure())
        pdf = (self.folder / "f.pdf").read_bytes()
        self.assertIn(b"/CIDFontType2", pdf)  # TrueType
        self.assertNotIn(b"/Type3", pdf)

    def test_the_legend_names_components_and_classes(self):
        names = [text.get_text() for text in draw(LOADINGS, Figure()).legends[0].get_texts()]
        self.assertEqual(names, ["1", "2"])
        colours = [line.get_color() for line in draw(LOADINGS, Figure()).legends[0].get_lines()]
        self.assertEqual(len(set(colours)), 2)
        classes = draw(SCORES, Figure(legend=((0, "dew"), (1, "tank")))).legends[0]
        self.assertEqual([text.get_text() for text in classes.get_texts()], ["dew", "tank"])
        self.assertEqual(draw(SCORES, Figure()).legends, [])

    def test_ranges_and_direction(self):
        axes = draw(LOADINGS, Figure(x_range=(1200.0, 2200.0), y_range=(None, 9.0))).axes[0]
        self.assertEqual(axes.get_xlim(), (1200.0, 2200.0))
        self.assertEqual(axes.get_ylim()[1], 9.0)
        left, right = draw(LOADINGS, Figure(reverse=True)).axes[0].get_xlim()
        self.assertGreater(left, right)

    def test_panels_have_letters_and_a_row_for_each_two(self):
        canvas = draw_panels((LOADINGS, SCORES, LOADINGS), Figure(176.0, 60.0))
        self.assertEqual(len(canvas.axes), 3)
        letters = [
            text.get_text() for axes in canvas.axes for text in axes.texts if len(text.get_text()) == 1
        ]
        self.assertEqual(letters, ["a", "b", "c"])
        self.assertAlmostEqual(canvas.get_figheight(), 2 * 60 / 25.4)
        save_figure((LOADINGS, SCORES), self.folder / "p.svg", Figure(176.0, 60.0))
        text = (self.folder / "p.svg").read_text()
        self.assertIn("Loadings", text)
        self.assertIn("Scores", text)

    def test_names_stand_apart(self):
        near = tuple((1.0 + 0.001 * place, 1.0, f"sample {place}") for place in range(6))
        canvas = draw(SCORES, Figure(names=near))
        canvas.canvas.draw()
        named = [text for text in canvas.axes[0].texts if text.get_text().startswith("sample")]
        boxes = [Text.get_window_extent(text) for text in named]  # without the lines that lead to them
        self.assertEqual(len(boxes), 6)
        for place, one in enumerate(boxes):
            for two in boxes[:place]:
                wide = min(one.x1, two.x1) - max(one.x0, two.x0)
                tall = min(one.y1, two.y1) - max(one.y0, two.y0)
                self.assertFalse(wide > 2.0 and tall > 2.0)

    def test_quiet_words_over_others_are_left_out_and_those_over_marks_stand_on_paper(self):
        places = {
            "6.7": (1.0, "quiet"),
            "5.8": (1.01, "quiet"),
            "4.3": (1.9, "quiet"),
            "1.0 SD": (1.0, "ink"),
        }
        curves = tuple(
            Curve(np.array([x]), np.array([1.0]), role, name=name, behind=False)
            for name, (x, role) in places.items()
        )
        axes = draw(replace(SCORES, curves=curves), Figure()).axes[0]
        words = {text.get_text(): text for text in axes.texts}
        self.assertEqual(set(words), {"1.0 SD", "4.3"})
        marks = max(drawn.get_zorder() for drawn in axes.collections)
        for text in words.values():
            self.assertGreater(text.get_zorder(), marks)
            self.assertEqual(to_rgb(text.get_bbox_patch().get_facecolor()), (1.0, 1.0, 1.0))
        self.assertIn(">1.0 SD</text>", svg_text(replace(SCORES, curves=curves), Figure()))  # letters

    def test_names_of_arrows_stand_apart_and_inside(self):
        ends = [(2.0, 0.1), (2.0, 0.12), (1.99, 0.14), (2.0, 0.09), (-0.02, 1.5), (2.02, 0.1)]
        curves = tuple(
            Curve(np.array([0.0, x]), np.array([0.0, y]), "accent", arrow=True, name=f"variable {place}")
            for place, (x, y) in enumerate(ends)
        )
        axes = draw(replace(SCORES, curves=curves), Figure()).axes[0]
        named = [text for text in axes.texts if text.get_text()]
        self.assertEqual(len(named), len(ends))
        boxes, area = [Text.get_window_extent(text) for text in named], axes.get_window_extent()
        for place, box in enumerate(boxes):
            self.assertGreaterEqual(box.x0, area.x0 - 1.0)
            self.assertLessEqual(box.x1, area.x1 + 1.0)
            self.assertFalse(any(box.overlaps(other) for other in boxes[:place]))
        self.assertGreater(len(axes.texts), len(named))  # lines lead to those that stand far off

    def test_the_same_chart_makes_the_same_file(self):
        first, second = (svg_text(LOADINGS, Figure()) for _ in range(2))
        self.assertEqual(first, second)
        self.assertIsNone(re.search(r"<dc:date>", first))
