"""What is given out holds what it needs."""

from __future__ import annotations

import tomllib
import unittest
from pathlib import Path

from tests.support import InFolder, script

ROOT = Path(__file__).parent.parent


class TestDistributions(InFolder):
    def test_both_hold_every_file_of_the_package(self) -> None:
        check_package = script("tools/check_package.py")
        wheel, source = check_package.built(self.folder)
        self.assertEqual(check_package.missing_files(wheel, source), [])


class TestDependencies(unittest.TestCase):
    def test_nobody_gets_what_only_some_need(self) -> None:
        project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
        names = {line.split(">=")[0] for line in project["dependencies"]}
        extras = {
            line.split(">=")[0].split("==")[0]
            for name, lines in project["optional-dependencies"].items() if name != "dev"
            for line in lines
        }  # fmt: skip
        self.assertEqual(names & extras, set())
        self.assertEqual([line for line in project["dependencies"] if ">=" not in line], [])
