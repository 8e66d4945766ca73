"""How many words come out of fonts whose glyph names are codes: python benchmarks/coded.py FONT...

Each font file sets pages in which the name of a glyph is nothing but its number: in ASCII, in two encodings
of TeX, and in an order that is none. Of the first three the share of the words that come out is printed, of
the last the share of the characters of which something is said, which is all guessed. Pages are not
recognised as pictures.
"""

from __future__ import annotations

import random
import sys
import tempfile
from collections import Counter
from collections.abc import Mapping
from pathlib import Path

import wennak
from wennak.demo.nameless import draw_nameless
from wennak.demo.scenario import Line
from wennak.ink.tex_encodings import tex_encoding

TEXT = (
    "The harbour office of Skerra Sound opens at eight and closes at half past five;",
    "vessels over 24 metres in length give notice two days before they arrive (by letter",
    "or by telephone), and state their draught, their cargo and the number of their crew.",
    "A berth at the old quay costs 1,203.80 for a quarter: a reduction of 95 is granted",
    "where it is paid before June. Zinc, maize, jute and quartz are weighed at gate 6.",
    "Keep clear of the ferry at all times, and never moor between the two white posts!",
)
SEED = 7


def encodings() -> dict[str, dict[str, int]]:
    """Return the code of each character in each encoding."""
    letters = sorted(set("".join(TEXT)))
    out = {"ASCII": {text: ord(text) for text in letters}}
    for name in ("OT1", "T1"):
        number = {text: code for code, text in sorted(tex_encoding(name).items(), reverse=True)}
        # Programs of TeX draw no blanks; here they keep a code of their own.
        out[name] = {text: number.get(text, 32) for text in letters}
    codes = random.Random(SEED).sample(range(33, 255), len(letters))
    out["none"] = dict(zip(letters, codes, strict=True))
    return out


def read(face: Path, codes: Mapping[str, int]) -> str:
    """Set a page in a font and read it again."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "page.pdf"
        lines = [Line(60, 90 + 16 * k, 10.5, text) for k, text in enumerate(TEXT)]
        draw_nameless(path, [(lines, [])], face, codes=codes)
        return " ".join(wennak.read(path, recognition=wennak.Recognition("never")).texts())


def main(faces: list[str]) -> int:
    """Read the pages of each font, and print what comes out."""
    if not faces:
        print(__doc__, file=sys.stderr)
        return 2
    written = Counter(" ".join(TEXT).split())
    for face in map(Path, faces):
        told = []
        for name, codes in encodings().items():
            text = read(face, codes)
            if name == "none":
                told.append(f"guessed {sum(c.isalnum() for c in text) / max(1, len(text)):.3f}")
            else:
                right = (written & Counter(text.split())).total() / written.total()
                told.append(f"{name} {right:.3f}")
        print(f"{face.stem}: {', '.join(told)}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
