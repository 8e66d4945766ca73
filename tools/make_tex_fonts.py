"""Write the widths of TeX's own typefaces: python tools/make_tex_fonts.py

Reads the metrics (TFM; Fuchs 1981) of the Computer Modern, European and Cyrillic families of the TeX that is
installed. The result is kept in the repository: it tells what a font shows whose glyphs bear no names.
"""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path

import numpy as np

OUT = Path(__file__).parent.parent / "src/wennak/ink/data/tex_fonts.npz"
SIZES = ("0500", "0600", "0700", "0800", "0900", "1000", "1095", "1200", "1440", "1728", "2074", "2488")
# By encoding: the faces of its families, each with all its sizes.
EUROPEAN = "ecrm ecbx ecti ecss ectt eccc ecsx ecbi ecsl"
CYRILLIC = "larm labx lati lass latt"
COMPANIONS = "tcrm tcbx tcti tcss tctt"
MODERN = {
    "OT1": "cmr5 cmr6 cmr7 cmr8 cmr9 cmr10 cmr12 cmr17 cmbx5 cmbx6 cmbx7 cmbx8 cmbx9 cmbx10 cmbx12 cmb10 "
    "cmsl8 cmsl9 cmsl10 cmsl12 cmss8 cmss9 cmss10 cmss12 cmss17 cmssi8 cmssi9 cmssi10 cmssi12 cmssbx10 "
    "cmssdc10 cmbxsl10 cmcsc10 cmdunh10",
    "OT1it": "cmti7 cmti8 cmti9 cmti10 cmti12 cmbxti10 cmu10",
    "OT1tt": "cmtt8 cmtt9 cmtt10 cmtt12 cmsltt10 cmitt10",
    "OML": "cmmi5 cmmi6 cmmi7 cmmi8 cmmi9 cmmi10 cmmi12 cmmib10",
    "OMS": "cmsy5 cmsy6 cmsy7 cmsy8 cmsy9 cmsy10 cmbsy10",
}


def main() -> None:
    """Write the file."""
    faces = [(name, encoding) for encoding, names in MODERN.items() for name in names.split()]
    for encoding, families, sizes in (
        ("T1", EUROPEAN, SIZES), ("T2A", CYRILLIC, SIZES[3::2]), ("TS1", COMPANIONS, SIZES[3::2]),
    ):  # fmt: skip
        faces += [(f"{family}{size}", encoding) for family in families.split() for size in sizes]
    kept = [(name, encoding, path) for name, encoding in faces if (path := found(name))]
    widths = np.array([widths_of(path) for _, _, path in kept])
    with OUT.open("wb") as file:
        np.savez_compressed(
            file,
            names=np.array([name for name, _, _ in kept]),
            encodings=np.array([encoding for _, encoding, _ in kept]),
            widths=np.round(widths * 1e4).astype(np.uint16),
        )
    print(f"{len(kept)} of {len(faces)} faces")


def found(name: str) -> Path | None:
    """The metrics of a face, which are made where they are not there yet."""
    command = ["kpsewhich", "-mktex=tfm", f"{name}.tfm"]
    # What cannot be made leaves a log where it was asked for.
    with tempfile.TemporaryDirectory() as folder:
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    path = done.stdout.strip()
    return Path(path) if path else None


def widths_of(path: Path) -> list[float]:
    """The width of each of 256 codes, in em; 0 for those that there are not."""
    data = path.read_bytes()
    _, header, first, last, _ = (int(n) for n in np.frombuffer(data[:10], ">u2"))
    characters = 24 + 4 * header
    index = np.frombuffer(data, ">u1", 4 * (last - first + 1), characters)[::4]
    table = np.frombuffer(data, ">i4", int(index.max()) + 1, characters + 4 * (last - first + 1))
    out = np.zeros(256)
    out[first : last + 1] = table[index] / 2**20
    return [float(width) for width in out]


if __name__ == "__main__":
    main()
