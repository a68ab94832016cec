"""Damaged studies: what is whole comes back, with history and log; what is lost is named."""

import sqlite3
import unittest

import msgspec
import numpy as np

from scutcher.core.errors import FileError
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study
from scutcher.study.storage.mending import REASON
from scutcher.study.storage.pieces import GRAIN, MARK, marks_of
from scutcher.study.storage.rescue import rescue
from scutcher.study.storage.spare import find_spare
from tests.folder import InFolder

FLIPS = 60


class Damaged(InFolder):
    def setUp(self):
        super().setUp()
        self.path, self.copy = self.folder / "a.scutch", self.folder / "copy.scutch"
        study = demo_study("intake-nir")
        study.keep_in(self.path)
        study.do(KeepComponents(3))
        study.do(SetAside((3, 5), "spilled"))
        study.file.snapshot("before")
        study.do(KeepComponents(2))
        study.undo()
        self.table, self.log = study.state.table, study.file.history.log()
        study.close()
        self.whole = self.path.read_bytes()

    def sql(self, statement, *values):
        link = sqlite3.connect(self.path)
        row = link.execute(statement, values).fetchone()
        link.commit()
        link.close()
        return row

    def plain(self):
        """The state of now as it is written."""
        place = msgspec.json.decode(self.sql("SELECT value FROM meta WHERE key = 'place'")[0])
        return msgspec.json.decode(self.sql("SELECT state FROM revisions WHERE id = ?", place["now"])[0])

    def pieces_of(self, name):
        return msgspec.json.decode(self.sql("SELECT stored FROM arrays WHERE hash = ?", name)[0])["pieces"]

    def spoil(self, name, at=0, count=1):
        """Change bytes of the first piece of an array or list."""
        piece = self.pieces_of(name)[0]
        data = bytearray(self.sql("SELECT data FROM pieces WHERE hash = ?", piece)[0])
        for place in range(at, min(at + count, len(data))):
            data[place] ^= 0x55
        self.sql("UPDATE pieces SET data = ? WHERE hash = ?", bytes(data), piece)

    def rescued(self):
        with self.assertRaises(FileError) as caught:
            Study.open(self.path)
        self.assertIn("escue what is sound", str(caught.exception))
        saved = rescue(self.path, self.copy)
        study = Study.open(self.copy)
        self.addCleanup(study.close)
        return saved, study


