"""The documentation is true: its commands and code run as written, its links lead somewhere, and what
is made from the program is as the program is.
"""

from __future__ import annotations

import os
import re
import shlex
import subprocess
import sys
import sysconfig
import unittest
from collections.abc import Iterator
from pathlib import Path

from markdown_it import MarkdownIt

from tests.support import InFolder, run_here, script
from wennak.demo import write_collection

ROOT = Path(__file__).parent.parent
DOCS = sorted((ROOT / "docs").glob("*.md"))
PAGES = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", ROOT / "examples/README.md", *DOCS]
# What differs from machine to machine, and from run to run.
VARYING = (
    # How far a run has come, which it says where it takes long.
    (r"(?m)^.* pages/s\b.*\n", ""),
    (r"\d+\.\d+ s|in \d+ s|about \d+ s", "TIME"),
    (r"with \d+ workers?", "WORKERS"),
)


def blocks(path: Path, kind: str) -> list[str]:
    """The fenced blocks of a kind, in order."""
    tokens = MarkdownIt().parse(path.read_text(encoding="utf-8"))
    return [t.content for t in tokens if t.type == "fence" and t.info == kind]


def shell(command: str, folder: Path) -> subprocess.CompletedProcess[str]:
    scripts = sysconfig.get_path("scripts")
    path = {"PATH": f"{scripts}{os.pathsep}{os.environ['PATH']}", "COLUMNS": "100"}
    return subprocess.run(
        ["bash", "-e", "-c", command],
        cwd=folder,
        env=os.environ | path,
        capture_output=True,
        text=True,
        timeout=300,
    )


def ran(block: str, folder: Path) -> subprocess.CompletedProcess[str]:
    """Run a block for shells: in this process, command by command, where a shell does nothing for it."""
    lines = [line for line in block.replace("\\\n", " ").splitlines() if line.strip() and line[0] != "#"]
    if not all(re.fullmatch(r"wennak [^|<>*?;&$`~(]*", line) for line in lines):
        return shell(block, folder)
    done = subprocess.CompletedProcess[str]([], 0, "", "")
    for line in lines:
        done = run_here(*shlex.split(line, comments=True)[1:], cwd=folder, env={"COLUMNS": "100"})
        if done.returncode:
            break
    return done


def settled(text: str) -> str:
    for pattern, word in VARYING:
        text = re.sub(pattern, word, text)
    return "\n".join(line.rstrip() for line in text.strip().splitlines())


class TestCommandsAndCode(InFolder):
    def setUp(self) -> None:
        super().setUp()
        write_collection(self.folder)

    def run_page(self, name: str) -> None:
        """Run the blocks of a page for shells, and what it has for Python behind them as one script."""
        path = ROOT / name
        # Those of the README set up and test, as CI does.
        for block in blocks(path, "sh") if path.parent != ROOT else ():
            with self.subTest(block):
                done = ran(block, self.folder)
                self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        code = "\n".join(blocks(path, "python"))
        done = subprocess.run(
            [sys.executable, "-c", code], cwd=self.folder, capture_output=True, text=True, timeout=300
        )
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_first_steps(self) -> None:
        self.run_page("docs/first-steps.md")

    def test_formats(self) -> None:
        self.run_page("docs/formats.md")

    def test_methods_scans_and_limits(self) -> None:
        for name in ("methods", "scans", "limits"):
            self.run_page(f"docs/{name}.md")

    def test_benchmarking(self) -> None:
        self.run_page("docs/benchmarking.md")

    def test_the_readme(self) -> None:
        self.run_page("README.md")

    def test_what_the_readme_shows_is_what_comes_out(self) -> None:
        shown = [block for block in blocks(ROOT / "README.md", "console") if block.startswith("$ ")]
        self.assertGreaterEqual(len(shown), 3)
        for block in shown:
            command, _, output = block[2:].partition("\n")
            with self.subTest(command):
                done = shell(command, self.folder)
                self.assertEqual(settled(done.stdout + done.stderr), settled(output))


class TestPages(unittest.TestCase):
    def links(self, path: Path) -> Iterator[str]:
        for token in MarkdownIt().enable("table").parse(path.read_text(encoding="utf-8")):
            for child in token.children or []:
                for key in ("href", "src"):
                    if value := child.attrGet(key):
                        yield str(value)

    def test_links_lead_somewhere(self) -> None:
        for path in PAGES:
            for link in self.links(path):
                with self.subTest(f"{path.name}: {link}"):
                    name, _, anchor = link.partition("#")
                    if name.startswith("http"):
                        continue
                    target = (path.parent / name).resolve() if name else path
                    self.assertTrue(target.exists())
                    if anchor:
                        titles = re.findall(r"^#+ (.+)$", target.read_text(encoding="utf-8"), re.M)
                        known = {re.sub(r"[^\w\- ]", "", title.lower()).replace(" ", "-") for title in titles}
                        self.assertIn(anchor, known)

    def test_every_page_is_reached_from_the_first(self) -> None:
        reached, ahead = set(), [ROOT / "README.md"]
        while ahead:
            path = ahead.pop()
            if path in reached or path.suffix != ".md" or not path.exists():
                continue
            reached.add(path)
            ahead += [
                (path.parent / link.partition("#")[0]).resolve()
                for link in self.links(path)
                if link[0] != "#"
            ]
        self.assertEqual(set(DOCS) - reached, set())

    def test_every_picture_is_shown_somewhere(self) -> None:
        shown = {(path.parent / link).resolve() for path in PAGES for link in self.links(path)}
        kept = set((ROOT / "docs/screenshots").iterdir()) | set((ROOT / "docs").glob("*.svg"))
        self.assertEqual(kept - shown, set())
        self.assertLess(len(list((ROOT / "docs/screenshots").iterdir())), 20)

    def test_what_is_made_from_the_program_is_as_it_is(self) -> None:
        for name, text in script("tools/write_reference.py").made().items():
            with self.subTest(name):
                self.assertEqual((ROOT / "docs" / name).read_text(encoding="utf-8"), text)

    def test_no_name_of_the_library_is_without_a_word(self) -> None:
        import wennak

        nothing = [name for name in wennak.__all__ if not (getattr(wennak, name).__doc__ or "").strip()]
        self.assertEqual(nothing, [])
