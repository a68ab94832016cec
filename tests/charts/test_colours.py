"""The class colours can be told apart, under normal and deficient colour vision."""

import itertools
import unittest

import numpy as np

from scutcher.charts import colours

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


class ClassColours(unittest.TestCase):
    def test_every_two_are_apart_for_every_eye(self):
        eyes = {
            "normal": np.eye(3),
            **{n: np.array(m.split(), dtype=float).reshape(3, 3) for n, m in DEFICIENT.items()},
        }
        for name, eye in eyes.items():
            seen = [lab(eye @ linear(colour)) for colour in colours.CLASS_COLOURS]
            nearest = min(np.linalg.norm(a - b) for a, b in itertools.combinations(seen, 2))
            with self.subTest(name):
                self.assertGreater(nearest, 27.0)

    def test_groups_of_variables_are_apart_from_each_other_and_from_classes(self):
        seen = [lab(linear(colour)) for colour in (*colours.GROUP_COLOURS, colours.PAPER)]
        self.assertGreater(min(np.linalg.norm(a - b) for a, b in itertools.combinations(seen, 2)), 12.0)
        classes = [lab(linear(colour)) for colour in colours.CLASS_COLOURS]
        self.assertGreater(min(np.linalg.norm(a - b) for a in seen for b in classes), 30.0)

    def test_text_stands_out_from_the_ground(self):
        def luminance(colour):
            return float(TO_XYZ[1] @ linear(colour))

        for text in (colours.INK, colours.MUTED, colours.ACCENT, colours.ALARM):
            for ground in (colours.LINEN, colours.PAPER, colours.CHIP):
                contrast = (luminance(ground) + 0.05) / (luminance(text) + 0.05)
                with self.subTest(text=text, ground=ground):
                    self.assertGreater(contrast, 3.9)

    def test_shape_and_colour_together_are_unique_for_many_classes(self):
        looks = {(colours.class_colour(code), colours.class_shape(code)) for code in range(24)}
        self.assertEqual(len(looks), 24)
