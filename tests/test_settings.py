"""What all commands share: settings, how much is said, examples, Ctrl-C, and that they begin at once."""

from __future__ import annotations

import os
import re
import shlex
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import click

from tests.support import DEMO, InFolder, run, run_here
from wennak.cli import main
from wennak.cli.commands import Command


def commands(group: click.Command, names: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], Command]]:
    if isinstance(group, click.Group):
        context = click.Context(group)
        for name in group.list_commands(context):
            command = group.get_command(context, name)
            assert command is not None
            yield from commands(command, (*names, name))
    else:
        assert isinstance(group, Command), names
        yield names, group


class TestSettings(InFolder):
    def setUp(self) -> None:
        super().setUp()
        self.papers = self.folder / "papers"
        self.papers.mkdir()
        shutil.copy(DEMO / "timetable.pdf", self.papers)

    def settings(self, text: str) -> None:
        (self.papers / "wennak.toml").write_text(text)

    def test_what_is_given_goes_before_the_environment_and_that_before_the_file(self) -> None:
        self.settings('[convert]\nas = ["html", "json"]\npage-marks = true\n')
        out = self.folder / "out"
        steps: list[tuple[dict[str, str], list[str], set[str]]] = [
            ({}, [], {".html", ".json"}),
            ({"WENNAK_CONVERT_AS": "passages"}, [], {".jsonl"}),
            ({"WENNAK_CONVERT_AS": "passages"}, ["--as", "md"], {".md"}),
        ]
        for variables, given, endings in steps:
            with self.subTest(endings=endings):
                result = run(
                    "convert", self.papers, "--out", out, "--fresh", *given, env=os.environ | variables
                )
                self.assertEqual(result.returncode, 0, result.stderr)
                written = {p.suffix for p in out.iterdir() if p.stem == "timetable"}
                self.assertEqual(written & {".html", ".json", ".jsonl", ".md"}, endings)
                shutil.rmtree(out)

    def test_at_the_top_for_all_commands_and_in_a_section_for_one(self) -> None:
        self.settings('method = "plain"\n[convert]\nmethod = "ruled"\n')
        pdf = self.papers / "timetable.pdf"
        self.assertIn("plain", run("tables", pdf).stdout)
        run("convert", self.papers, "--out", self.folder / "out", "--as", "json")
        self.assertIn('"method": "ruled"', (self.folder / "out/timetable.json").read_text())

    def test_a_file_that_is_named_goes_before_the_one_beside_the_data(self) -> None:
        self.settings('method = "plain"\n')
        other = self.folder / "other.toml"
        other.write_text('method = "ruled"\n')
        env = {"WENNAK_SETTINGS": str(other)}
        self.assertIn("ruled", run("tables", self.papers / "timetable.pdf", env=env).stdout)
        other.unlink()
        result = run_here("tables", self.papers / "timetable.pdf", env=env)
        self.assertEqual(result.returncode, 2)
        self.assertIn("does not exist", result.stderr)

    def test_a_command_that_there_is_not_gets_the_one_that_is_meant(self) -> None:
        for named, said in (
            (("tabels", "x.pdf"), "There is no command 'tabels'; is 'tables' meant?"),
            (("bench", "rnu"), "There is no command 'rnu'; is 'run' meant?"),
            (("xyzzy",), "There is no command 'xyzzy'; --help lists those that there are."),
        ):
            result = run_here(*named)
            self.assertEqual((result.returncode, result.stdout), (2, ""))
            self.assertIn(said, result.stderr)

    def test_wrong_settings_get_one_sentence(self) -> None:
        cases = [
            ("as = [", "cannot be read as TOML"),
            ("[convert]\npage-mark = true\n", "is 'page-marks' meant?"),
            ('[convert]\nlimit = "many"\n', "It is set in"),
            ("convert = 3\n", "has to be a section"),
        ]
        for text, sentence in cases:
            with self.subTest(text):
                self.settings(text)
                how = run if text == cases[0][0] else run_here
                result = how("convert", self.papers, "--out", self.folder / "out")
                self.assertEqual(result.returncode, 2, result.stderr)
                self.assertIn(sentence, result.stderr)
                self.assertNotIn("Traceback", result.stderr)
                self.assertFalse((self.folder / "out").exists())

    def test_a_file_beside_data_of_others_sends_and_writes_nothing_elsewhere(self) -> None:
        for option, value in (
            ("service", "http://127.0.0.1:1/"),
            ("out", "elsewhere"),
            ("cluster", "tcp://127.0.0.1:1"),
            ("prune", True),
        ):
            with self.subTest(option):
                said = str(value).lower() if value is True else f'"{value}"'
                self.settings(f"{option} = {said}\n")
                result = run_here("convert", self.papers, "--out", self.folder / "out", cwd=self.folder)
                self.assertEqual(result.returncode, 2, result.stderr)
                self.assertIn(f"must not set --{option}", result.stderr)
        # It is the user's own in the current folder; and what it may set from elsewhere is told.
        self.settings('out = "texts"\n')
        result = run("convert", "timetable.pdf", cwd=self.papers)
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertTrue((self.papers / "texts/timetable.md").exists())
        self.settings('method = "plain"\n')
        told = run_here("tables", self.papers / "timetable.pdf", cwd=self.folder).stderr
        self.assertIn("are in force", told)

    def test_what_goes_before_what_is_at_the_top_is_told_and_passwords_are_not(self) -> None:
        self.settings('method = "plain"\npassword = "open-sesame"\n[convert]\nmethod = "ruled"\n')
        result = run_here("settings", "--beside", self.papers, env={"WENNAK_TABLES_METHOD": "spaced"})
        self.assertRegex(result.stdout, r"all commands +--method +plain")
        self.assertRegex(result.stdout, r"wennak convert +--method +ruled")
        self.assertRegex(result.stdout, r"wennak tables +--method +spaced +WENNAK_TABLES_METHOD")
        self.assertNotIn("wennak look", result.stdout)
        self.assertNotIn("open-sesame", result.stdout + result.stderr)

    def test_the_command_says_what_is_in_force_and_why(self) -> None:
        self.settings('workers = 2\n[convert]\nas = ["md", "json"]\n[convrt]\nlimit = 3\n')
        env = {"WENNAK_CONVERT_LIMIT": "300", "WENNAK_TABLES_PASSWORD": "open-sesame"}
        result = run("settings", "--beside", self.papers, env=env)
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertRegex(result.stdout, r"all commands +--workers +2 .*wennak\.toml")
        self.assertRegex(result.stdout, r"wennak convert +--as +md,json .*wennak\.toml")
        self.assertRegex(result.stdout, r"wennak convert +--limit +300 +WENNAK_CONVERT_LIMIT")
        self.assertNotIn("open-sesame", result.stdout)
        self.assertIn("There is no command [convrt]", result.stderr)
        whole = run_here("settings", "convert", "--beside", self.papers, env=env).stdout
        self.assertRegex(whole, r"--method +combined +built in")
        self.assertRegex(whole, r"--workers +2 .*wennak\.toml")
        self.assertEqual(run_here("settings", "nothing").returncode, 2)


