"""Collected strings -> glyphs, for the whole page at once (ISO 32000-2, 9.4.4)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .accents import compose_accents
from .arrays import Bools, Floats, Glyphs, Ints, columns_of, looked_up
from .collected import SHOW, STATE, Collected
from .font import Font, TextTable, decode_bytes
from .tokens import Strings, shown_strings

# Two equal glyphs nearer than this (in em) are one character struck twice, for weight or as a shadow.
DOUBLE_STRIKE = 0.12
# Characters smaller or larger than this (points) cannot be seen; damaged files have any.
SIZES = (0.01, 1e6)


def decode_glyphs(collected: Collected, fonts: Sequence[Font], texts: TextTable) -> Glyphs:
    """Compute every glyph's character, place and size.

    Positions follow from one cumulative sum over the page: within a segment (text whose matrix was set
    once) each glyph stands where the advances before it end. What is the same for all glyphs of a show
    operator is computed once for each of these.
    """
    strings = shown_strings(collected.tokens)
    if not len(strings.data):
        return columns_of(Glyphs, [])
    state, segment, mark, order = np.array(collected.shows, dtype=np.int64).reshape(-1, SHOW).T
    states = np.array(collected.states, dtype=np.float64).reshape(-1, STATE).T
    font = states[12].astype(np.int64)[state]
    owner = strings.owner
    item, code, width, text = _decode_strings(strings, font[owner], fonts)
    if not len(item):
        return columns_of(Glyphs, [])
    show = looked_up(owner, item)
    table = _by_show(collected, states[:, state], segment, font, fonts)
    (
        size, char_space, word_space, step_x, step_y, x, y, right_x, right_y, low_x, high_x, low_y, high_y,
        length, em, angle, clip_x0, clip_y0, clip_x1, clip_y1, across,
    ) = np.take(table, show, axis=1, mode="clip")  # fmt: skip
    advance = width * size + char_space + np.where(code == 32, word_space, 0.0)

    # Offset of each glyph and item from the start of the page's text, then from the start of its segment.
    total_glyph = np.concatenate(([0.0], np.cumsum(advance)))
    total_item = np.concatenate(([0.0], np.cumsum(-0.001 * strings.kern * table[0][owner])))
    # What precedes a segment is all glyphs and kerns before its first item.
    first_item = np.searchsorted(segment[owner], np.arange(len(collected.segments) // 6))
    before = total_glyph[np.searchsorted(item, first_item)] + total_item[first_item]
    offset = total_glyph[:-1] + looked_up(total_item, item) - looked_up(before[segment], show)

    x += step_x * offset
    y += step_y * offset
    # Glyphs of vertical writing are as wide as the em.
    width = np.where(across > 0, across, width)
    x0, x1 = _extent(x, width * right_x, low_x, high_x)
    y0, y1 = _extent(y, width * right_y, low_y, high_y)
    middle_x, middle_y = (x0 + x1) / 2, (y0 + y1) / 2
    numbers = np.take(np.stack((font, order, mark)), show, axis=1, mode="clip")
    glyphs = Glyphs(
        text=text,
        x=x,
        y=y,
        x0=x0,
        y0=y0,
        x1=x1,
        y1=y1,
        advance=np.abs(width) * length,
        size=em,
        angle=angle,
        font=numbers[0],
        run=show,
        order=numbers[1],
        mark=numbers[2],
        visible=(middle_x >= clip_x0) & (middle_x <= clip_x1) & (middle_y >= clip_y0) & (middle_y <= clip_y1),
        sure=np.ones(len(text)),
    )
    _reach_out(glyphs, code, fonts)
    sound = (
        np.isfinite(glyphs.x) & np.isfinite(glyphs.y) & (glyphs.size > SIZES[0]) & (glyphs.size < SIZES[1])
    )
    if not sound.all():
        glyphs = glyphs.take(np.flatnonzero(sound))
    compose_accents(glyphs, texts)
    if collected.actual:
        _replace_actual(glyphs, collected, texts)
    struck = _struck_again(glyphs)
    return glyphs.take(np.flatnonzero(~struck)) if struck.any() else glyphs


def _reach_out(glyphs: Glyphs, code: Ints, fonts: Sequence[Font]) -> None:
    """Give glyphs that reach farther than letters do the box of their outline, in text that is level or runs
    up or down the page.
    """
    for k, font in enumerate(fonts):
        if not font.tall_codes:
            continue
        for angle, origin, first, last, up in (
            (0, glyphs.y, glyphs.y0, glyphs.y1, -1),
            (90, glyphs.x, glyphs.x0, glyphs.x1, 1),
            (-90, glyphs.x, glyphs.x0, glyphs.x1, -1),
        ):
            members = np.flatnonzero((glyphs.font == k) & (glyphs.angle == angle))
            which, low, high = font.tall(code[members])
            members = members[which]
            ends = origin[members] + up * np.stack((low, high)) * glyphs.size[members]
            first[members], last[members] = ends.min(axis=0), ends.max(axis=0)


def _by_show(
    collected: Collected, states: Floats, segment: Ints, font: Ints, fonts: Sequence[Font]
) -> Floats:
    """What glyphs share with all others of their show operator, a row each: size, character and word
    spacing, all along the line; step on the page for each unit of text (x, y); where the segment begins (x,
    y); how far a glyph of one em reaches along the line (x, y); its extent across the line (least and
    greatest x and y); its length along the line; the em on the page; the angle of the line in degrees; the
    box within which it is seen; and in vertical writing, the width of the glyph's box in units of the em,
    else 0.

    `states` are the rows of numbers of the state of each show operator.
    """
    size, char_space, word_space, scale, rise, mode = states[6:12]
    tm = np.array(collected.segments, dtype=np.float64).reshape(-1, 6)[segment].T
    a, b, c, d, e, f = _multiply(tm, states[:6])
    one_byte, vertical, ascent, descent = np.array(
        [(f.one_byte, f.vertical, f.ascent, f.descent) for f in fonts], dtype=np.float64
    )[font].T
    word_space, vertical = word_space * one_byte, vertical > 0
    ascent, descent = ascent * size, descent * size
    # Vertical writing hangs glyphs from the middle of their top (9.7.4.3, default position vector).
    shift_x, shift_y = np.where(vertical, -0.5 * size, 0.0), np.where(vertical, rise - 0.88 * size, rise)
    step_x, step_y = np.where(vertical, c, a), np.where(vertical, d, b)
    stretch = np.where(vertical, 1.0, scale)
    unit = np.hypot(a, b)
    sign = np.where(size * scale < 0, -1.0, 1.0)
    angle = np.degrees(np.arctan2(b * sign, a * sign)) + np.where(vertical, 90.0, 0.0)
    slack = 1.0
    x0, y0, x1, y1 = np.array(collected.clips, dtype=np.float64)[states[13].astype(np.int64)].T
    unseen = (mode == 3) | (mode == 7)
    return np.stack(
        (
            size * stretch, char_space * stretch, word_space * stretch, step_x, step_y,
            a * shift_x + c * shift_y + e, b * shift_x + d * shift_y + f, a * size * scale, b * size * scale,
            np.minimum(c * ascent, c * descent), np.maximum(c * ascent, c * descent),
            np.minimum(d * ascent, d * descent), np.maximum(d * ascent, d * descent),
            np.abs(size * scale) * unit,
            np.abs(size) * np.abs(a * d - b * c) / np.where(unit > 0, unit, 1.0),
            np.round(angle, 2),
            np.where(unseen, np.inf, x0 - slack), y0 - slack, x1 + slack, y1 + slack,
            np.where(vertical, 1 / scale, 0.0),
        )
    )  # fmt: skip


def _decode_strings(
    strings: Strings, font_of_item: Ints, fonts: Sequence[Font]
) -> tuple[Ints, Ints, Floats, Ints]:
    """Item, code, width in em and text index of every glyph, in the order of drawing.

    Simple fonts, whose codes are bytes, are decoded together, composite ones one after the other. Text shown
    without a font is no text.
    """
    used = [k for k in np.flatnonzero(np.bincount(font_of_item + 1)).tolist() if k]
    simple = [k - 1 for k in used if fonts[k - 1].one_byte]
    groups = [[k - 1] for k in used if not fonts[k - 1].one_byte]
    font_of_byte = np.repeat(font_of_item, strings.length)
    parts = []
    for group in [simple, *groups] if simple else groups:
        slots = np.full(len(fonts) + 1, -1)
        slots[group] = np.arange(len(group))
        members = np.flatnonzero(slots[font_of_item] >= 0)
        slot = slots[font_of_byte]
        data, counts = strings.data[slot >= 0], strings.length[members]
        if group is simple:
            codes = data.astype(np.int64)
            widths, ids = decode_bytes([fonts[k] for k in group], slot[slot >= 0], codes)
        else:
            codes, counts = fonts[group[0]].split(data, counts)
            widths, ids = fonts[group[0]].decode(codes)
        parts.append((np.repeat(members, counts), codes, widths, ids))
    if not parts:
        empty = np.empty(0, dtype=np.int64)
        return empty, empty, np.empty(0), empty
    if len(parts) == 1:
        return parts[0]
    item, code, width, text = (np.concatenate(column) for column in zip(*parts, strict=True))
    order = np.argsort(item, kind="stable")
    return item[order], code[order], width[order], text[order]


def _multiply(m: Floats, n: Floats) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats]:
    a, b, c, d, e, f = m
    g, h, i, j, k, l = n
    return a * g + b * i, a * h + b * j, c * g + d * i, c * h + d * j, e * g + f * i + k, e * h + f * j + l


def _extent(origin: Floats, along: Floats, low: Floats, high: Floats) -> tuple[Floats, Floats]:
    """Least and greatest coordinate of glyphs' boxes: their origin plus any of their sides."""
    return origin + np.minimum(along, 0.0) + low, origin + np.maximum(along, 0.0) + high


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
    # Few pairs are the same character within reach of each other, whatever their size.
    reach = DOUBLE_STRIKE * float(glyphs.size.max())
    close = (glyphs.text[i] == glyphs.text[j]) & (np.abs(glyphs.x[i] - glyphs.x[j]) <= reach)
    i, j = i[close], j[close]
    near = np.minimum(DOUBLE_STRIKE * glyphs.size[i], 0.45 * glyphs.advance[i])
    struck = (
        (np.abs(glyphs.x[i] - glyphs.x[j]) <= near)
        & (np.abs(glyphs.y[i] - glyphs.y[j]) <= near)
        & (np.abs(glyphs.size[i] - glyphs.size[j]) <= near)
        & (near > 0)
    )
    again[np.maximum(i, j)[struck]] = True
    return again
