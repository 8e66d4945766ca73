"""Write the metrics and built-in encodings of the 14 standard fonts (ISO 32000-2, 9.6.2.2 and annex D).

Run: python tools/make_standard14.py. The figures are those of the published font metrics, as they come
with reportlab; the result is kept in the repository so that reading a PDF does not need reportlab.
"""

import json
from pathlib import Path

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
        "Symbol": list(_fontdata.encodings["SymbolEncoding"]),
        "ZapfDingbats": list(_fontdata.encodings["ZapfDingbatsEncoding"]),
    }
    text = json.dumps({"encodings": encodings, "fonts": fonts}, indent=None, separators=(",", ":"))
    OUT.write_text(text + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
