"""What a PDF says of itself: outline, structure tree, links (ISO 32000-2, 12.3.3, 14.7, 12.5.6.5)."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import pikepdf

# Outlines and structure trees of damaged files may loop; no sound one is deeper or larger than this.
_MAX_DEPTH = 64
_MAX_NODES = 200_000


@dataclass(frozen=True, slots=True)
class OutlineItem:
    """An entry of the outline: its title, depth (1 the highest) and page (from 1, 0 if unknown)."""

    title: str
    level: int
    page: int


@dataclass(slots=True)
class Element:
    """A node of the structure tree: its role after the role map, the marked content it holds by page
    (number from 1, MCID), spans for table cells, and the nodes below it in order.
    """

    role: str
    content: list[tuple[int, int]] = field(default_factory=list)
    rowspan: int = 1
    colspan: int = 1
    children: list[Element] = field(default_factory=list)


def read_outline(pdf: pikepdf.Pdf, page_numbers: dict[tuple[int, int], int]) -> list[OutlineItem]:
    """Return the entries of the outline from first to last, with their depth."""
    out: list[OutlineItem] = []
    seen: set[tuple[int, int]] = set()
    with contextlib.suppress(Exception):
        stack = [(pdf.Root.Outlines.First, 1)]
        while stack and len(out) < _MAX_NODES:
            node, level = stack.pop()
            if node.objgen in seen or level > _MAX_DEPTH:
                continue
            seen.add(node.objgen)
            if "/Next" in node:
                stack.append((node.Next, level))
            if "/First" in node:
                stack.append((node.First, level + 1))
            title = " ".join(str(node.get("/Title", "")).split())
            if title:
                out.append(OutlineItem(title, level, _target_page(pdf, node, page_numbers)))
    return out


def _target_page(pdf: pikepdf.Pdf, node: Any, page_numbers: dict[tuple[int, int], int]) -> int:
    with contextlib.suppress(Exception):
        target = node.get("/Dest")
        if target is None:
            target = node.A.D
        if isinstance(target, (pikepdf.Name, pikepdf.String)):
            target = _named_target(pdf, target)
        if isinstance(target, pikepdf.Dictionary):
            target = target.D
        return page_numbers.get(target[0].objgen, 0)
    return 0


def _named_target(pdf: pikepdf.Pdf, name: Any) -> Any:
    if isinstance(name, pikepdf.Name):
        return pdf.Root.Dests[str(name)]
    return pikepdf.NameTree(pdf.Root.Names.Dests)[str(name)]


def read_structure(pdf: pikepdf.Pdf, page_numbers: dict[tuple[int, int], int]) -> Element | None:
    """Return the root of the structure tree, or None where the PDF has none that can be read."""
    try:
        tree = pdf.Root.StructTreeRoot
        roles = {str(k)[1:]: str(v)[1:] for k, v in tree.get("/RoleMap", {}).items()}
        walk = _TreeWalk(roles, page_numbers)
        root = Element("Root")
        walk.kids(tree.get("/K"), root, 0, 0)
        return root
    except Exception:
        return None


class _TreeWalk:
    def __init__(self, roles: dict[str, str], page_numbers: dict[tuple[int, int], int]) -> None:
        self._roles = roles
        self._pages = page_numbers
        self._left = _MAX_NODES

    def kids(self, kids: Any, parent: Element, page: int, depth: int) -> None:
        if kids is None or depth > _MAX_DEPTH:
            return
        for kid in kids if isinstance(kids, pikepdf.Array) else [kids]:
            self._left -= 1
            if self._left < 0:
                return
            self._kid(kid, parent, page, depth)

    def _kid(self, kid: Any, parent: Element, page: int, depth: int) -> None:
        if isinstance(kid, int):
            parent.content.append((page, kid))
            return
        if not isinstance(kid, pikepdf.Dictionary):
            return
        if "/Pg" in kid:
            page = self._pages.get(kid.Pg.objgen, page)
        kind = kid.get("/Type")
        if kind == "/MCR":
            parent.content.append((page, int(kid.get("/MCID", -1))))
        elif kind != "/OBJR":
            element = Element(self._role(str(kid.get("/S", "/Span"))[1:]))
            self._attributes(kid.get("/A"), element)
            parent.children.append(element)
            self.kids(kid.get("/K"), element, page, depth + 1)

    def _role(self, role: str) -> str:
        for _ in range(8):
            if role not in self._roles:
                break
            role = self._roles[role]
        return role

    def _attributes(self, attributes: Any, element: Element) -> None:
        for entry in attributes if isinstance(attributes, pikepdf.Array) else [attributes]:
            if isinstance(entry, pikepdf.Dictionary):
                with contextlib.suppress(TypeError, ValueError):
                    element.rowspan = max(1, int(entry.get("/RowSpan", element.rowspan)))
                    element.colspan = max(1, int(entry.get("/ColSpan", element.colspan)))


def page_links(page: Any) -> Iterator[tuple[tuple[float, float, float, float], str]]:
    """Yield the rectangle, in user space, and the URI of every link of a page that leads out of it."""
    with contextlib.suppress(Exception):
        for annotation in page.obj.get("/Annots", []):
            with contextlib.suppress(Exception):
                if annotation.Subtype == "/Link" and annotation.A.S == "/URI":
                    x0, y0, x1, y1 = (float(v) for v in annotation.Rect)
                    yield (x0, y0, x1, y1), str(annotation.A.URI)
