"""The class colours can be told apart, under normal and deficient colour vision."""

import ast
import itertools
import threading
import unittest
from pathlib import Path

import numpy as np

import scutcher
from scutcher.charts import colours, palettes

SOURCE = Path(scutcher.__file__).parent

# Machado, Oliveira & Fernandes, IEEE Trans. Vis. Comput. Graph. 15 (2009) 1291–1298, severity 1.0
DEFICIENT = {
    "protan": "0.152286 1.052583 -0.204868 0.114503 0.786281 0.099216 -0.003882 -0.048116 1.051998",
    "deutan": "0.367322 0.860646 -0.227968 0.280085 0.672501 0.047413 -0.011820 0.042940 0.968881",
    "tritan": "1.255528 -0.076749 -0.178779 -0.078411 0.930809 0.147602 0.004733 0.691367 0.303900",
}
TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
WHITE = np.array([0.95047, 1.0, 1.08883])


def linear(colour):
    c = np.array(colours.rgb(colour)) / 255.0
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def lab(light):
    ratio = TO_XYZ @ np.clip(light, 0.0, 1.0) / WHITE
    f = np.where(ratio > 216 / 24389, np.cbrt(ratio), (24389 / 27 * ratio + 16) / 116)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


EYES = {
    "normal": np.eye(3),
    **{name: np.array(matrix.split(), dtype=float).reshape(3, 3) for name, matrix in DEFICIENT.items()},
}


def luminance(colour):
    return float(TO_XYZ[1] @ linear(colour))


def contrast(one, other):
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


class EveryGround(unittest.TestCase):
    """Light, dark and high contrast."""

    def each(self):
        self.addCleanup(palettes.choose, "light")
        for name, palette in palettes.PALETTES.items():
            palettes.choose(name)
            with self.subTest(name):
                yield name, palette

    def test_every_two_classes_are_apart_for_every_eye(self):
        for _, palette in self.each():
            for eye in EYES.values():
                seen = [lab(eye @ linear(colour)) for colour in colours.CLASS_COLOURS]
                nearest = min(np.linalg.norm(a - b) for a, b in itertools.combinations(seen, 2))
                self.assertGreater(nearest, 27.0)
                paper = lab(eye @ linear(palette.paper))
                self.assertGreater(min(np.linalg.norm(one - paper) for one in seen), 25.0)

    def test_groups_of_variables_are_apart_from_each_other_and_from_classes(self):
        for name, _ in self.each():
            seen = [lab(linear(colour)) for colour in (*colours.GROUP_COLOURS, colours.PAPER)]
            least = 12.0 if name != "dark" else 9.0
            self.assertGreater(min(np.linalg.norm(a - b) for a, b in itertools.combinations(seen, 2)), least)
            classes = [lab(linear(colour)) for colour in colours.CLASS_COLOURS]
            self.assertGreater(min(np.linalg.norm(a - b) for a in seen for b in classes), 25.0)

    def test_text_stands_out_from_the_ground(self):
        for name, palette in self.each():
            least = 7.0 if name == "contrast" else 3.9
            for text in (palette.ink, palette.muted, palette.accent, palette.alarm):
                for ground in (palette.linen, palette.paper, palette.chip):
                    self.assertGreater(contrast(text, ground), min(least, 6.5), (text, ground))
            self.assertGreater(contrast(palette.ink, palette.paper), 12.0)
            self.assertGreater(contrast(palette.paper, palette.accent), 4.5)  # words on a button

    def test_maps_begin_at_the_ground_and_never_turn_back(self):
        for _, palette in self.each():
            shades = [luminance("#{:02X}{:02X}{:02X}".format(*one)) for one in colours.unsigned_map(32)]
            steps = np.diff(shades)
            self.assertTrue((steps > 0).all() or (steps < 0).all())
            self.assertEqual(colours.unsigned_map()[0], colours.rgb(palette.paper))
            middle = colours.signed_map(255)[127]
            self.assertEqual(middle, colours.rgb(palette.paper))

    def test_paper_is_light_whatever_the_screen_looks_like(self):
        palettes.choose("dark")
        self.addCleanup(palettes.choose, "light")
        self.assertEqual(colours.INK, palettes.DARK.ink)
        seen = []
        with palettes.on_paper():
            self.assertEqual((colours.INK, colours.class_colour(0)), (palettes.LIGHT.ink, "#1B1E6E"))
            other = threading.Thread(target=lambda: seen.append(colours.INK))
            other.start()
            other.join()
        self.assertEqual(seen, [palettes.DARK.ink])  # only in the thread that draws on paper
        self.assertEqual(colours.INK, palettes.DARK.ink)
        with self.assertRaises(AttributeError):
            _ = colours.MAUVE

    def test_shape_and_colour_together_are_unique_for_many_classes(self):
        for _ in self.each():
            looks = {(colours.class_colour(code), colours.class_shape(code)) for code in range(24)}
            self.assertEqual(len(looks), 24)


class KeptNowhere(unittest.TestCase):
    def test_no_module_keeps_a_colour_from_when_it_was_read(self):
        """A constant made of `colours.INK` would stay light on a dark ground."""
        found = []
        for path in sorted(SOURCE.rglob("*.py")):
            for node in ast.parse(path.read_text()).body:
                if isinstance(node, ast.Assign | ast.AnnAssign):
                    for part in ast.walk(node):
                        is_colour = isinstance(part, ast.Attribute) and part.attr.isupper()
                        of_ours = is_colour and getattr(part.value, "id", "") == "colours"
                        if of_ours and part.attr not in ("CONTINUOUS", "STEPS", "CLASS_SHAPES"):
                            found.append(f"{path.name}:{node.lineno}")
                if isinstance(node, ast.ImportFrom) and node.module == "scutcher.charts.colours":
                    kept = [alias.name for alias in node.names if alias.name.isupper()]
                    found += [path.name for name in kept if name not in ("CONTINUOUS", "STEPS")]
        self.assertEqual(found, [])


if __name__ == "__main__":
    unittest.main()
