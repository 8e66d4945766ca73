"""Tagged PDFs for tests: pieces of text with the structure elements that they are."""

from __future__ import annotations

import io
from collections.abc import Sequence

import pikepdf
from pikepdf import Array, Dictionary, Name

from tests.support import joined, pdf_of

# A node is (role, child, child, ...); a child is a node or the number of a piece of text; "TD 2" is a cell
# over two rows, "TD 1 3" one over three columns.
Node = tuple


# Pieces of text of a page: x, y, text.
Pieces = Sequence[tuple[float, float, str]]


def tagged_pdf(pieces: Pieces, tree: Sequence[Node], size: float = 10, lines: str = "") -> bytes:
    """Draw pieces of text in their order, each as marked content, under the given tree, and lines besides."""
    return tagged_pages([pieces], tree, size, lines)


def tagged_pages(pages: Sequence[Pieces], tree: Sequence[Node], size: float = 10, lines: str = "") -> bytes:
    """The same for several pages: pieces are numbered over all."""
    drawn = [
        pdf_of(
            f"/Artifact BMC {lines} EMC "
            + "".join(
                f"/P <</MCID {k}>> BDC BT /F1 {size} Tf {x} {y} Td ({text}) Tj ET EMC "
                for k, (x, y, text) in enumerate(pieces)
            )
        )
        for pieces in pages
    ]
    with pikepdf.open(io.BytesIO(joined(drawn))) as pdf:
        places = [
            (page.obj, k) for page, pieces in zip(pdf.pages, pages, strict=True) for k in range(len(pieces))
        ]

        def element(node: Node) -> pikepdf.Object:
            role, *children = node
            own = [places[child] for child in children if isinstance(child, int)]
            page = own[0][0] if own else pdf.pages[0].obj
            kids = [
                element(child)
                if not isinstance(child, int)
                else places[child][1]
                if places[child][0] == page
                else Dictionary(Type=Name.MCR, Pg=places[child][0], MCID=places[child][1])
                for child in children
            ]
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
