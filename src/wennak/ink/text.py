"""Collected strings -> glyphs, for the whole page at once (ISO 32000-2, 9.4.4)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .accents import compose_accents
from .arrays import Bools, Floats, Glyphs, Ints, columns_of
from .collected import Collected
from .font import Font, TextTable
from .tokens import Strings, shown_strings

# Two equal glyphs nearer than this (in em) are one character struck twice, for weight or as a shadow.
DOUBLE_STRIKE = 0.12


def decode_glyphs(collected: Collected, fonts: Sequence[Font], texts: TextTable) -> Glyphs:
    """Compute every glyph's character, place and size.

    Positions follow from one cumulative sum over the page: within a segment (text whose matrix was set
    once) each glyph stands where the advances before it end.
    """
    strings = shown_strings([show[0] for show in collected.shows])
    if not len(strings.data):
        return columns_of(Glyphs, [])
    show_of_item, kern = strings.owner, strings.kern
    shows = np.array([s[1:] for s in collected.shows], dtype=np.int64).reshape(-1, 4)
    state_of_item = shows[show_of_item, 0]
    font_of_state = np.array([s[1] for s in collected.states], dtype=np.int64)
    numbers = np.array([s[2:8] for s in collected.states], dtype=np.float64).reshape(-1, 6)

    item, code, width, text, vertical = _decode_strings(strings, font_of_state[state_of_item], fonts)
    if not len(item):
        return columns_of(Glyphs, [])
    state = state_of_item[item]
    size, char_space, word_space, scale, rise, mode = numbers[state].T
    one_byte = np.array([f.one_byte for f in fonts] or [True])[font_of_state[state]]
    spaced = np.where((code == 32) & one_byte, word_space, 0.0)
    advance = width * size + char_space + spaced
    kern_advance = -0.001 * kern * numbers[state_of_item, 0]

    # Offset of each glyph and item from the start of the page's text, then from the start of its segment.
    total_glyph = np.concatenate(([0.0], np.cumsum(advance)))
    total_item = np.concatenate(([0.0], np.cumsum(kern_advance)))
    offset = total_glyph[:-1] + total_item[item]
    segment = shows[show_of_item[item], 1]
    # What precedes a segment is all glyphs and kerns before its first item.
    first_item_of_segment = np.searchsorted(shows[show_of_item, 1], np.arange(len(collected.segments)))
    glyphs_before_item = np.searchsorted(item, np.arange(len(kern) + 1), side="left")
    start = first_item_of_segment[segment]
    offset -= total_glyph[glyphs_before_item[start]] + total_item[start]

    # Matrix, angle and height are those of the show operator; they are computed once for each of these.
    show = show_of_item[item]
    by_show = _show_geometry(collected, shows, numbers)
    a, b, c, d, e, f, length, height, angle = by_show[show].T
    along_x = np.where(vertical, 0.0, offset * scale)
    along_y = np.where(vertical, offset, 0.0) + rise
    # Vertical writing hangs glyphs from the middle of their top (9.7.4.3, default position vector).
    along_x = np.where(vertical, along_x - 0.5 * size, along_x)
    along_y = np.where(vertical, along_y - 0.88 * size, along_y)
    x = a * along_x + c * along_y + e
    y = b * along_x + d * along_y + f

    font = font_of_state[state]
    ascent = np.array([f.ascent for f in fonts] or [0.75])[font] * size
    descent = np.array([f.descent for f in fonts] or [-0.22])[font] * size
    right = np.where(vertical, size, width * size * scale)
    x0, x1 = _extent(x, a * right, c * ascent, c * descent)
    y0, y1 = _extent(y, b * right, d * ascent, d * descent)
    if vertical.any():
        angle = np.where(vertical, angle + 90.0, angle)
    glyphs = Glyphs(
        text=text,
        x=x,
        y=y,
        x0=x0,
        y0=y0,
        x1=x1,
        y1=y1,
        advance=np.abs(right) * length,
        size=np.abs(size) * height,
        angle=np.round(angle, 2).astype(np.float64),
        font=font,
        run=show,
        order=shows[show, 3],
        mark=shows[show, 2],
        visible=(mode != 3) & (mode != 7) & _inside_clip(collected, state, (x0 + x1) / 2, (y0 + y1) / 2),
    )
    sound = np.isfinite(glyphs.x) & np.isfinite(glyphs.y) & (glyphs.size > 0.01)
    if not sound.all():
        glyphs = glyphs.take(np.flatnonzero(sound))
    compose_accents(glyphs, texts)
    if collected.actual:
        _replace_actual(glyphs, collected, texts)
    struck = _struck_again(glyphs)
    return glyphs.take(np.flatnonzero(~struck)) if struck.any() else glyphs


def _show_geometry(collected: Collected, shows: Ints, numbers: Floats) -> Floats:
    """Of each show operator: matrix from text space to the page (a..f), length of the unit along the line,
    its height across it, and the angle of the line in degrees.
    """
    tm = np.array(collected.segments, dtype=np.float64)[shows[:, 1]]
    ctm = np.array([s[0] for s in collected.states], dtype=np.float64)[shows[:, 0]]
    a, b, c, d, e, f = _multiply(tm, ctm)
    size, _, _, scale, _, _ = numbers[shows[:, 0]].T
    length = np.hypot(a, b)
    height = np.abs(a * d - b * c) / np.where(length > 0, length, 1.0)
    sign = np.where(size * scale < 0, -1.0, 1.0)
    angle = np.degrees(np.arctan2(b * sign, a * sign))
    return np.stack((a, b, c, d, e, f, length, height, angle), axis=1)


def _decode_strings(
    strings: Strings, font_of_item: Ints, fonts: Sequence[Font]
) -> tuple[Ints, Ints, Floats, Ints, Bools]:
    """Item, code, width in em, text index and direction of every glyph, in the order of drawing."""
    parts = []
    font_of_byte = np.repeat(font_of_item, strings.length)
    used = [f for f in np.unique(font_of_item).tolist() if f >= 0]
    for index in used:
        font = fonts[index]
        members = np.flatnonzero(font_of_item == index)
        codes, counts = font.split(strings.data[font_of_byte == index], strings.length[members])
        widths, ids = font.decode(codes)
        items = np.repeat(members, counts)
        parts.append((items, codes, widths, ids, np.full(len(codes), font.vertical)))
    if not parts:
        empty = np.empty(0, dtype=np.int64)
        return empty, empty, np.empty(0), empty, np.empty(0, dtype=np.bool_)
    item = np.concatenate([p[0] for p in parts])
    order = np.argsort(item, kind="stable")
    return (
        item[order],
        np.concatenate([p[1] for p in parts])[order],
        np.concatenate([p[2] for p in parts])[order],
        np.concatenate([p[3] for p in parts])[order],
        np.concatenate([p[4] for p in parts])[order],
    )


def _multiply(m: Floats, n: Floats) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats]:
    a, b, c, d, e, f = m.T
    g, h, i, j, k, l = n.T
    return a * g + b * i, a * h + b * j, c * g + d * i, c * h + d * j, e * g + f * i + k, e * h + f * j + l


def _extent(origin: Floats, along: Floats, up: Floats, down: Floats) -> tuple[Floats, Floats]:
    """Least and greatest coordinate of a glyph's box: its origin plus any of its sides."""
    low, high = np.minimum(up, down), np.maximum(up, down)
    return origin + np.minimum(along, 0.0) + low, origin + np.maximum(along, 0.0) + high


