"""The columns of a page agree with a plain interpreter that takes one character at a time."""

from __future__ import annotations

import io
import itertools
import random
import unittest

import numpy as np
import pikepdf

from tests.support import pdf_of
from tests.test_ink import ink_of

# Equal characters stand far apart in the stream, since one struck twice at a place would count once.
LETTERS = "".join(map(chr, range(32, 127)))
WIDTHS = {"F1": [400 + 7 * k for k in range(95)], "F2": [600] * 95}
FONTS = {
    name: {
        "Subtype": "/TrueType", "BaseFont": f"/Made{name}", "Encoding": "/WinAnsiEncoding", "FirstChar": 32,
        "LastChar": 126, "Widths": widths,
    }
    for name, widths in WIDTHS.items()
}  # fmt: skip
Matrix = np.ndarray
Glyph = tuple[str, float, float]


def matrix(a: float, b: float, c: float, d: float, e: float, f: float) -> Matrix:
    return np.array([[a, b, 0], [c, d, 0], [e, f, 1]], dtype=float)


def literal(rng: random.Random, text: str) -> str:
    """A string object in one of the ways in which it may be written."""
    if rng.random() < 0.25:
        digits = text.encode().hex()
        return f"<{digits[:3]} {digits[3:]}>" if rng.random() < 0.3 else f"<{digits}>"
    octal = {c: f"\\{ord(c):03o}" for c in "(),\\"} if rng.random() < 0.3 else {}
    return "(" + "".join(octal.get(c, f"\\{c}" if c in "()\\" else c) for c in text) + ")"


def content(rng: random.Random) -> str:
    """A page of random text operators, states and matrices."""

    def number(low: float, high: float) -> str:
        return f"{rng.uniform(low, high):.3f}"

    letters = itertools.cycle(rng.sample(LETTERS, len(LETTERS)))

    def text() -> str:
        return "".join(itertools.islice(letters, rng.randrange(6)))

    def shown() -> str:
        kerns = ["", "-250", " 31.5 ", " % why\n -20 "]
        parts = [literal(rng, text()) + rng.choice(kerns) for _ in range(4)]
        return f"[{rng.choice(['', '-99'])}{''.join(parts)}] TJ"

    steps = [
        lambda: f"/F{rng.choice('12')} {number(6, 14)} Tf", lambda: f"{number(-0.3, 2)} Tc",
        lambda: f"{number(0, 4)} Tw", lambda: f"{rng.choice([70, 130])} Tz", lambda: f"{number(-3, 3)} Ts",
        lambda: f"{number(9, 15)} TL", lambda: f"{number(-5, 20)} {number(-15, 5)} Td",
        lambda: f"{number(-5, 5)} {number(-15, -9)} TD", lambda: "T*",
        lambda: f"{number(0.8, 1.2)} {number(-0.3, 0.3)} {number(-0.3, 0.3)} {number(0.8, 1.2)} 250 500 Tm",
        lambda: f"{literal(rng, text())} Tj", lambda: f"{literal(rng, text())} '",
        lambda: f'{number(0, 2)} {number(0, 1)} {literal(rng, text())} "', shown, shown,
    ]  # fmt: skip
    out = []
    for _ in range(4):
        out.append(
            f"q 1 {number(-0.2, 0.2)} 0 1 {number(-5, 5)} {number(-5, 5)} cm BT /F1 10 Tf 1 0 0 1 200 400 Tm"
        )
        out += [rng.choice(steps)() for _ in range(12)]
        out.append("ET Q")
    return " ".join(out)


def interpreted(data: bytes) -> list[Glyph]:
    """Characters with the places of their origins on the page, y downwards (ISO 32000-2, 9.4)."""
    out: list[Glyph] = []
    with pikepdf.open(io.BytesIO(data)) as pdf:
        instructions = pikepdf.parse_content_stream(pdf.pages[0])
    state = {"Tc": 0.0, "Tw": 0.0, "Tz": 100.0, "Ts": 0.0, "TL": 0.0, "font": "", "size": 0.0}
    ctm, saved = matrix(1, 0, 0, -1, 0, 792), []
    line = text = np.eye(3)

    def show(string: bytes) -> None:
        nonlocal text
        for code in string:
            place = matrix(1, 0, 0, 1, 0, state["Ts"]) @ text @ ctm
            out.append((chr(code), place[2, 0], place[2, 1]))
            width = WIDTHS[state["font"]][code - 32] / 1000 * state["size"] + state["Tc"]
            move((width + (state["Tw"] if code == 32 else 0)) * state["Tz"] / 100)

    def move(by: float) -> None:
        nonlocal text
        text = matrix(1, 0, 0, 1, by, 0) @ text

    def next_line(x: float, y: float) -> None:
        nonlocal line, text
        line = text = matrix(1, 0, 0, 1, x, y) @ line

    for operands, operator in ((i.operands, str(i.operator)) for i in instructions):
        if operator == "q":
            saved.append((ctm, dict(state)))
        elif operator == "Q":
            ctm, state = saved.pop()
        elif operator == "cm":
            ctm = matrix(*map(float, operands)) @ ctm
        elif operator == "Tm":
            line = text = matrix(*map(float, operands))
        elif operator == "Tf":
            state["font"], state["size"] = str(operands[0])[1:], float(operands[1])
        elif operator in state:
            state[operator] = float(operands[0])
        elif operator in ("Td", "TD"):
            x, y = map(float, operands)
            state["TL"] = -y if operator == "TD" else state["TL"]
            next_line(x, y)
        elif operator == "TJ":
            for item in operands[0]:
                if isinstance(item, pikepdf.String):
                    show(bytes(item))
                else:
                    move(-float(item) / 1000 * state["size"] * state["Tz"] / 100)
        elif operator in ("T*", "'", '"', "Tj"):
            if operator == '"':
                state["Tw"], state["Tc"] = float(operands[0]), float(operands[1])
            if operator != "Tj":
                next_line(0, -state["TL"])
            if operator != "T*":
                show(bytes(operands[-1]))
    return out


class TestReference(unittest.TestCase):
    def test_random_pages_have_the_same_characters_at_the_same_places(self) -> None:
        rng = random.Random(23)
        for trial in range(60):
            data = pdf_of(content(rng), FONTS)
            glyphs, ink = interpreted(data), ink_of(data)
            with self.subTest(trial):
                g = ink.glyphs
                found = list(zip([ink.texts.strings[t] for t in g.text.tolist()], g.x, g.y, strict=True))
                self.assertEqual([c for c, *_ in found], [c for c, *_ in glyphs])
                np.testing.assert_allclose([p for _, *p in found], [p for _, *p in glyphs], atol=1e-6)


if __name__ == "__main__":
    unittest.main()
