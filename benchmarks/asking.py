"""How much faster several questions at once are: python benchmarks/asking.py FILE.pdf [--seconds 0.2]

Reads a document by `remote` with a SIMULATED service that takes so long for an answer, one picture at a time
and eight, and then with a budget of two seconds. Prints both times with their ratio, and how many pages were
asked about and told to be left within the budget.
"""

from __future__ import annotations

import argparse
import time
from pathlib import Path

from wennak.model import Document
from wennak.pipeline import read
from wennak.remote import Asking
from wennak.remote.simulated import Rates, Simulated

WIDE, BUDGET = 8, 2.0


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("file", type=Path)
    parser.add_argument("--seconds", type=float, default=0.2)
    options = parser.parse_args()
    own = read(options.file)
    service = Simulated({options.file.name: own}, Rates(seconds=options.seconds))

    def timed(asking: Asking) -> tuple[float, Document]:
        begun = time.perf_counter()
        document = read(options.file, method="remote", service=service, asking=asking)
        return time.perf_counter() - begun, document

    alone, _ = timed(Asking(at_once=1))
    wide, _ = timed(Asking(at_once=WIDE))
    pages = len(own.pages)
    print(f"{pages} pages, {options.seconds:g} s an answer")
    print(f"one at a time: {alone:.1f} s; {WIDE} at once: {wide:.1f} s, {alone / wide:.1f} times as fast")
    spent, document = timed(Asking(at_once=1, budget=BUDGET))
    codes = [finding.code for finding in document.findings]
    print(f"budget of {BUDGET:g} s: {spent:.1f} s, {pages - codes.count('no-answer')} pages answered, "
          f"{codes.count('no-answer')} told to be left")  # fmt: skip


if __name__ == "__main__":
    main()
