"""How many words of fonts that name no characters come out: python benchmarks/nameless.py FONT...

Each font file sets a page in every script that it has, in each kind of font of the demo (outlines, bitmaps,
a program without names), with codes in any order and nothing that says what they stand for. Needs the extra
ocr.
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from pathlib import Path

import wennak
from wennak.demo.nameless import KINDS, draw_nameless
from wennak.demo.scenario import Line

TEXTS = {
    "Latin": (
        "The harbour office of Skerra Sound opens at eight and closes at half past five.",
        "Vessels over 24 metres in length give notice two days before they arrive, by letter",
        "or by telephone, and state their draught, their cargo and the number of their crew.",
        "A berth at the old quay costs 1,203.80 for a quarter; a reduction of 9.5% is granted",
        "where it is paid before June. Zinc, maize, jute and quartz are weighed at gate 6.",
        "Keep clear of the ferry at all times, and never moor between the two white posts.",
    ),
    "Greek": (
        "Το λιμεναρχείο ανοίγει στις οκτώ και κλείνει τον χειμώνα στις πέντε και μισή.",
        "Τα πλοία άνω των 24 μέτρων πρέπει να ειδοποιούν δύο ημέρες πριν φθάσουν, με γράμμα",
        "ή τηλέφωνο, και να δηλώνουν το βύθισμα, το φορτίο και τον αριθμό του πληρώματος.",
        "Η θέση στην παλιά προβλήτα κοστίζει 1.203,80 για ένα τρίμηνο, με έκπτωση 9,5%",
        "όταν η πληρωμή γίνεται πριν από τον Ιούνιο. Τα εμπορεύματα ζυγίζονται στην πύλη 6.",
    ),
    "Cyrillic": (
        "Управление порта открывается в восемь, а закрывается зимой в половине шестого.",
        "Суда длиннее 24 метров должны известить о прибытии за два дня, письменно или по",
        "телефону, и указать осадку, груз и число людей на борту. Место у старого причала",
        "стоит 1 203,80 за четверть года; скидка в 9,5% даётся тем, кто платит до июня.",
        "Цинк, мука, хлопок и щебень взвешиваются у ворот номер 6, а рыба у старых весов.",
    ),
}  # fmt: skip


def main(faces: list[str]) -> int:
    """Read each page, and print the share of its words that come out."""
    if not faces:
        print(__doc__, file=sys.stderr)
        return 2
    shares: dict[str, list[float]] = {script: [] for script in TEXTS}
    for face in map(Path, faces):
        for script, texts in TEXTS.items():
            try:
                found = [share(texts, face, kind) for kind in KINDS]
            except ValueError:
                # The font has not all of these letters.
                continue
            shares[script] += found
            told = ", ".join(f"{kind} {value:.3f}" for kind, value in zip(KINDS, found, strict=True))
            print(f"{face.stem}, {script}: {told}", flush=True)
    for script, values in shares.items():
        if values:
            mean, least = sum(values) / len(values), min(values)
            print(f"{script}: mean {mean:.4f}, least {least:.3f}, {len(values)} pages")
    return 0


def share(texts: tuple[str, ...], face: Path, kind: str) -> float:
    """The share of the words of a page in a font without names that come out."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "page.pdf"
        draw_nameless(path, [([Line(60, 90 + 16 * k, 10.5, t) for k, t in enumerate(texts)], [])], face, kind)
        document = wennak.read(path)
    written = Counter(" ".join(texts).split())
    return (written & Counter(" ".join(document.texts()).split())).total() / written.total()


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
