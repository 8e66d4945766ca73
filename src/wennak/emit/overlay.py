"""What was recognised, drawn over the picture of a page."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..model import DOUBTFUL, Block, Box, Document, Heading, ListBlock, Paragraph, Table

if TYPE_CHECKING:
    from PIL.Image import Image
    from PIL.ImageDraw import ImageDraw
    from PIL.ImageFont import FreeTypeFont, ImageFont

# Colours that people with any colour vision tell apart (Okabe and Ito 2008); each block bears its name too.
COLOURS = {
    "heading": "#d55e00", "paragraph": "#0072b2", "list": "#56b4e9", "table": "#009e73", "figure": "#cc79a7",
    "code": "#5a5a5a", "formula": "#b58900", "footnote": "#7a4fa3", "fields": "#e69f00",
    "contents": "#00708c", "running": "#8c8c8c",
}  # fmt: skip
DOUBT = "#d1006c"


def role_name(block: Block) -> str:
    """Return what a block is called in the picture."""
    if isinstance(block, Heading):
        return f"heading {block.level}"
    if isinstance(block, Paragraph) and block.quoted:
        return "quotation"
    if isinstance(block, Table):
        return f"table {block.rows}x{block.columns}, {block.method}, {block.confidence:.2f}"
    if isinstance(block, ListBlock):
        return {"bullets": "list", "numbers": "numbered list", "terms": "terms"}[block.style]
    return block.kind


def overlay(picture: Image, document: Document, page: int, scale: float) -> Image:
    """Return the picture of a page with its blocks drawn over it, numbered in reading order from 1.

    `scale` is that of the picture, in pixels a point. Tables show their cells, header cells shaded and spans
    with their extent; doubtful cells are hatched.
    """
    from PIL import Image as Images
    from PIL import ImageDraw, ImageFont

    base = Images.blend(picture, Images.new("RGB", picture.size, "white"), 0.25).convert("RGBA")
    layer = Images.new("RGBA", base.size, (0, 0, 0, 0))
    draw = ImageDraw.Draw(layer)
    small = ImageFont.load_default(size=max(7.0, 6.5 * scale))
    for head in document.running:
        if head.place.page == page:
            _frame(draw, head.place.box, scale, COLOURS["running"], "running", small)
    for number, block in enumerate(document.blocks, start=1):
        for place in block.places:
            if place.page != page:
                continue
            colour = COLOURS[block.kind]
            _frame(draw, place.box, scale, colour, f"{number} {role_name(block)}", small)
            if isinstance(block, Table):
                _cells(draw, block, page, scale, colour, small)
    return Images.alpha_composite(base, layer).convert("RGB")


def _frame(
    draw: ImageDraw, box: Box, scale: float, colour: str, label: str, font: FreeTypeFont | ImageFont
) -> None:
    """A box a little larger than what it holds, with a light fill and a label at its upper right corner."""
    x0, y0, x1, y1 = _pixels(box, scale, 1.5)
    draw.rectangle((x0, y0, x1, y1), fill=f"{colour}18", outline=colour, width=max(1, round(scale)))
    left, _, right, bottom = draw.textbbox((0, 0), label, font=font)
    width, height = right - left + 6, bottom + 4
    # Half on the box and half above it, at the right, where lines tend to end early: little text is hidden.
    above = max(0, y0 - 0.6 * height)
    x = max(0, min(x1 - width, draw.im.size[0] - width)) if draw.im is not None else x1 - width
    draw.rectangle((x, above, x + width, above + height), fill=colour)
    draw.text((x + 3, above + 1), label, fill="white", font=font)


def _cells(
    draw: ImageDraw, table: Table, page: int, scale: float, colour: str, font: FreeTypeFont | ImageFont
) -> None:
    for cell in table.cells:
        for place in cell.places:
            if place.page != page:
                continue
            x0, y0, x1, y1 = _pixels(place.box, scale, 0.75)
            fill = f"{colour}40" if cell.header else None
            draw.rectangle((x0, y0, x1, y1), fill=fill, outline=colour, width=1)
            if cell.confidence < DOUBTFUL:
                _hatch(draw, (x0, y0, x1, y1), scale)
            if cell.spans:
                label = f"{cell.rowspan}x{cell.colspan}"
                draw.text((x1 + 2, y0), label, fill=colour, font=font)


def _hatch(draw: ImageDraw, box: tuple[float, float, float, float], scale: float) -> None:
    x0, y0, x1, y1 = box
    step = 4 * scale
    x = x0 - (y1 - y0)
    while x < x1:
        a, b = max(x, x0), min(x + y1 - y0, x1)
        draw.line((a, y1 - (a - x), b, y1 - (b - x)), fill=f"{DOUBT}90", width=1)
        x += step
    draw.rectangle(box, outline=DOUBT, width=1)


def _pixels(box: Box, scale: float, margin: float) -> tuple[float, float, float, float]:
    return (
        (box.x0 - margin) * scale, (box.y0 - margin) * scale,
        (box.x1 + margin) * scale, (box.y1 + margin) * scale,
    )  # fmt: skip
