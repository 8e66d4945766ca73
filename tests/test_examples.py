"""The examples run as they stand, and say what their readers are told they say."""

from __future__ import annotations

import ast
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

EXAMPLES = Path(__file__).parent.parent / "examples"
SCRIPTS = sorted(EXAMPLES.glob("*.py"))
# What each prints, among other things.
SAID = {
    "answer_questions": ["From: Hollinquay; To: Brannsey; Adult: 13.00", "Date: 30 June; High 1: 02:25"],
    "benchmark_and_gate": ["Gate: passed (0 numbers changed or invented)"],
    "compare_methods": ["0 cells differ", "Open seen/index.html"],
    "convert_a_folder": ["minutes.pdf is not a PDF", "'1.39', on page 2"],
    "fields_by_schema": ["Northern Lamp (page 1)", "no table has columns like its properties"],
    "make_truth": ["'1' became '99'", "truth/cargo-manifest.html: sound"],
    "recipe_over_months": ["9 of 12 months are in the data", "90.00 less"],
    "scale_out": ["<10 outcomes: 10 done>", "<10 outcomes: 10 unchanged>"],
    "tables_to_frames": ["4 sums checked, 0 do not come out"],
}


class TestExamples(unittest.TestCase):
    def test_all_run(self) -> None:
        self.assertEqual({path.stem for path in SCRIPTS}, set(SAID))
        with tempfile.TemporaryDirectory() as folder:
            for path in SCRIPTS:
                with self.subTest(path.stem):
                    done = subprocess.run(
                        [sys.executable, path],
                        cwd=folder,
                        capture_output=True,
                        text=True,
                        timeout=300,
                        check=False,
                    )
                    self.assertEqual(done.returncode, 0, done.stderr)
                    for said in SAID[path.stem]:
                        self.assertIn(said, done.stdout)

    def test_all_are_short_begin_with_what_they_show_and_are_listed(self) -> None:
        listed = (EXAMPLES / "README.md").read_text(encoding="utf-8")
        for path in SCRIPTS:
            with self.subTest(path.stem):
                text = path.read_text(encoding="utf-8")
                self.assertLess(len(text.splitlines()), 60)
                self.assertTrue(ast.get_docstring(ast.parse(text)))
                self.assertIn(f"`{path.name}`", listed)
