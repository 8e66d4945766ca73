"""Scans and photographs of some of the papers, as an office makes them: skewed, noisy, unevenly lit.

Run by `draw.py`; needs nothing but what Wennak itself needs.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
from PIL import Image, ImageFilter

# Dots an inch of the office's scanner and of the harbour master's telephone.
DPI = 170
SEED = 1907


def draw_scan(paper: Path, path: Path) -> None:
    """Write a PDF that holds nothing but the scanned pages of a paper."""
    bind(_pages(paper, angle=1.3, noise=7.0, shade=0.0), DPI, 60, path)


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
    picture = _pages(paper, angle=-0.8, noise=4.0, shade=70.0)[0]
    picture.save(path, "JPEG", quality=70, dpi=(DPI, DPI))


def _pages(paper: Path, angle: float, noise: float, shade: float) -> list[Image.Image]:
    random = np.random.default_rng(SEED)
    pages = []
    pdf = pypdfium2.PdfDocument(paper)
    for page in pdf:
        picture = page.render(scale=DPI / 72, grayscale=True).to_pil().convert("L")
        picture = picture.rotate(angle, Image.Resampling.BICUBIC, fillcolor=255)
        picture = picture.filter(ImageFilter.GaussianBlur(0.5))
        light = 25 + np.asarray(picture, dtype=np.float64) * (215 / 255)
        light -= np.linspace(0, shade, picture.width)
        light += random.normal(0, noise, light.shape)
        pages.append(Image.fromarray(light.clip(0, 255).astype(np.uint8)))
    pdf.close()
    return pages