def _inside_clip(collected: Collected, state: Ints, x: Floats, y: Floats) -> Bools:
    """Whether the middle of each glyph lies within the page and the clip it was drawn under."""
    clips = np.array(collected.clips, dtype=np.float64)
    clip = np.array([s[8] for s in collected.states], dtype=np.int64)[state]
    x0, y0, x1, y1 = clips[clip].T
    slack = 1.0
    inside: Bools = (x >= x0 - slack) & (x <= x1 + slack) & (y >= y0 - slack) & (y <= y1 + slack)
    return inside


def _replace_actual(glyphs: Glyphs, collected: Collected, texts: TextTable) -> None:
    """Put the replacement text of marked content on its first glyph and nothing on the others (14.9.4)."""
    empty = texts.put("")
    for mark, text in collected.actual.items():
        members = np.flatnonzero(glyphs.mark == mark)
        if len(members):
            glyphs.text[members] = empty
            glyphs.text[members[0]] = texts.put(text)


def _struck_again(glyphs: Glyphs) -> Bools:
    """Mark the glyphs that repeat an equal one at (nearly) the same place drawn before."""
    n = len(glyphs)
    again = np.zeros(n, dtype=np.bool_)
    if n < 2:
        return again
    # One number that sorts by character, then line, then place; lines a quarter of an em apart.
    lines = np.round(glyphs.y / np.maximum(glyphs.size, 0.1) * 4).astype(np.int64) & 0xFFFFF
    places = np.clip(glyphs.x * 16, 0, 0xFFFFF).astype(np.int64)
    order = np.argsort((glyphs.text << 40) | (lines << 20) | places, kind="stable")
    i, j = order[:-1], order[1:]
    near = np.minimum(DOUBLE_STRIKE * glyphs.size[i], 0.45 * glyphs.advance[i])
    struck = (
        (np.abs(glyphs.x[i] - glyphs.x[j]) <= near)
        & (glyphs.text[i] == glyphs.text[j])
        & (np.abs(glyphs.y[i] - glyphs.y[j]) <= near)
        & (np.abs(glyphs.size[i] - glyphs.size[j]) <= near)
        & (near > 0)
    )
    again[np.maximum(i, j)[struck]] = True
    return again
