"""Tagged PDFs for tests: pieces of text with the structure elements that they are."""

from __future__ import annotations

import io
from collections.abc import Sequence

import pikepdf
from pikepdf import Array, Dictionary, Name

from tests.support import pdf_of

# A node is (role, child, child, ...); a child is a node or the number of a piece of text; "TD 2" is a cell
# over two rows, "TD 1 3" one over three columns.
Node = tuple


def tagged_pdf(
    pieces: Sequence[tuple[float, float, str]], tree: Sequence[Node], size: float = 10, lines: str = ""
) -> bytes:
    """Draw pieces of text (x, y, text) in their order, each as marked content, under the given tree,
    and lines besides.
    """
    content = f"/Artifact BMC {lines} EMC " + "".join(
        f"/P <</MCID {k}>> BDC BT /F1 {size} Tf {x} {y} Td ({text}) Tj ET EMC "
        for k, (x, y, text) in enumerate(pieces)
    )
    with pikepdf.open(io.BytesIO(pdf_of(content))) as pdf:
        page = pdf.pages[0].obj

        def element(node: Node) -> pikepdf.Object:
            role, *children = node
            kids = [child if isinstance(child, int) else element(child) for child in children]
            role, *spans = role.split()
            made = Dictionary(S=Name(f"/{role}"), Pg=page, K=Array(kids))
            if spans:
                rows, columns = [*map(int, spans), 1][:2]
                made.A = Dictionary(O=Name.Table, RowSpan=rows, ColSpan=columns)
            return pdf.make_indirect(made)

        root = Dictionary(Type=Name.StructTreeRoot, K=Array([element(node) for node in tree]))
        pdf.Root.StructTreeRoot = pdf.make_indirect(root)
        pdf.Root.MarkInfo = Dictionary(Marked=True)
        out = io.BytesIO()
        pdf.save(out, deterministic_id=True)
        return out.getvalue()
