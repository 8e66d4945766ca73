"""Scans and photographs of some of the papers, as an office makes them: skewed, noisy, unevenly lit.

Run by `draw.py`; needs nothing but what Wennak itself needs.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
from PIL import Image, ImageFilter

# Dots an inch of the office's scanner and of the harbour master's telephone.
DPI = 170
SEED = 1907


@dataclass(frozen=True, slots=True)
class Scanner:
    """What a scanner makes of a page: dots an inch, turned by degrees and blurred by dots; ink and paper on a
    scale to 255, noise and what is lost towards the right on the same.
    """

    angle: float
    noise: float
    shade: float = 0.0
    dpi: float = DPI
    blur: float = 0.5
    ink: float = 25.0
    paper: float = 240.0


def draw_scan(paper: Path, path: Path) -> None:
    """Write a PDF that holds nothing but the scanned pages of a paper."""
    bind(scanned(paper, Scanner(angle=1.3, noise=7.0), SEED), DPI, 60, path)


def bind(pages: Sequence[Image.Image], dpi: float, quality: int, path: Path) -> None:
    """Write a PDF of nothing but grey pictures of pages, of so many dots an inch, packed as JPEG."""
    pdf = pikepdf.new()
    for picture in pages:
        data = io.BytesIO()
        picture.save(data, "JPEG", quality=quality)
        image = pikepdf.Stream(
            pdf,
            data.getvalue(),
            Type=pikepdf.Name.XObject,
            Subtype=pikepdf.Name.Image,
            Filter=pikepdf.Name.DCTDecode,
            ColorSpace=pikepdf.Name.DeviceGray,
            BitsPerComponent=8,
            Width=picture.width,
            Height=picture.height,
        )
        width, height = (side / dpi * 72 for side in picture.size)
        page = pdf.add_blank_page(page_size=(width, height))
        page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=pdf.make_indirect(image)))
        page.Contents = pdf.make_stream(b"q %f 0 0 %f 0 0 cm /P Do Q" % (width, height))
    pdf.save(path, deterministic_id=True)


def draw_photo(paper: Path, path: Path) -> None:
    """Write a photograph of the first page of a paper, darker towards one side."""
    picture = scanned(paper, Scanner(angle=-0.8, noise=4.0, shade=70.0), SEED)[0]
    picture.save(path, "JPEG", quality=70, dpi=(DPI, DPI))


def scanned(paper: Path, scanner: Scanner, seed: int) -> list[Image.Image]:
    """Return grey pictures of the pages of a PDF."""
    random = np.random.default_rng(seed)
    pages = []
    pdf = pypdfium2.PdfDocument(paper)
    for page in pdf:
        picture = page.render(scale=scanner.dpi / 72, grayscale=True).to_pil().convert("L")
        picture = picture.rotate(scanner.angle, Image.Resampling.BICUBIC, fillcolor=255)
        picture = picture.filter(ImageFilter.GaussianBlur(scanner.blur))
        light = scanner.ink + np.asarray(picture, dtype=np.float64) * ((scanner.paper - scanner.ink) / 255)
        light -= np.linspace(0, scanner.shade, picture.width)
        light += random.normal(0, scanner.noise, light.shape)
        pages.append(Image.fromarray(light.clip(0, 255).astype(np.uint8)))
    pdf.close()
    return pages
