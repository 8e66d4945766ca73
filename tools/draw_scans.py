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

import numpy as np
import pypdfium2
from PIL import Image, ImageFilter

from wennak.demo.scans import bind


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
    dpi, angle, blur = rng.uniform(110, 240), rng.gauss(0, 0.6), rng.uniform(0.2, 0.9)
    noise, shade, dark = rng.uniform(0, 12), rng.uniform(0, 70), rng.uniform(0, 60)
    pages = []
    pdf = pypdfium2.PdfDocument(paper)
    for number, page in enumerate(pdf):
        picture = page.render(scale=dpi / 72, grayscale=True).to_pil().convert("L")
        picture = picture.rotate(angle, Image.Resampling.BICUBIC, fillcolor=255)
        light = np.asarray(picture.filter(ImageFilter.GaussianBlur(blur)), dtype=np.float64)
        light = dark + light * ((250 - dark) / 255) - np.linspace(0, shade, picture.width)
        light += np.random.default_rng(number).normal(0, noise, light.shape)
        pages.append(Image.fromarray(light.clip(0, 255).astype(np.uint8)))
    pdf.close()
    bind(pages, dpi, rng.randrange(45, 90), path)


if __name__ == "__main__":
    main()
