"""Write the metrics of the 14 standard fonts, the encodings that PDF names, and the characters of the glyph
names in them (ISO 32000-2, 9.6.2.2 and annex D; the Adobe Glyph List).

Run: python tools/make_standard14.py. The figures are those of the published font metrics, as they come
with reportlab; the result is kept in the repository so that reading a PDF needs neither reportlab nor, for
such names, the whole glyph list.
"""

import json
from pathlib import Path

from fontTools import agl
from fontTools.encodings.MacRoman import MacRoman
from fontTools.encodings.StandardEncoding import StandardEncoding
from reportlab.pdfbase import _fontdata

OUT = Path(__file__).parent.parent / "src/wennak/ink/data/standard14.json"


def main() -> None:
    """Write the file."""
    fonts = {
        name: {
            "ascent": _fontdata.ascent_descent[name][0],
            "descent": _fontdata.ascent_descent[name][1],
            "widths": dict(sorted(_fontdata.widthsByFontGlyph[name].items())),
        }
        for name in sorted(_fontdata.standardFonts)
    }
    encodings = {
        "StandardEncoding": without_notdef(StandardEncoding),
        "MacRomanEncoding": without_notdef(MacRoman),
        "WinAnsiEncoding": win_ansi(),
        "Symbol": list(_fontdata.encodings["SymbolEncoding"]),
        "ZapfDingbats": list(_fontdata.encodings["ZapfDingbatsEncoding"]),
    }
    names = sorted({name for own in encodings.values() for name in own if name})
    characters = {name: text for name in names if (text := agl.toUnicode(name))}
    data = {"encodings": encodings, "characters": characters, "fonts": fonts}
    OUT.write_text(json.dumps(data, separators=(",", ":")) + "\n", encoding="utf-8")


def without_notdef(names: list[str]) -> list[str | None]:
    """Return names, None where a code shows nothing."""
    return [None if name in (".notdef", ".null") else name for name in names]


def win_ansi() -> list[str | None]:
    """Return the glyph names of WinAnsiEncoding, which are those of code page 1252."""
    names: list[str | None] = [None] * 32
    for code in range(32, 256):
        char = bytes((code,)).decode("cp1252", "replace")
        # Annex D.2: unused codes above 040 show a bullet, 240 a space, 255 a hyphen.
        fixed = {0xA0: "space", 0xAD: "hyphen", 0x7F: "bullet"}.get(code)
        names.append(fixed or ("bullet" if char == "\ufffd" else agl.UV2AGL.get(ord(char))))
    names[0xB5], names[0xB7] = "mu", "periodcentered"
    # The glyph list does not name them by their characters.
    names[0xB2], names[0xB3], names[0xB9] = "twosuperior", "threesuperior", "onesuperior"
    return names


if __name__ == "__main__":
    main()
