"""How a vision model fares as a method: python benchmarks/remote.py TRUTH... [--most N] [--rates JSON]

Reads every PDF that has a truth by `combined`, by `remote`, and by `combined` with its doubtful tables
answered, with a SIMULATED service that answers from the truth and makes mistakes at set rates (wennak.remote.
simulated). Prints content similarity of the three, the share of pages and tables that were sent, and what
became of the mistakes: texts kept that do not stand on the page, lost rows told.
"""

from __future__ import annotations

import argparse
import json
import re
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path

import wennak.remote.method
from wennak.bench.scores import score_document
from wennak.bench.seen import as_seen
from wennak.errors import SourceError
from wennak.model import Document
from wennak.pipeline import read
from wennak.remote import Asking
from wennak.remote.lines import plain
from wennak.remote.simulated import Rates, Simulated
from wennak.truth import find_truth, load_truth

RATES = Rates(lost_rows=0.05, invented_rows=0.02, changed_digits=0.02)
# Findings name all lines, not the first few.
wennak.remote.method.NAMED = 10_000
_QUOTED = re.compile(r'"([^"]*)"')
# The truth of a table writes a list in a cell without its marks.
_MARKS = re.compile(r"^\s*[•▪◦‣–-]\s+", re.M)
_SENT = re.compile(r"asked about (\d+) of the (\d+) tables")


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("truth", nargs="+", type=Path)
    parser.add_argument("--most", type=int, help="so many documents of each folder")
    parser.add_argument("--rates", type=json.loads, help='such as {"lost_rows": 0.05}')
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    rates = RATES if options.rates is None else Rates(**options.rates)
    paths = [t.path for folder in options.truth for t in find_truth(folder)[: options.most]]
    sums: dict[str, float] = defaultdict(float)
    with ProcessPoolExecutor(options.workers) as pool:
        for found in pool.map(partial(measured, rates=rates), paths, chunksize=2):
            for what, count in found.items():
                sums[what] += count
    for name in ("combined", "remote", "hybrid"):
        print(
            f"{name:10} content {sums[name] / max(sums['tables'], 1):.4f}, exact "
            f"{sums[f'{name} exact'] / max(sums['tables'], 1):.4f}, invented {sums[f'{name} extra']:.0f}"
        )
    print(", ".join(f"{n} {v:.0f}" for n, v in sorted(sums.items()) if v == int(v)))


def measured(path: Path, rates: Rates) -> dict[str, float]:
    """The sums of one document."""
    truth = load_truth(path)
    pdf = truth.pdf
    assert pdf is not None
    out: dict[str, float] = defaultdict(float)
    try:
        seen = as_seen(truth, pdf)
    except SourceError:
        return out
    out["documents"] += 1
    out["tables"] += len(truth.tables)
    asking = Asking(pause=0.01, scale=0.5)
    for name, method in (("combined", "combined"), ("remote", "remote"), ("hybrid", "combined")):
        service = None if name == "combined" else Simulated({pdf.name: seen}, rates)
        document = read(pdf, method=method, service=service, asking=asking)
        result, tables = score_document(path.stem, truth, document)
        out[name] += sum(t.scores["content"] or 0.0 for t in tables)
        out[f"{name} exact"] += sum(t.scores["exact"] == 1 for t in tables)
        out[f"{name} extra"] += result.extra
        if service is not None:
            out[f"{name} pages"] += len(document.pages)
            out[f"{name} pages asked"] += len({f.page for f in document.findings if f.code == "asked"})
            out[f"{name} no answer"] += sum(f.code == "no-answer" for f in document.findings)
        if name == "hybrid":
            _count_sent(document, out)
            out["hybrid tables taken"] += sum(t.method == "remote" for t in document.tables)
        if name == "remote" and service is not None:
            _count_mistakes(document, seen, service, out)
    return dict(out)


def _count_sent(document: Document, out: dict[str, float]) -> None:
    for finding in document.findings:
        if found := _SENT.search(finding.message):
            out["hybrid tables sent"] += int(found[1])


def _count_mistakes(document: Document, seen: Document, service: Simulated, out: dict[str, float]) -> None:
    """What became of the mistakes of a service, by what the truth says of each page."""
    said: dict[int, set[str]] = defaultdict(set)
    for table in seen.tables:
        said[table.places[0].page] |= {_compared(c.text) for c in table.cells}
    told: dict[int, list[set[str]]] = defaultdict(list)
    for finding in document.findings:
        if finding.code == "lost-lines":
            told[finding.page] += [set(line.split()) for line in _QUOTED.findall(finding.message)]
    out["lines told as lost"] += sum(map(len, told.values()))
    for _, page, what, row in service.done:
        out[f"{what} by the service"] += 1
        if what == "lost":
            out["lost and told"] += _is_told(set(row.split()), told[page])
    for table in document.tables:
        for cell in table.cells:
            if cell.text and cell.places:
                out["kept"] += 1
                out["kept, in no cell of the truth"] += _compared(cell.text) not in said[cell.places[0].page]


def _compared(text: str) -> str:
    return plain(_MARKS.sub("", text))


def _is_told(words: set[str], lines: list[set[str]]) -> bool:
    """Whether lines of the page say half of the words of a row; those lines are then used.

    A row whose cells are wrapped stands on several lines, each of which has mostly its words.
    """
    own = [line for line in lines if 2 * len(line & words) >= min(len(line), len(words))]
    found = 2 * len(words & set().union(*own)) >= len(words)
    for line in own if found else ():
        lines.remove(line)
    return found


if __name__ == "__main__":
    main()
