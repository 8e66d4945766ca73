"""A SIMULATED vision model: python -m wennak.remote.simulated PAPERS [--port N] [--lost-rows SHARE ...].

It sees nothing. It answers from the true tables beside each paper of a folder, or where there are none from
this program's own reading, and makes the mistakes that such models make, each at a set rate: rows lost, rows
invented, digits changed, columns shifted, prose instead of JSON, failures. For trying out and testing the
method `remote`; whatever is measured with it says "simulated".
"""

from __future__ import annotations

import argparse
import base64
import json
import random
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..model import Box, Document, Table
from .question import Question


@dataclass(frozen=True, slots=True)
class Rates:
    """How often a mistake is made, each 0..1: of rows, digits, tables, and answers; seconds that an answer
    takes.
    """

    lost_rows: float = 0.0
    invented_rows: float = 0.0
    changed_digits: float = 0.0
    shifted_columns: float = 0.0
    prose: float = 0.0
    failures: float = 0.0
    seconds: float = 0.0


class Simulated:
    """A callable that answers for documents, given by name with their tables; always alike for a seed."""

    # What is measured with it says so.
    simulated = True

    def __init__(self, documents: dict[str, Document], rates: Rates = Rates(), seed: int = 0) -> None:
        self.documents, self._rates, self._seed = documents, rates, seed
        self._asked: dict[tuple[str, int], int] = {}
        # What was done to whom, for those who test: rows lost, rows invented, digits changed.
        self.done: list[tuple[str, int, str, str]] = []

    def __call__(self, png: bytes, question: Question) -> str:
        """Answer; raises RuntimeError for a failure."""
        if not png.startswith(b"\x89PNG"):
            raise RuntimeError("what was sent is no PNG")
        place = question.document, question.page
        times = self._asked[place] = self._asked.get(place, 0) + 1
        rng = random.Random(f"{self._seed} {place} {times}")
        if self._rates.seconds:
            time.sleep(self._rates.seconds)
        if rng.random() < self._rates.failures:
            raise RuntimeError("simulated failure")
        if rng.random() < self._rates.prose:
            return "Certainly! The page shows a table, in which the values rise over the year."
        # What is answered does not depend on how often it was asked.
        rng = random.Random(f"{self._seed} {place} {question.region}")
        tables = [t for t in self.documents[question.document].tables if _on_picture(t, question)]
        answer = json.dumps({"tables": [self._table(t, place, rng) for t in tables]}, ensure_ascii=False)
        return f"Here is the JSON:\n```json\n{answer}\n```" if rng.random() < 0.2 else answer

    def _table(self, table: Table, place: tuple[str, int], rng: random.Random) -> dict[str, Any]:
        page = place[1]
        kept = [
            r
            for r in range(table.rows)
            if len(table.places) == 1
            or any(c.row == r and any(p.page == page for p in c.places) for c in table.cells)
        ]
        shifted = rng.random() < self._rates.shifted_columns
        rows: list[list[Any]] = []
        for r in kept:
            body = r >= table.header_rows
            cells = self._row(table, r, place, rng)
            texts = [cell["text"] if isinstance(cell, dict) else cell for cell in cells]
            plain = not any(isinstance(cell, dict) for cell in cells)
            if body and plain and rng.random() < self._rates.lost_rows:
                self.done.append((*place, "lost", " ".join(texts)))
                continue
            rows.append(["", *texts[:-1]] if body and plain and shifted and rng.random() < 0.5 else cells)
            if body and rng.random() < self._rates.invented_rows:
                made = [_invented(text, rng) for text in texts]
                self.done.append((*place, "invented", " ".join(made)))
                rows.append(made)
        header = sum(r < table.header_rows for r in kept)
        return {"header_rows": min(header, len(rows)), "rows": rows}

    def _row(self, table: Table, row: int, place: tuple[str, int], rng: random.Random) -> list[Any]:
        """The cells that begin in a row, empty ones too, as they are answered."""
        out: list[Any] = []
        grid = table.grid()
        for column, cell in enumerate(grid[row]):
            if cell is None:
                out.append("")
            elif (cell.row, cell.column) == (row, column):
                text = self._changed(cell.text, place, rng)
                extent = {"rowspan": cell.rowspan, "colspan": cell.colspan}
                out.append({"text": text, **extent} if cell.spans else text)
        return out

    def _changed(self, text: str, place: tuple[str, int], rng: random.Random) -> str:
        out = "".join(
            rng.choice("0123456789".replace(c, ""))
            if c.isdigit() and rng.random() < self._rates.changed_digits
            else c
            for c in text
        )
        if out != text:
            self.done.append((*place, "changed", out))
        return out


def _on_picture(table: Table, question: Question) -> bool:
    """Whether most of a table, or of what is asked about, is on the picture."""
    boxes = [place.box for place in table.places if place.page == question.page]
    if question.region is None:
        return bool(boxes)
    region = question.region
    return any(2 * box.shared(region) >= min(box.area, region.area) for box in boxes)


def _invented(text: str, rng: random.Random) -> str:
    """A text of the same kind that nobody wrote."""
    return "".join(rng.choice("0123456789") if c.isdigit() else c for c in text) or "x"


def answering(papers: Path, rates: Rates = Rates(), seed: int = 0) -> Simulated:
    """Return a service for the papers in a folder: from the truth beside each, or what this program reads."""
    from ..bench.seen import as_seen
    from ..pipeline import read
    from ..truth import load_truth

    def document(path: Path) -> Document:
        truth = path.with_suffix(".html")
        return as_seen(load_truth(truth), path) if truth.exists() else read(path)

    return Simulated({path.name: document(path) for path in sorted(papers.glob("*.pdf"))}, rates, seed)


def main() -> None:
    """Serve simulated answers over HTTP."""
    import uvicorn
    from starlette.applications import Starlette
    from starlette.concurrency import run_in_threadpool
    from starlette.requests import Request
    from starlette.responses import JSONResponse, Response
    from starlette.routing import Route

    parser = argparse.ArgumentParser(description=(__doc__ or "").split("\n")[0])
    parser.add_argument("papers", type=Path)
    parser.add_argument("--port", type=int, default=8330)
    parser.add_argument("--seed", type=int, default=0)
    for name in Rates.__dataclass_fields__:
        parser.add_argument(f"--{name.replace('_', '-')}", type=float, default=0.0)
    options = parser.parse_args()
    rates = Rates(**{name: getattr(options, name) for name in Rates.__dataclass_fields__})
    service = answering(options.papers, rates, options.seed)

    async def answer(request: Request) -> Response:
        asked = await request.json()
        region = Box(*asked["region"]) if asked.get("region") else None
        question = Question(asked["document"], asked["page"], region)
        try:
            said = await run_in_threadpool(service, base64.b64decode(asked["picture"]), question)
        except RuntimeError as error:
            return JSONResponse(
                {"title": str(error), "status": 503}, 503, media_type="application/problem+json"
            )
        return JSONResponse({"answer": said, "simulated": True})

    async def health(_: Request) -> Response:
        return JSONResponse({"status": "alive", "simulated": True})

    routes = [Route("/answer", answer, methods=["POST"]), Route("/health", health)]
    count, address = len(service.documents), f"http://127.0.0.1:{options.port}/"
    print(f"SIMULATED service for {count} documents at {address}", flush=True)
    uvicorn.run(Starlette(routes=routes), host="127.0.0.1", port=options.port, log_level="warning")


if __name__ == "__main__":
    main()
