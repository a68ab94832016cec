"""The study file: what is kept, how it comes back, and every fault that must not lose anything."""

import os
import resource
import sqlite3
import unittest
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np

from scutcher.core.errors import FileError
from scutcher.core.recipes.recipe import Recipe, Step
from scutcher.core.treatments.snv import SnvParameters
from scutcher.study.document.commands.classes import AssignClass
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.storage.pieces import array_content
from scutcher.study.storage.plain_state import state_to_plain
from scutcher.study.storage.rescue import rescue
from scutcher.study.storage.study_file import StudyFile
from tests.core.making import classes_of, mixed_table, moisture_of, ordered_table, random_spectra
from tests.folder import InFolder


def some_state() -> State:
    values = random_spectra(8, 10)
    values[2, 3] = np.nan
    table = ordered_table(
        values,
        classes=(classes_of(8),),
        properties=(moisture_of(8),),
        replicates=tuple("aabbccdd"),
        set_aside={1: "wet"},
        left_out={4: "dead"},
        signal="absorbance",
    )
    return State.of("lots", table, Recipe(treat=(Step("snv", SnvParameters()),)), "kind")


def plain_of(state: State) -> bytes:
    """A state as bytes that are equal where the states are."""
    return msgspec.json.encode(
        state_to_plain(state, lambda a: array_content(a).stored.hash, lambda t: "|".join(t))
    )


class WithStudy(InFolder):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "s.scutch"

    def started(self, state: State | None = None) -> Study:
        study = Study(state or some_state())
        study.keep_in(self.path)
        self.addCleanup(study.close)
        return study

    def reopened(self) -> Study:
        study = Study.open(self.path)
        self.addCleanup(study.close)
        return study

    def words(self, call, *arguments) -> str:
        with self.assertRaises(FileError) as caught:
            call(*arguments)
        return str(caught.exception)


class Keeping(WithStudy):
    def test_every_part_of_a_state_comes_back(self):
        for state in (some_state(), State.of("m", mixed_table(random_spectra(4, 3)), Recipe(), ""), State()):
            self.path.unlink(missing_ok=True)
            study = self.started(state)
            study.close()
            again = self.reopened()
            self.assertEqual(plain_of(again.state), plain_of(state))
            again.close()

    def test_undo_and_redo_reach_back_across_sessions(self):
        study = self.started()
        states = [study.state]
        for command in (KeepComponents(2), SetAside((3,), "spilled"), AssignClass("kind", (0,), "z")):
            study.do(command)
            states.append(study.state)
        study.undo()
        study.close()
        study = self.reopened()
        self.assertEqual((study.undo_label, study.redo_label), ("Set aside s4: spilled", "Tag s1 as kind z"))
        study.redo()
        self.assertEqual(plain_of(study.state), plain_of(states[3]))
        for state in reversed(states[:3]):
            study.undo()
            self.assertEqual(plain_of(study.state), plain_of(state))
            study.close()
            study = self.reopened()
        self.assertIsNone(study.undo_label)
        self.assertEqual(study.redo_label, "Keep 2 components")

    def test_an_array_is_stored_once_and_shared_by_states(self):
        study = self.started(State.of("lots", ordered_table(random_spectra(200, 300))))
        size = self.path.stat().st_size
        for row in range(10):
            study.do(SetAside((row,), "x"))
        self.assertLess(self.path.stat().st_size, size + 200_000)
        study.close()
        study = self.reopened()
        values = study.state.table.values
        study.undo()
        self.assertIs(study.state.table.values, values)

    def test_the_log_says_who_what_why(self):
        study = self.started()
        study.do(SetAside((3,), "spilled"))
        study.undo()
        log = study.file.history.log()
        self.assertEqual([entry.kind for entry in log], ["start", "do", "undo"])
        self.assertEqual(log[1].why, "spilled")
        self.assertTrue(all(entry.who and entry.at.startswith("20") for entry in log))

    def test_snapshots(self):
        study = self.started()
        study.do(KeepComponents(3))
        study.file.snapshot("before the audit")
        study.do(KeepComponents(2))
        revision = study.file.history.snapshots["before the audit"]
        self.assertEqual(study.file.state(revision).recipe.model.components, 3)
        self.assertIn("There is a snapshot", self.words(study.file.snapshot, "before the audit"))

    def test_save_a_copy(self):
        study = self.started()
        study.do(KeepComponents(3))
        copy = self.folder / "copy.scutch"
        study.file.save_copy(copy)
        study.do(KeepComponents(2))
        other = Study.open(copy)
        self.addCleanup(other.close)
        self.assertEqual(other.state.recipe.model.components, 3)
        self.assertEqual(other.undo_label, "Keep 3 components")
        self.assertIn("is the study itself", self.words(study.file.save_copy, self.path))
        self.assertEqual([path.name for path in self.folder.iterdir() if "part" in path.name], [])


