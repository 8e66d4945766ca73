"""Fit what tells the signs of numbers in pictures: python tools/fit_numerals.py [SIGNS] [--out FILE]

Signs of every face that this machine has are drawn in rows, small, turned a little, blurred, with noise, with
little contrast, or squeezed as pictures are; what stands in the place of each is told to a network of one
hidden layer, as is what is a part of a digit, or of two. One family in five is left out and tells at the end
how well it reads faces that it has not seen.

Needs the extra `fit`: scikit-learn is loaded here only. What is fitted is evaluated with NumPy alone.
"""

from __future__ import annotations

import argparse
import io
import json
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from matplotlib import font_manager
from PIL import Image, ImageDraw, ImageFont
from scipy import ndimage

from wennak.scan.numerals import CLASSES, CUT, OTHER, SIGNS, sign_picture

OUT = Path(__file__).parent.parent / "src/wennak/scan/data/numerals.npz"
DIGITS = "0123456789"
# What else stands beside numbers; letters that look like digits are left out.
LETTERS = "ABCDEFGHJKLMNPQRTUVWXYZabcdefhijkmnprstuvwxyz*&#†‡"
DRAWN_AS = {"-": "-–−", "'": "'’"}
# Signs in a row, how many of them are signs and letters, and how many letters are raised as marks of notes.
ROW, SIGN_SHARE, LETTER_SHARE, RAISED = 4, 0.33, 0.05, 0.5
# Pixels an em, drawn so many times as large; a fifth of the families is left out.
SIZES, LARGER, LEFT_OUT = (13.0, 56.0), 3, 5
HIDDEN = 128
FILES = 8

Array = np.ndarray[Any, np.dtype[np.float64]]
Drawn = tuple[Array, Array]


