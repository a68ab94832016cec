"""Man page, completions and what belongs to a desktop: all of the parser, valid, and taken away again."""

import contextlib
import io
import os
import shutil
import subprocess
import sys
import unittest
import xml.etree.ElementTree as Xml
from pathlib import Path
from unittest import mock

from scutcher import __version__
from scutcher.cli import main
from scutcher.cli.commands import COMMANDS, parser
from scutcher.cli.manual import bash_completion, commands_of, fish_completion, man_page
from tests.folder import InFolder

HOME = Path(__file__).parents[2]


class Manual(InFolder):
    def test_every_command_and_option_is_in_all_of_them(self):
        whole = parser()
        commands = commands_of(whole)
        self.assertEqual([command.name for command in commands], list(COMMANDS))
        for command in commands:
            alone = {one.name: one for one in commands_of(parser(command.name))}[command.name]
            self.assertEqual(
                [(one.option_strings, one.dest, one.help) for one in alone.options],
                [(one.option_strings, one.dest, one.help) for one in command.options],
            )
        man, bash, fish = man_page(whole), bash_completion(whole), fish_completion(whole)
        for command in commands:
            self.assertIn(f".SS {command.name.replace('-', chr(92) + '-')}\n", man)
            self.assertTrue(command.help, command.name)
            for option in command.options:
                for name in option.option_strings:
                    self.assertIn(name, bash)
                    self.assertIn(name.replace("-", r"\-") if name != "--help" else "NAME", man)
                    if name.startswith("--"):
                        self.assertIn(f"-l {name[2:]}", fish)

    @unittest.skipUnless(shutil.which("bash"), "needs bash")
    def test_bash_completes(self):
        script = self.folder / "scutcher"
        script.write_text(bash_completion(parser()))
        for line, wanted in (
            ("ver", "verify"),
            ("report x --si", "--sign"),
            ("fit x --kind cl", "class-models"),
        ):
            words = ["scutcher", *line.split(" ")]
            quoted = " ".join(f"'{word}'" for word in words)
            code = (
                f". {script}; COMP_WORDS=({quoted}); COMP_CWORD={len(words) - 1}; _scutcher; "
                'echo "${COMPREPLY[@]}"'
            )
            done = subprocess.run(["bash", "-c", code], capture_output=True, text=True)
            self.assertEqual(done.stdout.split(), [wanted], done.stderr)

    @unittest.skipUnless(shutil.which("man"), "needs man")
    def test_man_reads_it_without_a_word(self):
        page = self.folder / "scutcher.1"
        page.write_text(man_page(parser()))
        environment = {**os.environ, "MANROFFSEQ": "", "LC_ALL": "C.UTF-8"}
        done = subprocess.run(
            ["man", "--warnings", "-E", "UTF-8", "-l", "-Tutf8", "-Z", str(page)],
            capture_output=True,
            text=True,
            env=environment,
        )
        self.assertEqual(done.stderr, "")

    def test_installed_and_taken_away(self):
        other = self.folder / "applications" / "other.desktop"
        other.parent.mkdir(parents=True)
        other.write_text("x")
        said = io.StringIO()
        with (
            mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.folder)}),
            contextlib.redirect_stdout(said),
        ):
            self.assertEqual(main(["install"]), 0)
            written = [Path(line) for line in said.getvalue().splitlines()]
            self.assertEqual(len(written), 7)
            self.assertTrue(all(path.is_file() for path in written))
            for path in written:
                if path.suffix in (".xml", ".svg"):
                    Xml.parse(path)
            meta = Xml.parse(next(path for path in written if "metainfo" in path.name)).getroot()
            self.assertEqual(meta.find("releases/release").get("version"), __version__)
            self.assertEqual(meta.find("project_license").text, "MIT")
            self.assertEqual(main(["install", "--remove"]), 0)
        self.assertFalse(any(path.exists() for path in written))
        self.assertTrue(other.exists())

    def test_the_version_is_said_without_bringing_anything_in(self):
        code = "import sys; from scutcher.cli import main; main(['--version']); print('numpy' in sys.modules)"
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=os.environ)
        self.assertEqual(done.stdout.split("\n")[:2], [f"scutcher {__version__}", "False"])

    def test_the_papers_of_a_package(self):
        for name in ("LICENSE", "CHANGELOG.md", "CONTRIBUTING.md", "README.md"):
            self.assertGreater((HOME / name).stat().st_size, 500, name)
        self.assertIn(f"## {__version__}", (HOME / "CHANGELOG.md").read_text())


if __name__ == "__main__":
    unittest.main()
