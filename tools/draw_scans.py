"""Make scans of documents with known truth: python tools/draw_scans.py FOLDER SCANS

Writes SCANS/NAME.pdf, which holds nothing but pictures of the pages of FOLDER/NAME.pdf, with its NAME.html:
askew, blurred, noisy, unevenly lit and packed as scanners and copiers give them, at resolutions that offices
use. How much of each is drawn from continuous ranges.
"""

from __future__ import annotations

import argparse
import random
import shutil
from pathlib import Path

from wennak.demo.scans import Scanner, bind, scanned


def main() -> None:
    """Scan every document of a folder."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("folder", type=Path)
    parser.add_argument("scans", type=Path)
    options = parser.parse_args()
    options.scans.mkdir(parents=True, exist_ok=True)
    for paper in sorted(options.folder.glob("*.pdf")):
        scan(paper, options.scans / paper.name, random.Random(paper.stem))
        shutil.copy(paper.with_suffix(".html"), options.scans)


def scan(paper: Path, path: Path, rng: random.Random) -> None:
    """Write the pages of a paper as pictures."""
    scanner = Scanner(
        dpi=rng.uniform(110, 240),
        angle=rng.gauss(0, 0.6),
        blur=rng.uniform(0.2, 0.9),
        noise=rng.uniform(0, 12),
        shade=rng.uniform(0, 70),
        ink=rng.uniform(0, 60),
        paper=250.0,
    )
    bind(scanned(paper, scanner, rng.randrange(1 << 32)), scanner.dpi, rng.randrange(45, 90), path)


if __name__ == "__main__":
    main()