def main() -> None:
    """Draw, fit, say how good it is, and write."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("signs", nargs="?", type=int, default=180_000)
    parser.add_argument("--out", type=Path, default=OUT)
    options = parser.parse_args()
    from sklearn.neural_network import MLPClassifier

    families = faces()
    names = sorted(families)
    apart = names[::LEFT_OUT]
    known = [path for name in names if name not in apart for path in families[name]]
    unknown = [path for name in apart for path in families[name]]
    print(f"{len(names)} families, {len(apart)} of them left out: {', '.join(apart)}")
    pictures, kinds = drawn(known, options.signs, 0)
    net = MLPClassifier((HIDDEN,), early_stopping=True, max_iter=80, batch_size=256, random_state=0)
    net.fit(pictures, kinds)
    test, true = drawn(unknown, options.signs // 15, 1)
    right = net.predict(test) == true
    digits = true < len(DIGITS)
    print(
        f"faces left out: {right[digits].mean():.4f} of the digits, {right[~digits].mean():.4f} of the rest"
    )
    about = {"format": "wennak-numerals", "version": 1, "classes": list(CLASSES), "families": names}
    about |= {"left_out": apart, "signs": len(kinds)}
    kept = dict(zip(("w0", "w1", "b0", "b1"), (*net.coefs_, *net.intercepts_), strict=True))
    options.out.parent.mkdir(exist_ok=True)
    np.savez_compressed(
        options.out,
        about=np.array(json.dumps(about)),
        **{name: values.astype(np.float16) for name, values in kept.items()},
    )


def faces() -> dict[str, list[str]]:
    """Return the files of the faces of this machine that have digits, by family."""
    families: dict[str, list[str]] = {}
    for path in sorted(font_manager.findSystemFonts()):
        try:
            font = ImageFont.truetype(path, 32)
            pictures = {bytes(font.getmask(digit)) for digit in DIGITS}
        except (OSError, ValueError):
            continue
        # A face without digits draws the same box for all.
        if len(pictures) == len(DIGITS) and all(font.getmask(digit).getbbox() for digit in DIGITS):
            families.setdefault(str(font.getname()[0]), []).append(path)
    return families


def drawn(paths: Sequence[str], count: int, seed: int) -> Drawn:
    """Return pictures of so many signs as rows, and the class of each."""
    with ProcessPoolExecutor() as pool:
        seeds = [(seed, n) for n in range(FILES)]
        parts = list(pool.map(_some, [paths] * FILES, [count // FILES] * FILES, seeds))
    return np.concatenate([p for p, _ in parts]), np.concatenate([k for _, k in parts])


def _some(paths: Sequence[str], count: int, seed: tuple[int, int]) -> Drawn:
    rng = np.random.default_rng(seed)
    pictures: list[Array] = []
    kinds: list[int] = []
    while len(pictures) < count:
        for picture, kind in row_of_signs(paths[int(rng.integers(len(paths)))], rng):
            pictures.append(picture)
            kinds.append(CLASSES.index(kind))
    return np.array(pictures, dtype=np.float32), np.array(kinds)


@cache
def _face(path: str, size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(path, size)


def row_of_signs(path: str, rng: np.random.Generator) -> Iterator[tuple[Array, str]]:
    """Yield the pictures of the signs of a random row, and of a part of a digit or of two, with classes."""
    em = float(np.exp(rng.uniform(*np.log(SIZES)))) * LARGER
    font = _face(path, round(em))
    height = -font.getbbox("0", anchor="ls")[1] / LARGER
    row = [_sign(rng) for _ in range(ROW)]
    size = (int(2.5 * em + sum(font.getlength(sign) for sign in row)), int(2 * em))
    x, y = 1.5 * em + rng.uniform(0, LARGER), 1.3 * em + rng.uniform(0, LARGER)
    turn = rng.normal(0, 0.3)
    sheets = []
    for sign in row:
        sheet = Image.new("L", size)
        raised = sign in LETTERS and rng.random() < RAISED
        used = _face(path, max(8, round(0.62 * em))) if raised else font
        shown = str(rng.choice(list(DRAWN_AS.get(sign, sign))))
        ImageDraw.Draw(sheet).text((x, y - 0.35 * em * raised), shown, fill=255, font=used, anchor="ls")
        x += used.getlength(shown)
        small = sheet.resize((size[0] // LARGER, size[1] // LARGER), Image.Resampling.BOX)
        sheets.append(np.asarray(small.rotate(turn, Image.Resampling.BILINEAR)) / 255)
    page = _worn(np.max(sheets, axis=0), rng)
    baseline = y / LARGER + rng.normal(0, 0.035) * height
    height *= 1 + rng.normal(0, 0.04)
    ends: list[Any] = [np.flatnonzero((sheet > 0.3).any(axis=0)) for sheet in sheets]
    for k, sign in enumerate(row):
        if len(ends[k]):
            others = np.max([sheet for j, sheet in enumerate(sheets) if j != k], axis=0)
            own = np.where((others > sheets[k]) & (others > 0.2), 0, page)
            a, b = ends[k][0] + rng.choice([0, 0, 0, -1, 1]), ends[k][-1] + 1 + rng.choice([0, 0, 0, -1, 1])
            if b > a:
                yield sign_picture(own, a, b, baseline, height), sign if sign not in LETTERS else OTHER
    k = int(rng.integers(ROW - 1))
    if row[k] in "023456789" and row[k + 1].isdigit() and len(ends[k]) and len(ends[k + 1]):
        yield sign_picture(page, *_wrong_cut(ends[k], ends[k + 1], rng), baseline, height), CUT


def _sign(rng: np.random.Generator) -> str:
    draw = rng.random()
    among = SIGNS if draw < SIGN_SHARE else LETTERS if draw < SIGN_SHARE + LETTER_SHARE else DIGITS
    return str(rng.choice(list(among)))


def _wrong_cut(one: Any, two: Any, rng: np.random.Generator) -> tuple[float, float]:
    """From where to where both of two digits stand, one and a part of the next, or a part of one."""
    (a, b), (c, d) = (one[0], one[-1] + 1), (two[0], two[-1] + 1)
    kind = rng.integers(3)
    if kind == 0:
        return a, d
    if kind == 1:
        return a, c + (d - c) * rng.uniform(0.35, 0.75)
    return a + (b - a) * rng.uniform(0.3, 0.65), d if rng.random() < 0.3 else b


def _worn(ink: Array, rng: np.random.Generator) -> Array:
    """What a page of ink (0..1) is like after it was scanned: its darkness (0..1), its ground taken away."""
    ink = ndimage.gaussian_filter(ink, rng.uniform(0, 0.22) * rng.choice([0, 1, 2, 3]))
    ground = rng.uniform(0, 0.25)
    grey = 255 * (1 - ground) * (1 - rng.uniform(0.45, 1) * ink)
    grey = np.clip(grey + rng.normal(0, rng.choice([0, 3, 8, 16]), grey.shape), 0, 255).astype(np.uint8)
    if rng.random() < 0.5:
        file = io.BytesIO()
        Image.fromarray(grey).save(file, "JPEG", quality=int(rng.integers(25, 90)))
        grey = np.asarray(Image.open(file))
    if rng.random() < 0.2:
        middle = (float(grey.min()) + float(grey.max())) / 2 + rng.normal(0, 10)
        grey = np.where(grey < middle, 0, 255).astype(np.uint8)
    light = float(np.percentile(grey, 90))
    return np.clip((light - grey) / max(light - float(grey.min()), 1), 0, 1)


if __name__ == "__main__":
    main()
