"""Hostile studies: every value of a state in the place of something else; refused in a sentence, or sound."""

import copy
import json
import sqlite3
import unittest
from contextlib import closing, suppress

import numpy as np

from scutcher.core.errors import FileError, InputError
from scutcher.desk.shell.beginning import demo_study
from scutcher.study.document.commands.report import ReportBy
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.commands.shelf import PutBy
from scutcher.study.document.report_settings import ReportSettings, SectionSettings
from scutcher.study.document.study import Study
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.shelved_model import reached
from scutcher.study.storage.plain_state import state_from_plain
from scutcher.study.storage.study_file import StudyFile
from tests.folder import InFolder

GONE = object()
HOSTILE = (
    None, -1, 2**63, 2**70, 1e308, float("nan"), "", "xxxxx", "٣", [], {}, [[]], [1], {"a": 1}, True,
    [["a", "b"]], [[0, "x"]], [[10**9, "x"]], [[[[[[]]]]]], "x" * 100_000, GONE,
)  # fmt: skip


def places(value, at=()):
    """The way to every value."""
    if at:
        yield at
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, own in inner:
        yield from places(own, (*at, key))


def with_other(plain, place, value):
    """A copy with another value at one place."""
    made = copy.deepcopy(plain)
    holder = made
    for key in place[:-1]:
        holder = holder[key]
    if value is GONE:
        del holder[place[-1]]
    else:
        holder[place[-1]] = value
    return made


class States(InFolder):
    def setUp(self):
        super().setUp()
        state = demo_study("practice").state
        self.path = self.folder / "s.scutch"
        study = Study(state, StudyFile.create(self.path, state))
        study.do(SetAside((3,), "wet"))
        found = Evaluator().evaluate(study.state.table, study.state.recipe)
        codes = np.zeros(found.scaled.shape[0], dtype=np.intp)
        study.do(PutBy("m", reached(found, codes, None), found.recipe))
        study.do(ReportBy(ReportSettings(title="T", sections=(SectionSettings("recipe", remark="r"),))))
        self.file = study.file
        self.addCleanup(self.file.close)
        row = self.file.history.one(
            "SELECT state FROM revisions WHERE id = ?", (self.file.history.place.now,)
        )
        self.plain = json.loads(row[0])

    def outcome(self, plain):
        """The state that comes of it, where it is not refused in a sentence."""
        try:
            return state_from_plain(plain, self.file.arrays.content)
        except FileError as error:
            self.assertTrue(error.problem and error.remedy)
            return None

    def test_every_value_in_the_place_of_something_else(self):
        evaluator, accepted = Evaluator(), 0
        for place in places(self.plain):
            for value in HOSTILE:
                with self.subTest(place=".".join(map(str, place)), value=str(value)[:20]):
                    state = self.outcome(with_other(self.plain, place, value))
                    if state is None:
                        continue
                    accepted += 1
                    with suppress(InputError):  # what is accepted can be worked with, or says why not
                        evaluator.evaluate(state.table, state.recipe, lenient=True)
        self.assertGreater(accepted, 50)

    def test_every_array_and_list_in_the_place_of_another(self):
        strange = (
            np.full(200, np.nan),
            np.full(200, np.inf),
            np.ones((2, 2)),
            np.ones((2, 2, 2)),
            np.empty(0),
        )
        with self.file.transaction():
            hashes = {self.file.arrays.put_array(one) for one in strange}
        hashes |= {name for (name,) in self.file.history.all("SELECT hash FROM arrays")}
        accepted = 0
        for place in places(self.plain):
            value = self.plain
            for key in place:
                value = value[key]
            if not isinstance(value, str) or value not in hashes:
                continue
            for other in hashes - {value}:
                state = self.outcome(with_other(self.plain, place, other))
                accepted += state is not None
                if state is not None:
                    table = state.table
                    self.assertTrue(all(isinstance(label, str) for label in table.axis.labels))
                    self.assertTrue(np.isfinite(table.axis.places()).all())
                    self.assertEqual(table.axis.places().shape, (table.shape[1],))
                    Evaluator(keeps=False).evaluate(table, state.recipe, lenient=True)
        self.assertLess(accepted, 12)  # names in the place of other names

    def test_places_of_the_history_that_are_none(self):
        now = self.file.history.place.now
        self.file.close()
        million = ",".join(["1"] * 200_000)
        places = (
            ("", -1),
            ("1", 10**20),
            ('"a"', 1),
            (million, now),
            (str(2**63), now),
            (str(now + 50), now),
        )
        for undo, at in places:
            self.opened_or_refused(f'{{"undo":[{undo}],"now":{at},"redo":[]}}')
        for text in ("{}", "[]", "null", "", "[" * 50_000):
            self.opened_or_refused(text)

    def opened_or_refused(self, text):
        """A study whose place in its history is written so: in a sentence, or one that can be undone."""
        with self.subTest(text[:40]), closing(sqlite3.connect(self.path)) as link:
            link.execute("UPDATE meta SET value = ? WHERE key = 'place'", (text,))
            link.commit()
        try:
            file = StudyFile.open(self.path)
        except FileError as error:
            self.assertTrue(error.problem and error.remedy)
            return
        try:
            Study(file.state(file.history.place.now), file).undo()
        except FileError as error:
            self.assertTrue(error.problem)
        finally:
            file.close()


if __name__ == "__main__":
    unittest.main()
