"""The form of every treatment: an editor for each parameter, and what is typed, slid or chosen arrives."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QLabel, QLineEdit

from scutcher.core.data.regions import regions_text
from scutcher.core.treatments import all_treatments, treatment
from scutcher.core.treatments.base import fields_of
from scutcher.demo.sets import demo_set
from scutcher.desk.shell.start import application
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.parameter_form import ParameterForm, _Scale, parsed_regions


class FormCase(unittest.TestCase):
    def setUp(self):
        application()
        self.table = demo_set("intake-nir")[0]

    def form(self, key):
        form = ParameterForm(treatment(key).parameters(), self.table)
        self.addCleanup(form.deleteLater)
        form.show()
        QApplication.processEvents()
        self.changed, self.changing, self.refused = [], [], []
        form.changed.connect(self.changed.append)
        form.changing.connect(self.changing.append)
        form.refused.connect(self.refused.append)
        return form

    def type(self, edit, text):
        edit.setFocus()
        edit.selectAll()
        QTest.keyClicks(edit, text)
        QTest.keyClick(edit, Qt.Key.Key_Return)


class EveryTreatment(FormCase):
    def test_there_is_an_editor_for_each_parameter_and_it_shows_the_default(self):
        for key in all_treatments():
            with self.subTest(key):
                form = self.form(key)
                fields = fields_of(type(form.parameters))
                self.assertEqual(set(form.editors), {field.name for field in fields})
                for field in fields:
                    self.shows(form.editors[field.name], getattr(form.parameters, field.name), field)

    def shows(self, editor, value, field):
        if isinstance(editor, QCheckBox):
            self.assertEqual(editor.isChecked(), value)
        elif isinstance(editor, Combo):
            words = str(value).replace("-", " ") if field.kind == "choice" else str(value)
            self.assertEqual(editor.currentText(), words or "first")
        elif field.kind == "regions":
            shown = ", ".join(value) if field.of == "sample" else regions_text(value)
            self.assertEqual(editor.text(), shown)
        else:
            self.assertAlmostEqual(float(editor.text()), value, delta=1e-5 * abs(value))

    def test_sliders_reach_their_ends_and_come_back_to_their_place(self):
        for key in all_treatments():
            for field in fields_of(treatment(key).parameters):
                scale = _Scale(field) if field.kind in ("int", "float") else None
                if scale is None or not scale.steps:
                    continue
                with self.subTest(treatment=key, field=field.name):
                    low, high = scale.value(0), scale.value(scale.steps)
                    self.assertAlmostEqual(low, scale.low, delta=1e-3 * abs(scale.low))
                    self.assertLessEqual(abs(high - scale.high), max(1.0, 1e-3 * abs(scale.high)))
                    for place in range(0, scale.steps + 1, max(scale.steps // 7, 1)):
                        self.assertLessEqual(abs(scale.place(scale.value(place)) - place), 1)

    def test_help_and_units_are_there(self):
        form = self.form("shift-to-peak")
        words = {label.text() for label in form.findChildren(QLabel)}
        self.assertIn("largest shift", words)
        for editor in form.editors.values():
            self.assertGreater(len(editor.toolTip()), 10)


class ByHand(FormCase):
    def test_a_number_is_typed_also_with_a_comma(self):
        form = self.form("asymmetric-least-squares")
        self.type(form.editors["asymmetry"], "0,02")
        self.assertEqual(self.changed[-1].asymmetry, 0.02)
        self.type(form.editors["asymmetry"], "a lot")
        self.assertEqual(self.refused, ["'a lot' is not a number."])
        self.assertEqual(form.editors["asymmetry"].text(), "0.02")
        self.type(form.editors["asymmetry"], "7")
        self.assertEqual(len(self.refused), 2)
        self.assertEqual(form.parameters.asymmetry, 0.02)

    def test_a_slider_tells_while_it_is_held_and_when_it_is_let_go(self):
        form = self.form("savitzky-golay")
        slider = form.sliders["window"]
        slider.setSliderDown(True)
        slider.setValue(slider.value() + 2)
        slider.setValue(slider.value() + 2)
        self.assertEqual((len(self.changing), self.changed), (2, []))
        slider.setSliderDown(False)
        self.assertEqual(len(self.changed), 1)
        self.assertEqual(self.changed[0].window, self.changing[-1].window)
        self.assertEqual(self.changed[0].window % 2, 1)  # an odd number of channels
        self.assertEqual(form.editors["window"].text(), str(self.changed[0].window))

    def test_a_choice_and_a_switch(self):
        for key in all_treatments():
            form = self.form(key)
            for field in fields_of(type(form.parameters)):
                editor = form.editors[field.name]
                if field.kind == "choice":
                    with self.subTest(treatment=key, field=field.name):
                        other = (editor.currentIndex() + 1) % editor.count()
                        editor.activated.emit(other)
                        self.assertTrue(self.changed or self.refused)
                        if self.changed:
                            self.assertEqual(getattr(self.changed[-1], field.name), field.choices[other])
                elif field.kind == "bool":
                    with self.subTest(treatment=key, field=field.name):
                        before = editor.isChecked()
                        editor.click()
                        self.assertEqual(getattr(self.changed[-1], field.name), not before)

    def test_names_of_these_data_can_be_chosen(self):
        seen = set()
        for key in all_treatments():
            form = self.form(key)
            for field in fields_of(type(form.parameters)):
                editor = form.editors[field.name]
                if field.of and isinstance(editor, Combo):
                    names = {editor.itemText(place) for place in range(editor.count())}
                    wanted = {
                        "class column": {column.name for column in self.table.classes},
                        "class": set(self.table.classes[0].levels),
                        "property": {column.name for column in self.table.properties},
                        "sample": set(self.table.ids[:3]),
                    }[field.of]
                    self.assertLessEqual(wanted, names, (key, field.name))
                    seen.add(field.of)
        self.assertLessEqual({"class column", "sample"}, seen)

    def test_the_name_of_a_sample_is_typed(self):
        form = self.form("shift-by-correlation")
        box = form.editors["sample"]
        self.type(box.lineEdit(), "L07-2")
        self.assertEqual(self.changed[-1].sample, "L07-2")
        self.type(box.lineEdit(), "L99-9")
        self.assertEqual(self.refused, ["There is no sample 'L99-9' in these data."])
        self.assertEqual((box.currentText(), form.parameters.sample), ("L07-2", "L07-2"))
        self.type(box.lineEdit(), "first")
        self.assertEqual(form.parameters.sample, "")

    def test_regions_are_typed_and_bad_ones_are_said(self):
        key = next(
            key
            for key in all_treatments()
            for field in fields_of(treatment(key).parameters)
            if field.kind == "regions" and field.of != "sample"
        )
        form = self.form(key)
        name = next(field.name for field in fields_of(type(form.parameters)) if field.kind == "regions")
        edit = form.editors[name]
        self.assertIsInstance(edit, QLineEdit)
        self.type(edit, "1200 - 1300, 1500-1600.5 nm")
        self.assertEqual(getattr(self.changed[-1], name), ((1200.0, 1300.0), (1500.0, 1600.5)))
        self.type(edit, "here and there")
        self.assertIn("'here and there' is not a list of regions", self.refused[-1])

    def test_a_list_of_samples_is_typed(self):
        form = self.form("extended-msc")
        name = next(field.name for field in fields_of(type(form.parameters)) if field.kind == "regions")
        self.type(form.editors[name], "L01-1, L02-2")
        self.assertEqual(getattr(self.changed[-1], name), ("L01-1", "L02-2"))


class Regions(unittest.TestCase):
    def test_what_is_read(self):
        self.assertEqual(parsed_regions(""), ())
        self.assertEqual(parsed_regions("1100–1880, 1960-2500"), ((1100.0, 1880.0), (1960.0, 2500.0)))
        self.assertEqual(parsed_regions("-5.5 — .5; 1 - 2"), ((-5.5, 0.5), (1.0, 2.0)))
        self.assertEqual(parsed_regions("1100,5–1880; 1960-2500,25"), ((1100.5, 1880.0), (1960.0, 2500.25)))
        for text in ("1..2-3", "1-2-3", "x", "5", "1.2.3-4", "–"):
            self.assertIsNone(parsed_regions(text), text)


if __name__ == "__main__":
    unittest.main()
