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
_MAX_SPAN = 1000


@dataclass(frozen=True, slots=True)
class OutlineItem:
    """An entry of the outline: its title, depth (1 the highest) and page (from 1, 0 if unknown)."""

    title: str
    level: int
    page: int


@dataclass(slots=True)
class StructureTree:
    """The elements of a structure tree in document order, one entry of each list an element.

    roles: standard structure types, after the role map; parents: number of the element above, -1 at the top;
    rowspans, colspans: of table cells. `owners` gives the element that holds a piece of marked content, by
    page (from 1) and MCID; `filled` tells whether there is any in or below an element.
    """

    roles: list[str] = field(default_factory=list)
    parents: list[int] = field(default_factory=list)
    rowspans: list[int] = field(default_factory=list)
    colspans: list[int] = field(default_factory=list)
    owners: dict[tuple[int, int], int] = field(default_factory=dict)
    filled: list[bool] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.roles)


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


def read_structure(pdf: pikepdf.Pdf, page_numbers: dict[tuple[int, int], int]) -> StructureTree | None:
    """Return the structure tree, or None where the PDF has none that can be read."""
    try:
        if "/StructTreeRoot" not in pdf.Root:
            return None
        root = pdf.Root.StructTreeRoot
        roles = {str(k)[1:]: str(v)[1:] for k, v in root.get("/RoleMap", {}).items()}
        walk = _TreeWalk(roles, page_numbers)
        walk.kids(root.get("/K"), -1, 0, 0)
    except Exception:
        return None
    tree = walk.tree
    tree.filled = [False] * len(tree)
    for element in tree.owners.values():
        while element >= 0 and not tree.filled[element]:
            tree.filled[element] = True
            element = tree.parents[element]
    return tree if len(tree) else None


class _TreeWalk:
    def __init__(self, roles: dict[str, str], page_numbers: dict[tuple[int, int], int]) -> None:
        self.tree = StructureTree()
        self._roles = roles
        self._pages = page_numbers
        self._left = _MAX_NODES

    def kids(self, kids: Any, parent: int, page: int, depth: int) -> None:
        if kids is None or depth > _MAX_DEPTH:
            return
        for kid in kids if isinstance(kids, pikepdf.Array) else [kids]:
            self._left -= 1
            if self._left < 0:
                return
            self._kid(kid, parent, page, depth)

    def _kid(self, kid: Any, parent: int, page: int, depth: int) -> None:
        if isinstance(kid, int):
            self.tree.owners.setdefault((page, kid), parent)
            return
        if not isinstance(kid, pikepdf.Dictionary):
            return
        if "/Pg" in kid:
            page = self._pages.get(kid.Pg.objgen, page)
        kind = kid.get("/Type")
        if kind == "/MCR":
            # Content of a form that is drawn apart has MCIDs of its own, which are not those of the page.
            if "/Stm" not in kid:
                self.tree.owners.setdefault((page, int(kid.get("/MCID", -1))), parent)
        elif kind != "/OBJR":
            tree = self.tree
            tree.roles.append(self._role(str(kid.get("/S", "/Span"))[1:]))
            tree.parents.append(parent)
            rowspan, colspan = _spans(kid.get("/A"))
            tree.rowspans.append(rowspan)
            tree.colspans.append(colspan)
            self.kids(kid.get("/K"), len(tree) - 1, page, depth + 1)

    def _role(self, role: str) -> str:
        for _ in range(8):
            if role not in self._roles:
                break
            role = self._roles[role]
        return role


def _spans(attributes: Any) -> tuple[int, int]:
    rowspan = colspan = 1
    for entry in attributes if isinstance(attributes, pikepdf.Array) else [attributes]:
        if isinstance(entry, pikepdf.Dictionary):
            with contextlib.suppress(TypeError, ValueError):
                rowspan = min(max(1, int(entry.get("/RowSpan", rowspan))), _MAX_SPAN)
                colspan = min(max(1, int(entry.get("/ColSpan", colspan))), _MAX_SPAN)
    return rowspan, colspan


def page_links(page: Any) -> Iterator[tuple[tuple[float, float, float, float], str]]:
    """Yield the rectangle, in user space, and the URI of every link of a page that leads out of it."""
    with contextlib.suppress(Exception):
        for annotation in page.obj.get("/Annots", []):
            with contextlib.suppress(Exception):
                if "/A" in annotation and annotation.Subtype == "/Link" and annotation.A.S == "/URI":
                    x0, y0, x1, y1 = (float(v) for v in annotation.Rect)
                    yield (x0, y0, x1, y1), str(annotation.A.URI)