class OneByte(Damaged):
    def test_of_many_damages_of_one_byte_nearly_all_come_back_and_what_comes_back_is_true(self):
        rng = np.random.default_rng(3)
        nothing = saved = 0
        for turn in range(FLIPS):
            data = bytearray(self.whole)
            data[int(rng.integers(len(data)))] ^= int(rng.integers(1, 256))
            self.path.write_bytes(bytes(data))
            try:
                Study.open(self.path).close()
                continue
            except FileError:
                copy = self.folder / f"{turn}.scutch"
            try:
                found = rescue(self.path, copy)
            except FileError:
                nothing += 1
                continue
            saved += 1
            table = found.state.table
            kept = [row for row in range(144) if row not in table.set_aside]
            self.assertGreaterEqual(len(kept), 138)
            np.testing.assert_array_equal(table.values[kept], self.table.values[kept])
            self.assertEqual(found.state.recipe.model.components, 3)
            self.assertGreaterEqual(found.log, len(self.log) - 2)
            self.assertGreaterEqual(found.steps, 1)
            copy.unlink()
        self.assertGreater(saved, FLIPS // 2)
        self.assertLessEqual(nothing, 2)


class TheFirstPage(Damaged):
    """It says where the tables begin."""

    def test_every_damage_of_it_is_mended(self):
        rng, refused = np.random.default_rng(5), 0
        for turn in range(40):
            data = bytearray(self.whole)
            places = rng.integers(100), rng.integers(100, 4096), rng.integers(2600, 4096)
            data[int(rng.choice(places))] ^= 0x41
            self.path.write_bytes(bytes(data))
            try:
                Study.open(self.path).close()
            except FileError:
                refused += 1
                found = rescue(self.path, self.folder / f"{turn}.scutch")
                self.assertEqual(found.lost, ())
                self.assertEqual(found.steps, 2)
        self.assertGreater(refused, 10)

    def test_all_of_it_gone(self):
        self.path.write_bytes(bytes(4096) + self.whole[4096:])
        found = rescue(self.path, self.copy)
        self.assertEqual((found.lost, found.log), ((), len(self.log)))
        np.testing.assert_array_equal(found.state.table.values, self.table.values)

    def test_of_a_study_that_was_compacted(self):
        self.sql("VACUUM")
        data = self.path.read_bytes()
        self.path.write_bytes(data[:100] + bytes(3996) + data[4096:])
        self.assertEqual(rescue(self.path, self.copy).lost, ())

    def test_what_is_no_study_is_none_with_another_page_either(self):
        rng = np.random.default_rng(2)
        for length in (0, 50, 511, 4096, 20_000):
            self.path.write_bytes(rng.bytes(length))
            with self.subTest(length), self.assertRaisesRegex(FileError, "sound|database"):
                rescue(self.path, self.copy)
            self.assertFalse(self.copy.exists())


class OneState(InFolder):
    """A study in which nothing was done yet has one state, and that a second time."""

    def test_a_byte_of_it(self):
        path = self.folder / "a.scutch"
        study = demo_study("practice")
        study.keep_in(path)
        values, name = study.state.table.values, study.state.name
        study.close()
        whole = path.read_bytes()
        link = sqlite3.connect(path)
        text = link.execute("SELECT state FROM revisions").fetchone()[0].encode()
        link.close()
        begins = [whole.index(text[:40]), whole.index(text[-40:])]
        for turn, at in enumerate((begins[0] + 3, begins[0] + 30, begins[1] + 20)):
            data = bytearray(whole)
            data[at] ^= 0x81
            path.write_bytes(bytes(data))
            with self.subTest(at), self.assertRaises(FileError):
                Study.open(path)
            found = rescue(path, self.folder / f"{turn}.scutch")
            self.assertEqual((found.lost, found.state.name), ((), name))
            np.testing.assert_array_equal(found.state.table.values, values)


class WhatIsLost(Damaged):
    def test_samples_whose_values_are_lost_are_named_and_set_aside(self):
        values = self.plain()["datasets"][0]["table"]["values"]
        self.spoil(values, at=8 * 700 * 70 + 4)
        saved, study = self.rescued()
        gone = [row for row, why in study.state.table.set_aside.items() if why == REASON]
        self.assertLessEqual(len(gone), 2)
        self.assertIn(70, gone)
        self.assertIn(study.state.table.ids[gone[0]], saved.lost[0])
        self.assertIn("of 144 samples of intake-nir", saved.said())
        self.assertEqual(study.state.table.set_aside[3], "spilled")
        lost = np.isnan(study.state.table.values[gone]).sum()
        self.assertLessEqual(lost - np.isnan(self.table.values[gone]).sum(), GRAIN // 8 + 1)

    def test_history_log_and_snapshots_come_with_it(self):
        self.spoil(self.plain()["datasets"][0]["table"]["values"])
        saved, study = self.rescued()
        self.assertEqual(saved.steps, 2)
        self.assertEqual(study.undo_label, "Set aside " + self.named(3, 5) + ": spilled")
        log = study.file.history.log()
        self.assertEqual(log[:-1], self.log)
        self.assertEqual(log[-1].kind, "rescue")
        self.assertIn("lost: values of", log[-1].what)
        self.assertEqual(study.file.altered, "")  # it bears seals of its own
        self.assertEqual(list(study.file.history.snapshots), ["before"])
        study.undo()
        study.undo()
        self.assertNotIn(3, study.state.table.set_aside)

    def named(self, *rows):
        return ", ".join(self.table.ids[row] for row in rows)

    def test_names_of_samples_and_variables(self):
        table = self.plain()["datasets"][0]["table"]
        self.spoil(table["ids"])
        self.spoil(table["axis"]["labels"])
        saved, study = self.rescued()
        self.assertEqual(study.state.table.ids[:2], ("row 1", "row 2"))
        np.testing.assert_array_equal(study.state.table.axis.positions, self.table.axis.positions)
        self.assertEqual(float(study.state.table.axis.labels[0]), self.table.axis.positions[0])
        self.assertIn("the names of the samples; the names of the variables", saved.said())

    def test_places_on_the_axis_come_back_from_its_labels(self):
        self.spoil(self.plain()["datasets"][0]["table"]["axis"]["positions"])
        _, study = self.rescued()
        np.testing.assert_allclose(study.state.table.axis.positions, self.table.axis.positions)

    def test_class_columns_properties_and_repeats(self):
        table = self.plain()["datasets"][0]["table"]
        self.spoil(table["classes"][1]["values"])
        self.spoil(table["properties"][0]["values"], count=9999)
        self.spoil(table["replicates"])
        saved, study = self.rescued()
        names = [level.name for level in study.state.table.classes]
        self.assertEqual(names, [level.name for level in self.table.classes if level.name != names_of(table)])
        self.assertEqual(len(study.state.table.properties), len(self.table.properties) - 1)
        self.assertIsNone(study.state.table.replicates)
        self.assertIn(f"the class column {names_of(table)}", saved.said())
        self.assertIn("which samples are repeats", saved.said())

    def test_a_name_of_a_piece_that_is_damaged_loses_nothing(self):
        piece = self.pieces_of(self.plain()["datasets"][0]["table"]["values"])[0]
        self.sql("UPDATE pieces SET hash = 'x' || hash WHERE hash = ?", piece)
        saved, study = self.rescued()
        self.assertEqual(saved.lost, ())
        self.assertIn("Everything of it", saved.said())
        np.testing.assert_array_equal(study.state.table.values, self.table.values)

    def test_a_state_that_cannot_be_read_gives_way_to_the_one_before(self):
        now = msgspec.json.decode(self.sql("SELECT value FROM meta WHERE key = 'place'")[0])["now"]
        self.sql("UPDATE revisions SET state = '{' WHERE id = ?", now)
        link = sqlite3.connect(self.path)
        self.assertEqual(find_spare(link).revision, now)
        self.assertIn(3, rescue(self.path, self.copy).state.table.set_aside)  # it is there a second time
        link.execute("UPDATE meta SET value = 'f' || value WHERE key = 'spare'")
        link.commit()
        self.assertIsNone(find_spare(link))
        link.close()
        self.copy.unlink()
        saved, study = self.rescued()
        self.assertEqual(dict(study.state.table.set_aside), {})
        self.assertEqual(saved.state.recipe.model.components, 3)

    def test_nothing_at_all(self):
        values = self.plain()["datasets"][0]["table"]["values"]
        self.sql("DELETE FROM pieces WHERE hash = ?", self.pieces_of(values)[0])
        with self.assertRaisesRegex(FileError, "Nothing in a.scutch is sound"):
            rescue(self.path, self.copy)
        self.assertFalse(self.copy.exists())

    def test_one_table_of_three(self):
        self.path.unlink()
        study = demo_study("three-tables")
        study.keep_in(self.path)
        study.close()
        bench = next(data for data in self.plain()["datasets"] if data["name"] == "bench")
        self.sql("DELETE FROM arrays WHERE hash = ?", bench["table"]["values"])
        saved, again = self.rescued()
        self.assertEqual([data.name for data in again.state.datasets], ["drying-curves", "intake-nir"])
        self.assertEqual(saved.lost, ("the data set bench",))


def names_of(table):
    return table["classes"][1]["name"]


class Marks(unittest.TestCase):
    def test_each_grain_has_its_own(self):
        data = np.random.default_rng(1).bytes(5 * GRAIN + 7)
        marks = marks_of(data)
        self.assertEqual(len(marks), 6 * MARK)
        changed = bytearray(data)
        changed[3 * GRAIN + 2] ^= 1
        other = marks_of(bytes(changed))
        differ = [place for place in range(6) if marks[place * MARK :][:MARK] != other[place * MARK :][:MARK]]
        self.assertEqual(differ, [3])


if __name__ == "__main__":
    unittest.main()