class TestEveryCommand(InFolder):
    def test_has_an_example_that_it_understands(self) -> None:
        seen = 0
        for names, command in commands(main):
            with self.subTest(" ".join(names)):
                words = shlex.split(command.example)
                self.assertEqual(tuple(words[: len(names) + 1]), ("wennak", *names))
                command.make_context("wennak", words[len(names) + 1 :])
                self.assertIn(command.example, command.get_help(click.Context(command)).replace("\n  ", " "))
                seen += 1
        self.assertGreater(seen, 15)

    def test_an_option_means_the_same_in_all(self) -> None:
        """What is written alike has one type, one default, and the same word for its value."""
        meant: dict[str, set[tuple[str, str, str]]] = {}
        for _, command in commands(main):
            for param in command.params:
                if isinstance(param, click.Option):
                    what = (type(param.type).__name__, str(param.metavar), str(param.is_flag))
                    meant.setdefault(max(param.opts, key=len), set()).add(what)
        # Where something is written to, and as what, differs by what that is.
        own = {"--out", "--limit", "--as", "--into"}
        self.assertEqual(
            {name: kinds for name, kinds in meant.items() if len(kinds) > 1 and name not in own}, {}
        )

    def test_quiet_says_only_what_went_wrong(self) -> None:
        bad = self.folder / "bad.pdf"
        bad.write_text("no PDF")
        sources = [DEMO / "timetable.pdf", bad]
        quiet = run("convert", *sources, "--out", self.folder / "a", "-q")
        self.assertEqual((quiet.returncode, quiet.stdout), (1, ""))
        self.assertEqual(len(quiet.stderr.splitlines()), 1, quiet.stderr)
        self.assertIn("is not a PDF", quiet.stderr)
        usual = run("convert", *sources, "--out", self.folder / "b")
        self.assertIn("1 document converted", usual.stderr)
        wordy = run_here("convert", *sources, "--out", self.folder / "c", "-v")
        self.assertIn("timetable.pdf: 1 page, 1 table", wordy.stderr)
        self.assertRegex(wordy.stderr, r"It took [\d.]+ s")
        self.assertNotIn("Print one", run_here("tables", sources[0], "-q").stdout)
        self.assertIn("Print one", run_here("tables", sources[0]).stdout)

    def test_no_colours_in_a_pipe(self) -> None:
        result = run_here("tables", DEMO / "timetable.pdf", "--show", "1")
        self.assertNotIn("\x1b[", result.stdout + result.stderr)

    def test_names_of_files_are_completed(self) -> None:
        env = {
            "_WENNAK_COMPLETE": "bash_complete", "COMP_WORDS": "wennak convert pap", "COMP_CWORD": "2",
        }  # fmt: skip
        self.assertIn("file,pap", run(env=env).stdout)
        env["COMP_WORDS"], env["COMP_CWORD"] = "wennak conv", "1"
        self.assertIn("plain,convert", run(env=env).stdout)

    def test_ctrl_c_is_polite(self) -> None:
        # Where the tests run in the background of a shell, Ctrl-C would be ignored.
        process = subprocess.Popen(
            [sys.executable, "-m", "wennak", "tables", "-"],
            stdin=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            cwd=self.folder,
            preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
        )
        time.sleep(3)
        process.send_signal(signal.SIGINT)
        _, said = process.communicate(timeout=30)
        self.assertEqual(process.returncode, 130, said)
        self.assertEqual(len(said.strip().splitlines()), 1, said)
        self.assertTrue(said.startswith("Stopped."), said)