class Faults(WithStudy):
    def test_killed_at_200_random_moments(self):
        rng = np.random.default_rng(12)
        for trial in range(200):
            self.path.unlink(missing_ok=True)
            study = Study(some_state())
            study.keep_in(self.path)
            study.close()
            said, says = os.pipe()
            child = os.fork()
            if child == 0:
                os.close(said)
                _session(self.path, says)
            os.close(says)
            _wait(float(rng.uniform(0.0, 0.05)))
            os.kill(child, 9)
            os.waitpid(child, 0)
            with os.fdopen(said, "rb") as stream:
                finished = len(stream.read())
            study = Study.open(self.path)
            found = study.state.recipe.model.components or 0
            # the one in hand may have been committed before it could be said
            self.assertIn(found - finished, (0, 1), f"trial {trial}: {finished} said, {found} found")
            self.assertEqual(len(study._undo), found)
            study.close()

    def test_disk_full(self):
        study = self.started()
        study.do(KeepComponents(2))
        before = study.state
        pages = study.file._link.execute("PRAGMA page_count").fetchone()[0]
        study.file._link.execute(f"PRAGMA max_page_count={pages}")
        bigger = replace(some_state().table, values=random_spectra(8, 10, seed=9))
        words = self.words(study.do, _Replace(bigger, 4000))
        self.assertEqual(
            words, "The disk is full: s.scutch could not be written. Make room; nothing was changed."
        )
        self.assertIs(study.state, before)
        study.file._link.execute("PRAGMA max_page_count=1000000")
        study.do(KeepComponents(3))
        study.close()
        self.assertEqual(self.reopened().state.recipe.model.components, 3)

    def test_the_system_refuses_to_write_more(self):
        study = self.started()
        limit = self.path.stat().st_size
        soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
        self.addCleanup(resource.setrlimit, resource.RLIMIT_FSIZE, (soft, hard))
        import signal

        old = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        self.addCleanup(signal.signal, signal.SIGXFSZ, old)
        resource.setrlimit(resource.RLIMIT_FSIZE, (limit, hard))
        before = study.state
        words = self.words(study.do, _Replace(some_state().table, 4000))
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
        self.assertIn("nothing was changed", words)
        self.assertIs(study.state, before)
        study.do(KeepComponents(3))
        study.close()
        self.assertEqual(self.reopened().state.recipe.model.components, 3)

    def test_opened_twice(self):
        first = self.started()
        second = self.reopened()
        self.assertEqual(second.file.read_only_reason, "s.scutch is open in another window")
        self.assertEqual(
            self.words(second.do, KeepComponents(2)),
            "s.scutch is open in another window, so nothing can be changed here. "
            "Save a copy and go on in that.",
        )
        first.do(KeepComponents(2))
        second.close()
        first.close()
        self.assertEqual(self.reopened().file.read_only_reason, "")

    def test_read_only_file(self):
        self.started().close()
        self.path.chmod(0o444)
        os.chmod(self.folder, 0o755)
        said, says = os.pipe()
        child = os.fork()
        if child == 0:  # as a user who is not root: root may write everything
            try:
                if os.getuid() == 0:
                    os.setuid(65534)
                study = Study.open(self.path)
                os.write(says, study.file.read_only_reason.encode() + b"|")
                study.do(KeepComponents(2))
            except FileError as error:
                os.write(says, str(error).encode())
            finally:
                os._exit(0)
        os.close(says)
        os.waitpid(child, 0)
        with os.fdopen(said) as stream:
            reason, words = stream.read().split("|")
        self.assertEqual(reason, "s.scutch may not be written")
        self.assertIn("nothing can be changed here", words)

    def test_newer_format(self):
        self.started().close()
        self.sql("UPDATE meta SET value = '99' WHERE key = 'format'")
        self.assertEqual(
            self.words(Study.open, self.path),
            "s.scutch was written by a newer Scutcher (format 99, this one knows 3). "
            "Open it with that version; nothing was changed.",
        )

    def sql(self, *statements: str) -> None:
        link = sqlite3.connect(self.path)
        for statement in statements:
            link.execute(statement)
        link.commit()
        link.close()

    def test_not_a_study(self):
        self.path.write_text("id,1,2\n")
        self.assertIn("s.scutch is not a study file.", self.words(Study.open, self.path))
        self.path.unlink()
        self.sql("CREATE TABLE t (a)")
        self.assertIn("is a database, but not a study.", self.words(Study.open, self.path))
        self.assertIn("There is no file none.scutch", self.words(Study.open, self.folder / "none.scutch"))

    def test_damaged_bytes_are_found_and_the_rest_is_rescued(self):
        study = self.started()
        study.do(KeepComponents(2))
        study.do(_Replace(some_state().table, 500))
        study.close()
        state = msgspec.json.decode(self.query("SELECT state FROM revisions ORDER BY id DESC")[0])
        name = state["datasets"][0]["table"]["values"]
        stored = msgspec.json.decode(self.query(f"SELECT stored FROM arrays WHERE hash = '{name}'")[0])
        piece = stored["pieces"][0]
        self.sql(f"UPDATE pieces SET data = zeroblob(length(data)) WHERE hash = '{piece}'")
        bytes_before = self.path.read_bytes()
        self.assertIn("has changed bytes", self.words(Study.open, self.path))
        copy = self.folder / "rescued.scutch"
        saved = rescue(self.path, copy)
        self.assertEqual(saved.state.recipe.model.components, 2)
        again = StudyFile.open(copy)
        self.assertEqual(plain_of(again.state(again.history.place.now)), plain_of(saved.state))
        again.close()
        self.assertEqual(self.path.read_bytes(), bytes_before)

    def query(self, statement: str):
        link = sqlite3.connect(self.path)
        row = link.execute(statement).fetchone()
        link.close()
        return row

    def test_truncated_anywhere_is_a_sentence_never_a_crash(self):
        study = self.started()
        for k in range(1, 6):
            study.do(KeepComponents(k))
        study.close()
        whole = self.path.read_bytes()
        for share in np.linspace(0.0, 0.999, 25):
            self.path.write_bytes(whole[: int(share * len(whole))])
            with self.assertRaises(FileError):
                Study.open(self.path)

    def test_mutated_bytes_are_a_sentence_or_harmless(self):
        study = self.started()
        study.do(KeepComponents(3))
        study.close()
        whole = self.path.read_bytes()
        rng = np.random.default_rng(4)
        for _ in range(150):
            changed = bytearray(whole)
            for place in rng.integers(0, len(whole), 6):
                changed[place] = int(rng.integers(0, 256))
            self.path.write_bytes(bytes(changed))
            try:
                found = Study.open(self.path)
            except FileError:
                continue
            self.assertEqual(found.state.recipe.model.components, 3)
            found.close()

    def test_hostile_files(self):
        cases = {
            "a trigger": ["CREATE TRIGGER t AFTER INSERT ON log BEGIN DELETE FROM revisions; END"],
            "a view": ["DROP TABLE snapshots", "CREATE VIEW snapshots AS SELECT * FROM log"],
            "another column": ["ALTER TABLE log ADD COLUMN x TEXT DEFAULT (1)"],
            "an array that claims to be huge": [_stored("shape", [1000000000, 1000000])],
            "a negative size": [_stored("shape", [-1, -8])],
            "text for a shape": [_stored("shape", "x")],
            "pickled bytes": [_stored("kind", "pickle")],
            "no place in history": ["DELETE FROM meta WHERE key = 'place'"],
            "a revision that is not there": ["UPDATE revisions SET id = id + 7"],
            "a state that is not one": ["UPDATE revisions SET state = '[1]'"],
        }
        self.started().close()
        whole = self.path.read_bytes()
        for name, statements in cases.items():
            with self.subTest(name):
                self.path.write_bytes(whole)
                self.sql(*statements)
                self.words(Study.open, self.path)


def _stored(field: str, value: object) -> str:
    """Says of every array that it is something else."""
    text = msgspec.json.encode(value).decode()
    return f"UPDATE arrays SET stored = json_set(stored, '$.{field}', json('{text}'))"


class _Replace:
    """Another, larger table."""

    def label(self, state):
        return "Replace"

    def __init__(self, table, rows):
        rng = np.random.default_rng(rows)
        self.table = ordered_table(rng.normal(size=(rows, table.shape[1])))

    def apply(self, state):
        return State.of(state.name, self.table, state.recipe)


def _session(path: Path, says: int) -> None:
    """In the child: command after command, a byte said for each that is finished."""
    try:
        study = Study.open(path)
        for k in range(1, 100_000):
            study.do(KeepComponents(k))
            os.write(says, b".")
    finally:
        os._exit(1)


def _wait(seconds: float) -> None:
    import time

    time.sleep(seconds)


if __name__ == "__main__":
    unittest.main()
