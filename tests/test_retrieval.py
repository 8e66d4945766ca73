"""Passages keep everything, cut nothing that belongs together, and say where they come from."""

from __future__ import annotations

import json
import random
import unittest

import wennak
from tests.support import DEMO, InFolder, run
from tests.test_outputs import random_document
from wennak.emit import count_tokens


class TestPassages(unittest.TestCase):
    def test_limits_hold_and_no_word_is_lost(self) -> None:
        for seed in range(20):
            document = random_document(random.Random(seed), spans=True)
            for limit in (5, 40, 300):
                passages = document.passages(limit)
                said = " ".join([*(p.text for p in passages), *(h for p in passages for h in p.headings)])
                for text in document.texts():
                    for word in text.replace("|", " ").split():
                        self.assertIn(word.strip("\\"), said.replace("\\|", "|"))
                for p in passages:
                    self.assertEqual(p.size, count_tokens(p.text))
                    if p.kind == "text" and p.size > limit:
                        self.assertEqual(len(p.text.split()), 1, "only a single word may exceed the limit")

    def test_tables_are_cut_between_rows_with_caption_and_header_repeated(self) -> None:
        document = wennak.read(DEMO / "tide-table.pdf")
        parts = [p for p in document.passages(200) if p.kind == "table"]
        self.assertGreater(len(parts), 5)
        rows = []
        for p in parts:
            caption, blank, head, rule, *body = p.text.split("\n")
            self.assertEqual((caption, blank), ("Table 2: High and low water", ""))
            self.assertTrue(head.startswith("| Date | High 1 | m |") and rule.startswith("| --- |"))
            self.assertEqual(p.headings, ["Tides at Hollinquay, May and June"])
            rows += body
        self.assertEqual(len(rows), 61)
        self.assertEqual((parts[0].pages, parts[-1].pages), ([1], [2]))

    def test_records_name_the_headers_of_every_value(self) -> None:
        document = wennak.read(DEMO / "timetable.pdf")
        (part,) = (p for p in document.passages(2000, records=True) if p.kind == "table")
        self.assertIn("Pier: Oskay; Summer / Weekdays: 09:15", part.text)
        self.assertIn(
            "- Route: 1 North Sound; Pier: Oskay; Summer / Weekdays: 09:15", document.markdown(records=True)
        )

    def test_the_counter_of_the_caller_is_used(self) -> None:
        document = wennak.read(DEMO / "swell-note.pdf")
        passages = document.passages(120, count=len)
        self.assertTrue(all(len(p.text) <= 120 for p in passages if p.kind == "text"))


class TestPassagesCommand(InFolder):
    def test_json_lines_of_passages(self) -> None:
        papers = [DEMO / f"{name}.pdf" for name in ("swell-note", "tide-table")]
        how = ("--as", "passages,md", "--limit", "150", "--page-marks")
        result = run("convert", *papers, "--out", self.folder, *how)
        self.assertEqual(result.returncode, 0, result.stderr)
        lines = (self.folder / "swell-note.jsonl").read_text(encoding="utf-8").splitlines()
        first = json.loads(lines[0])
        self.assertEqual(first["headings"], ["Swell at the piers of Skerra Sound", "1 Purpose"])
        self.assertEqual((first["source"], first["number"], first["pages"]), ("swell-note.pdf", 1, [1]))
        self.assertIn("<!-- page 2 -->", (self.folder / "tide-table.md").read_text(encoding="utf-8"))


if __name__ == "__main__":
    unittest.main()