class TestLoading(InFolder):
    """What a command does not need is not loaded, so that it begins at once; no clock is asked."""

    def loaded(self, code: str) -> set[str]:
        said = subprocess.run(
            [sys.executable, "-c", f"{code}\nimport sys\nprint(*sys.modules, file=sys.stderr)"],
            capture_output=True, text=True, cwd=self.folder, check=True,
        ).stderr  # fmt: skip
        return set(re.split(r"\s", said))

    def test_the_package_and_its_help_load_no_numbers(self) -> None:
        for code in ("import wennak", "from wennak.cli import main\nmain(['--help'], standalone_mode=False)"):
            with self.subTest(code):
                self.assertFalse(self.loaded(code) & {"numpy", "pikepdf", "rich", "pydantic", "pandas"})

    def test_who_hands_documents_to_workers_loads_nothing_that_reads_them(self) -> None:
        paper = str(Path(DEMO / "fares-circular.pdf").resolve())
        for command in (["convert", paper, "--out", "out"], ["find", "fares", paper, "--workers", "2"]):
            with self.subTest(command[0]):
                code = (
                    f"from wennak.cli import main\ntry:\n    main({command!r})\nexcept SystemExit as end:\n"
                )
                loaded = self.loaded(f"{code}    assert not end.code")
                self.assertEqual(loaded & {"numpy", "pikepdf", "wennak.layout", "wennak.tables"}, set())
                self.assertIn("wennak.collection", loaded)

    def test_one_small_file_loads_what_it_needs(self) -> None:
        command = ["convert", str(Path(DEMO / "fares-circular.pdf").resolve())]
        loaded = self.loaded(f"from wennak.cli import main\nmain({command!r}, standalone_mode=False)")
        self.assertIn("numpy", loaded)
        unused = {
            "numpy.ma", "numpy.random", "scipy", "pandas", "matplotlib", "pydantic", "sqlite3", "pebble",
            "rich.console", "urllib.request", "httpx", "lxml", "jinja2", "wennak.collection.run",
        }  # fmt: skip
        self.assertEqual(loaded & unused, set())
