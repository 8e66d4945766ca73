"""The notebook among the examples runs, and shows what it says it shows."""

from __future__ import annotations

from pathlib import Path

import nbformat
from lxml import html
from nbclient import NotebookClient

from tests.support import InFolder

NOTEBOOK = Path(__file__).parent.parent / "examples/first_look.ipynb"


class TestNotebook(InFolder):
    def test_runs_and_shows_things(self) -> None:
        notebook = nbformat.read(NOTEBOOK, 4)
        cells = [cell for cell in notebook.cells if cell.cell_type == "code"]
        self.assertEqual([cell.outputs for cell in cells], [[]] * len(cells), "it is kept without outputs")
        client = NotebookClient(
            notebook, timeout=300, kernel_name="python3", resources={"metadata": {"path": str(self.folder)}}
        )
        client.execute()
        shown = [cell.outputs[-1].data for cell in cells]
        pages = [html.fromstring(f"<div>{data['text/html']}</div>") for data in shown]
        document, table, frame, outcomes, results = pages
        self.assertIn("<Document 'fares-circular.pdf': 1 page, 2 tables", document.text_content())
        self.assertEqual(len(document.xpath("//table")), 2)
        self.assertTrue(table.xpath("//td[contains(@title, 'confidence')]"))
        self.assertIn("Crowns", frame.text_content())
        rows = outcomes.xpath("//tr")
        self.assertIn("none.pdf does not exist", rows[1].text_content())
        self.assertEqual(len(rows), 12)
        self.assertEqual(
            [row.xpath("./td")[1].text for row in results.xpath("//tr")[1:]], ["combined", "plain"]
        )
        for data in shown:
            self.assertLess(len(data["text/plain"]), 2000)
