"""Fit the confidence of cells on drawn tables with known truth: python tools/fit_confidence.py [TABLES].

Draws random tables with and without rules, shading, spans, wrapped cells, tight columns; reads them; fits
a logistic model of which cells come out right. Writes src/wennak/tables/data/confidence.json. Takes the seed
into account: the same version draws and fits the same.
"""

from __future__ import annotations

import io
import json
import random
import sys
from pathlib import Path
from typing import Any

import numpy as np
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle
from scipy.optimize import minimize

from wennak.ink import PdfFile
from wennak.layout import lay_out
from wennak.tables import find_method
from wennak.tables.confidence import FEATURES, features
from wennak.tables.draft import finished

OUT = Path(__file__).parent.parent / "src/wennak/tables/data/confidence.json"
WORDS = "harbour pier ferry tide rope lamp keeper swell cargo crew berth sound isle mast hull anchor winch deck".split()
# A weak pull of the weights to nothing.
RIDGE = 0.5

Grid = list[list[str]]


def main() -> None:
    """Draw, read, fit, and write the weights."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 1500
    rows, right = [], []
    for seed in range(count):
        x, y = observe(random.Random(seed))
        rows.append(x)
        right.append(y)
    x, y = np.concatenate(rows), np.concatenate(right)
    weights = fit(x, y)
    p = 1 / (1 + np.exp(-(x @ weights)))
    data = {
        "format": "wennak-confidence", "version": 1, "model": "logistic", "tables": count, "cells": len(y),
        "weights": {name: round(float(v), 4) for name, v in zip(FEATURES, weights, strict=True)},
    }  # fmt: skip
    OUT.write_text(json.dumps(data, indent=1) + "\n", encoding="utf-8")
    sure = p >= 0.95
    print(
        f"{len(y)} cells, {y.mean():.3f} right; of {sure.mean():.3f} with p >= 0.95 {y[sure].mean():.3f} right"
    )


def fit(x: Any, y: Any) -> Any:
    """Weights of the logistic model with the largest likelihood, less RIDGE times their squares."""

    def loss(weights: Any) -> tuple[float, Any]:
        z = x @ weights
        gradient = x.T @ (1 / (1 + np.exp(-z)) - y) + RIDGE * weights
        return float(np.logaddexp(0, z).sum() - (y * z).sum() + RIDGE * (weights**2).sum() / 2), gradient

    return minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B").x


def observe(rng: random.Random) -> tuple[Any, Any]:
    """Draw one table between two paragraphs; the features of the cells read from it and which are right."""
    grid, spans, data = drawn(rng)
    truth = {}
    covered = {(r + i, c + j) for r, c, h, w in spans for i in range(h) for j in range(w)} - {
        (r, c) for r, c, _, _ in spans
    }
    sizes = {(r, c): (h, w) for r, c, h, w in spans}
    for r, row in enumerate(grid):
        for c, text in enumerate(row):
            if text and (r, c) not in covered:
                truth[r, c] = (*sizes.get((r, c), (1, 1)), text)
    with PdfFile(data, "drawn") as pdf:
        layout = lay_out(pdf.page(1))
    drafts = find_method("combined")(layout)
    if not drafts:
        return np.empty((0, len(FEATURES))), np.empty(0)
    draft = max(drafts, key=lambda d: len(d.word_indices()))
    cells = {(c.row, c.column): c for c in finished(draft, layout).cells}
    right = []
    for part in draft.cells:
        cell = cells.get((part.row, part.column))
        text = " ".join(cell.text.split()) if cell else ""
        size = (part.rowspan, part.colspan)
        right.append((*size, text) == truth.get((part.row, part.column), (*size, "")))
    keep = [k for k, part in enumerate(draft.cells) if part.words]
    return features(layout, draft)[keep], np.array(right, dtype=float)[keep]


def drawn(rng: random.Random) -> tuple[Grid, list[tuple[int, int, int, int]], bytes]:
    """A random table: its texts, its spans (row, column, rows, columns) and a PDF of it."""
    columns, rows = rng.randrange(2, 9), rng.randrange(3, 22)
    wraps = rng.random() < 0.35
    kinds = ["label"] + [
        rng.choice(["number", "number", "word", "text" if wraps else "word"]) for _ in range(columns - 1)
    ]
    empty = rng.choice([0.0, 0.0, 0.0, 0.1, 0.2])
    grid = [
        [phrase(rng, 1 + (rng.random() < 0.3)) if c or rng.random() < 0.8 else "" for c in range(columns)]
    ]
    for _ in range(rows):
        if rng.random() < 0.03:
            grid.append([phrase(rng, 2), *[""] * (columns - 1)])
            continue
        grid.append(
            [value(rng, kind) if k == 0 or rng.random() > empty else "" for k, kind in enumerate(kinds)]
        )
    spans: list[tuple[int, int, int, int]] = []
    if columns >= 4 and rng.random() < 0.2:
        width = rng.randrange(2, columns)
        start = rng.randrange(1, columns - width + 1)
        grid.insert(0, ["" if c != start else phrase(rng, 1) for c in range(columns)])
        spans.append((0, start, 1, width))
    size, pad = rng.uniform(7, 11), rng.choice([2, 3, 4, 6, 8])
    style = ParagraphStyle("c", fontName="Helvetica", fontSize=size, leading=size * 1.2)
    shown = [
        [Paragraph(t, style) if kinds[c] == "text" and t else t for c, t in enumerate(row)] for row in grid
    ]
    if rng.random() < 0.3:
        # Header cells over two lines, without a line between.
        shown[len(spans)] = [t.replace(" ", "\n") if isinstance(t, str) else t for t in shown[len(spans)]]
    commands: list[tuple[Any, ...]] = [
        ("FONT", (0, 0), (-1, -1), "Helvetica", size),
        ("LEFTPADDING", (0, 0), (-1, -1), pad), ("RIGHTPADDING", (0, 0), (-1, -1), pad),
        ("TOPPADDING", (0, 0), (-1, -1), rng.choice([0.5, 1, 2, 3])), ("BOTTOMPADDING", (0, 0), (-1, -1), rng.choice([0.5, 1, 2, 3])),
        ("VALIGN", (0, 0), (-1, -1), rng.choice(["TOP", "MIDDLE", "BOTTOM"])),
    ]  # fmt: skip
    commands += [
        ("ALIGN", (c, 0), (c, -1), "RIGHT" if kind == "number" else "LEFT") for c, kind in enumerate(kinds)
    ]
    commands += [("SPAN", (c, r), (c + w - 1, r + h - 1)) for r, c, h, w in spans]
    commands += [("ALIGN", (c, r), (c, r), "CENTER") for r, c, _, _ in spans]
    if rng.random() < 0.5:
        commands.append(("FONT", (0, 0), (-1, len(spans)), "Helvetica-Bold", size))
    commands += rng.choice(
        [
            [], [], [("GRID", (0, 0), (-1, -1), 0.5, colors.black)],
            [("LINEABOVE", (0, 0), (-1, 0), 1, colors.black), ("LINEBELOW", (0, len(spans)), (-1, len(spans)), 0.5, colors.black), ("LINEBELOW", (0, -1), (-1, -1), 1, colors.black)],
            [("LINEBELOW", (0, 0), (-1, -1), 0.3, colors.grey)],
            [("ROWBACKGROUNDS", (0, 1), (-1, -1), [colors.white, colors.Color(0.93, 0.93, 0.93)])],
            [("INNERGRID", (0, 0), (-1, -1), 0.4, colors.black)],
            [("BOX", (0, 0), (-1, -1), 0.5, colors.black), ("LINEBELOW", (0, len(spans)), (-1, len(spans)), 0.5, colors.black), ("LINEAFTER", (0, 0), (0, -1), 0.5, colors.black)],
        ]
    )  # fmt: skip
    widths = [rng.uniform(60, 110) if kind == "text" else None for kind in kinds]
    out = io.BytesIO()
    body = ParagraphStyle("p", fontName="Helvetica", fontSize=10, leading=13)
    prose = " ".join(rng.choice(WORDS) for _ in range(60))
    story = [
        Paragraph(prose, body),
        Spacer(1, 14),
        Table(shown, widths, style=TableStyle(commands)),
        Spacer(1, 14),
        Paragraph(prose, body),
    ]
    SimpleDocTemplate(out, pagesize=A4, invariant=1).build(story)
    return grid, spans, out.getvalue()


def phrase(rng: random.Random, most: int) -> str:
    """Up to so many words with a capital."""
    return " ".join(rng.choice(WORDS) for _ in range(rng.randrange(1, most + 1))).capitalize()


def value(rng: random.Random, kind: str) -> str:
    """The text of a body cell."""
    if kind == "number":
        return rng.choice(
            [f"{rng.uniform(0, 5000):,.2f}", str(rng.randrange(1, 900)), f"({rng.randrange(1, 90)})"]
        )
    return phrase(rng, {"label": 3, "word": 2, "text": 14}[kind])


if __name__ == "__main__":
    main()
