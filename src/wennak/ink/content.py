"""One walk over a page's content streams that only collects (ISO 32000-2, 8 and 9.4).

Nothing is decoded here: a shown string is kept as its raw token with the number of the state it was shown
under; paths are kept as points. `text.py` and `graphics.py` then compute the whole page at once.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any, cast

import pikepdf
from pikepdf import Name

from .collected import (
    CLOSE,
    CURVE,
    IDENTITY,
    LINE,
    MOVE,
    STATE,
    Collected,
    Mark,
    Matrix,
    State,
    grey_level,
    multiply,
)
from .streams import unpacked
from .tokens import array_numbers, number, string_bytes, tokens

MAX_DEPTH = 16  # of forms within forms
# A page of a million operators is a bomb or a map, not text.
MAX_TOKENS = 4_000_000
# Drawing a form takes this many tokens' worth of work, however little it holds.
_FORM_COST = 100
_KEPT = 2_000
# Text rendering mode 2 (9.3.6), and the line width from which it makes letters heavier (em): a program with
# no bold font draws strokes of about 0.04.
FILL_AND_STROKE, HEAVY = 2, 0.015
# No colour has more components than this (annex C).
_COMPONENTS = 32

# What operators raise when their operands are missing or of the wrong kind.
_BROKEN = (
    IndexError, ValueError, TypeError, KeyError, AttributeError, OverflowError, RuntimeError,
    pikepdf.PdfError,
)  # fmt: skip


class Walk:
    """Interprets content streams and fills a `Collected`.

    `font_index` gives the number of a font dictionary, `bold_index` that of a font made bold by strokes;
    `hidden_groups` are the object numbers of optional content groups that are off.
    """

    def __init__(
        self,
        base: Matrix,
        box: tuple[float, float, float, float],
        font_index: Callable[[Any], int],
        bold_index: Callable[[int], int],
        hidden_groups: frozenset[tuple[int, int]] = frozenset(),
    ) -> None:
        self.out = Collected(clips=[box])
        self.state = State(base)
        self._font_index = font_index
        self._bold_index = bold_index
        self._hidden_groups = hidden_groups
        self._saved: list[State] = []
        self._marks: list[Mark] = []
        self._hidden = 0
        self._resources: Any = pikepdf.Dictionary()
        self._fonts: dict[bytes, int] = {}
        self._state_id = -1
        self._line: Matrix = IDENTITY
        self._segment = -1
        self._segment_open = False
        self._path_start = 0
        self._clip_pending = False
        self._order = 0
        self._depth = 0
        self._forms: list[tuple[int, int]] = []
        self._budget = MAX_TOKENS
        self._kept_tokens: dict[tuple[int, int], list[bytes]] = {}
        self._broken = 0

    def run(self, data: bytes, resources: Any) -> None:
        """Interpret one content stream under the given resources."""
        self._interpret(tokens(data), resources)

    def _interpret(self, found: list[bytes], resources: Any) -> None:
        outer_resources, outer_fonts = self._resources, self._fonts
        if isinstance(resources, pikepdf.Dictionary):
            self._resources, self._fonts = resources, {}
        known, stack = _OPERATORS.get, []
        self._budget -= len(found) + _FORM_COST
        if self._budget < 0:
            note = ("too-many-operators", "a page draws more than can be read; the rest is left out")
            if note not in self.out.notes:
                self.out.notes.append(note)
            found = found[: max(0, len(found) + self._budget)]
        for token in found:
            operator = known(token)
            if operator is None:
                stack.append(token)
                continue
            try:
                operator(self, stack)
            except _BROKEN:
                self._mend(operator, stack)
            stack.clear()
        self._resources, self._fonts = outer_resources, outer_fonts

    def _mend(self, operator: Operator, operands: list[bytes]) -> None:
        """Call an operator again with its numbers read leniently, as viewers read them."""
        try:
            operator(self, [repr(number(o)).encode() if o[:1] in b"+-.0123456789" else o for o in operands])
        except _BROKEN:
            self._broken += 1

    def finish(self) -> Collected:
        """Return what was collected."""
        if self._broken:
            self.out.notes.append(
                ("broken-operators", f"{self._broken} drawing operators are broken and were left out")
            )
        return self.out

    # -- text (9.3, 9.4) ---------------------------------------------------------------------------------

    def _begin_text(self, _: list[bytes]) -> None:
        self._line = IDENTITY
        self._segment_open = False

    def _end_text(self, _: list[bytes]) -> None:
        self._segment_open = False

    def _font(self, o: list[bytes]) -> None:
        self.state.size = float(o[-1])
        name = o[-2]
        index = self._fonts.get(name)
        if index is None:
            font = self._resource("/Font", name)
            index = self._fonts[name] = self._font_index(font)
        self.state.font = index
        self._state_id = -1

    def _char_space(self, o: list[bytes]) -> None:
        self.state.char_space = float(o[-1])
        self._state_id = -1

    def _word_space(self, o: list[bytes]) -> None:
        self.state.word_space = float(o[-1])
        self._state_id = -1

    def _scale(self, o: list[bytes]) -> None:
        self.state.scale = float(o[-1]) / 100
        self._state_id = -1

    def _leading(self, o: list[bytes]) -> None:
        self.state.leading = float(o[-1])

    def _rise(self, o: list[bytes]) -> None:
        self.state.rise = float(o[-1])
        self._state_id = -1

    def _mode(self, o: list[bytes]) -> None:
        self.state.mode = int(float(o[-1]))
        self._state_id = -1

    def _move(self, o: list[bytes]) -> None:
        x, y = float(o[-2]), float(o[-1])
        a, b, c, d, e, f = self._line
        self._line = (a, b, c, d, a * x + c * y + e, b * x + d * y + f)
        self._segment_open = False

    def _move_leading(self, o: list[bytes]) -> None:
        self.state.leading = -float(o[-1])
        self._move(o)

    def _matrix(self, o: list[bytes]) -> None:
        a, b, c, d, e, f = map(float, o[-6:])
        self._line = (a, b, c, d, e, f)
        self._segment_open = False

    def _next_line(self, _: list[bytes]) -> None:
        a, b, c, d, e, f = self._line
        y = -self.state.leading
        self._line = (a, b, c, d, c * y + e, d * y + f)
        self._segment_open = False

    def _show(self, o: list[bytes]) -> None:
        if self._hidden:
            return
        out = self.out
        if self._state_id < 0:
            s = self.state
            self._state_id = len(out.states) // STATE
            font = self._bold_index(s.font) if s.mode == FILL_AND_STROKE and self._is_heavy() else s.font
            out.states += (
                *s.ctm, s.size, s.char_space, s.word_space, s.scale, s.rise, s.mode, font, s.clip,
            )  # fmt: skip
        if not self._segment_open:
            self._segment_open = True
            self._segment += 1
            out.segments += self._line
        self._order += 1
        out.tokens.append(o[-1])
        mark = self._marks[-1].index if self._marks else -1
        out.shows += (self._state_id, self._segment, mark, self._order)

    def _is_heavy(self) -> bool:
        """Whether the strokes around letters make them heavier to the eye: so do programs that have no bold
        font.
        """
        s, (a, b, *_) = self.state, self._line
        return s.font >= 0 and s.line_width > HEAVY * abs(s.size) * math.hypot(a, b)

    def _show_next(self, o: list[bytes]) -> None:
        self._next_line(o)
        self._show(o)

    def _show_spaced(self, o: list[bytes]) -> None:
        self.state.word_space, self.state.char_space = float(o[-3]), float(o[-2])
        self._state_id = -1
        self._show_next(o)

    # -- graphics state (8.4) ----------------------------------------------------------------------------

    def _save(self, _: list[bytes]) -> None:
        if len(self._saved) < 2000:
            self._saved.append(self.state.copy())

    def _restore(self, _: list[bytes]) -> None:
        if self._saved:
            self.state = self._saved.pop()
            self._state_id = -1

    def _concat(self, o: list[bytes]) -> None:
        a, b, c, d, e, f = map(float, o[-6:])
        self.state.ctm = multiply((a, b, c, d, e, f), self.state.ctm)
        self._state_id = -1

    def _line_width(self, o: list[bytes]) -> None:
        self.state.line_width = abs(float(o[-1]))
        if self.state.mode == FILL_AND_STROKE:
            self._state_id = -1

    def _dash(self, o: list[bytes]) -> None:
        self.state.dashed = any(n > 0 for n in array_numbers(o[0]))

    def _external_state(self, o: list[bytes]) -> None:
        state = self._resource("/ExtGState", o[-1])
        if "/LW" in state:
            self.state.line_width = abs(float(state.LW))
        if "/Font" in state:
            self.state.font = self._font_index(state.Font[0])
            self.state.size = float(state.Font[1])
            self._state_id = -1
        if "/ca" in state:
            self.state.opaque = float(state.ca) > 0.9
        if "/BM" in state:
            self.state.opaque = self.state.opaque and str(state.BM) in ("/Normal", "/Compatible")

    # -- colour, as grey levels (8.6) --------------------------------------------------------------------

    def _grey(self, o: list[bytes]) -> None:
        self.state.fill_grey, self.state.fill_space = float(o[-1]), "/DeviceGray"

    def _rgb(self, o: list[bytes]) -> None:
        self.state.fill_space = "/DeviceRGB"
        self._colour(o)

    def _cmyk(self, o: list[bytes]) -> None:
        self.state.fill_space = "/DeviceCMYK"
        self._colour(o)

    def _stroke_grey(self, o: list[bytes]) -> None:
        self.state.stroke_grey, self.state.stroke_space = float(o[-1]), "/DeviceGray"

    def _stroke_rgb(self, o: list[bytes]) -> None:
        self.state.stroke_space = "/DeviceRGB"
        self._stroke_colour(o)

    def _stroke_cmyk(self, o: list[bytes]) -> None:
        self.state.stroke_space = "/DeviceCMYK"
        self._stroke_colour(o)

    def _space(self, o: list[bytes]) -> None:
        self.state.fill_space, self.state.fill_grey = self._space_family(o[-1]), 0.0

    def _stroke_space(self, o: list[bytes]) -> None:
        self.state.stroke_space, self.state.stroke_grey = self._space_family(o[-1]), 0.0

    def _colour(self, o: list[bytes]) -> None:
        self.state.fill_grey = grey_level(self.state.fill_space, *o[-_COMPONENTS:])

    def _stroke_colour(self, o: list[bytes]) -> None:
        self.state.stroke_grey = grey_level(self.state.stroke_space, *o[-_COMPONENTS:])

    def _space_family(self, name: bytes) -> str:
        text = name.decode("latin-1")
        if text.startswith("/Device") or text == "/Pattern":
            return text
        space = self._resource("/ColorSpace", name)
        if isinstance(space, pikepdf.Array):
            family = str(space[0])
            if family == "/ICCBased":
                return {1: "/DeviceGray", 3: "/DeviceRGB", 4: "/DeviceCMYK"}.get(
                    int(space[1].get("/N", 3)), "/DeviceRGB"
                )
            return family
        return str(space) if isinstance(space, Name) else "/DeviceRGB"

    # -- paths (8.5) -------------------------------------------------------------------------------------

    def _move_to(self, o: list[bytes]) -> None:
        self._point(MOVE, float(o[-2]), float(o[-1]))

    def _line_to(self, o: list[bytes]) -> None:
        self._point(LINE, float(o[-2]), float(o[-1]))

    def _curve(self, o: list[bytes]) -> None:
        values = [float(v) for v in o[-6:]]
        for i in range(0, 6, 2):
            self._point(CURVE, values[i], values[i + 1])

    def _curve_v(self, o: list[bytes]) -> None:
        values = [float(v) for v in o[-4:]]
        self._point(CURVE, values[0], values[1])
        self._point(CURVE, values[2], values[3])

    def _close(self, _: list[bytes]) -> None:
        out = self.out
        for i in range(len(out.points) - 1, self._path_start - 1, -1):
            if out.kinds[i] == MOVE:
                self._point(CLOSE, *out.points[i])
                return

    def _rectangle(self, o: list[bytes]) -> None:
        x, y, w, h = map(float, o[-4:])
        self.out.points += ((x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y))
        self.out.kinds += (MOVE, LINE, LINE, LINE, CLOSE)

    def _point(self, kind: int, x: float, y: float) -> None:
        self.out.points.append((x, y))
        self.out.kinds.append(kind)

    def _clip(self, _: list[bytes]) -> None:
        self._clip_pending = True

    def _end_path(self, _: list[bytes]) -> None:
        self._paint(False, False)

    def _stroke(self, _: list[bytes]) -> None:
        self._paint(False, True)

    def _close_stroke(self, o: list[bytes]) -> None:
        self._close(o)
        self._paint(False, True)

    def _fill(self, _: list[bytes]) -> None:
        self._paint(True, False)

    def _fill_stroke(self, _: list[bytes]) -> None:
        self._paint(True, True)

    def _close_fill_stroke(self, o: list[bytes]) -> None:
        self._close(o)
        self._paint(True, True)

    def _paint(self, fill: bool, stroke: bool) -> None:
        out, s = self.out, self.state
        end = len(out.points)
        clip = s.clip
        if self._clip_pending:
            self._clip_pending = False
            s.clip = self._clipped(out.points[self._path_start : end])
            self._state_id = -1
        if (fill or stroke) and not self._hidden and end > self._path_start:
            self._order += 1
            out.paths.append(
                (self._path_start, end, s.ctm, fill, stroke, s.line_width, s.stroke_grey, s.fill_grey,
                 s.dashed, s.opaque, clip, self._order)
            )  # fmt: skip
            self._path_start = end
        else:
            del out.points[self._path_start :], out.kinds[self._path_start :]

    def _clipped(self, points: list[tuple[float, float]]) -> int:
        """The current clip cut down to the upright box around the path; exact for the usual rectangles."""
        a, b, c, d, e, f = self.state.ctm
        x0, y0, x1, y1 = self.out.clips[self.state.clip]
        if not points:
            return self.state.clip
        xs = [a * x + c * y + e for x, y in points]
        ys = [b * x + d * y + f for x, y in points]
        self.out.clips.append((max(x0, min(xs)), max(y0, min(ys)), min(x1, max(xs)), min(y1, max(ys))))
        return len(self.out.clips) - 1

    # -- external objects and images (8.8, 8.9, 8.10) ----------------------------------------------------

    def _do(self, o: list[bytes]) -> None:
        xobject = self._resource("/XObject", o[-1])
        if self._hidden or not isinstance(xobject, pikepdf.Stream) or self._is_off(xobject.get("/OC")):
            return
        if xobject.get("/Subtype") == "/Image":
            self._picture(_size(xobject, "/Width"), _size(xobject, "/Height"), xobject.objgen[0])
        elif xobject.get("/Subtype") == "/Form":
            self.form(xobject)

    def form(self, form: Any, placed: Matrix | None = None) -> None:
        """Draw a form XObject, under a further matrix `placed` for annotation appearances (12.5.5)."""
        key = form.objgen
        if self._depth >= MAX_DEPTH or (key != (0, 0) and key in self._forms):
            self.out.notes.append(
                ("form-loop", "a form is drawn within itself; the inner drawing was left out")
            )
            return
        outer, line = self.state, self._line
        saved, marks = self._saved, len(self._marks)
        self.state, self._saved = outer.copy(), []
        if placed is not None:
            self.state.ctm = multiply(placed, self.state.ctm)
        if "/Matrix" in form:
            a, b, c, d, e, f = (float(v) for v in form.Matrix)
            self.state.ctm = multiply((a, b, c, d, e, f), self.state.ctm)
        if "/BBox" in form:
            x0, y0, x1, y1 = (float(v) for v in form.BBox)
            self.state.clip = self._clipped([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
        self._state_id, self._depth = -1, self._depth + 1
        self._forms.append(key)
        try:
            self._interpret(self._form_tokens(form), form.get("/Resources"))
        finally:
            self._forms.pop()
            while len(self._marks) > marks:
                self._end_mark([])
            self.state, self._saved, self._line = outer, saved, line
            self._state_id, self._depth = -1, self._depth - 1
            self._segment_open = False

    def _form_tokens(self, form: Any) -> list[bytes]:
        """The tokens of a form; those of small ones are kept, since symbols are drawn again and again."""
        if self._budget < 0:
            return []
        key = form.objgen
        found = self._kept_tokens.get(key)
        if found is None:
            found = tokens(unpacked(form))
            if key != (0, 0) and len(found) < _KEPT:
                self._kept_tokens[key] = found
        return found

    def _inline_image(self, o: list[bytes]) -> None:
        header = o[-1][: o[-1].find(b"ID")]
        sizes = dict(re.findall(rb"/(W|H)(?:idth|eight)?\s+(\d+)", header))
        self._picture(int(sizes.get(b"W", b"0")), int(sizes.get(b"H", b"0")))

    def _picture(self, columns: int, lines: int, number: int = 0) -> None:
        if not self._hidden:
            self._order += 1
            self.out.pictures.append((self.state.ctm, columns, lines, number, self.state.clip, self._order))

    def _shading(self, _: list[bytes]) -> None:
        """A shading fills the clip: it is kept as a mid-grey fill of the clip box."""
        if self._hidden:
            return
        x0, y0, x1, y1 = self.out.clips[self.state.clip]
        first = len(self.out.points)
        self.out.points += ((x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0))
        self.out.kinds += (MOVE, LINE, LINE, LINE, CLOSE)
        self._path_start = len(self.out.points)
        self._order += 1
        self.out.paths.append(
            (first, self._path_start, IDENTITY, True, False, 0.0, 0.5, 0.5, False, self.state.opaque,
             self.state.clip, self._order)
        )  # fmt: skip

    # -- marked content (14.6) and optional content (8.11) -----------------------------------------------

    def _begin_mark(self, o: list[bytes]) -> None:
        tag = o[0].decode("latin-1")
        mcid, hidden = -1, False
        index = len(self.out.marks)
        if len(o) > 1:
            if o[1][:2] == b"<<":
                if match := re.search(rb"/MCID\s+(\d+)", o[1]):
                    mcid = int(match[1])
                if b"/ActualText" in o[1] and (
                    match := re.search(rb"/ActualText\s*(\(.*\)|<[^<>]*>)", o[1], re.S)
                ):
                    self.out.actual[index] = _text_string(string_bytes(match[1]))
            else:
                properties = self._resource("/Properties", o[1])
                if tag == "/OC":
                    hidden = self._is_off(properties)
                if isinstance(properties, pikepdf.Dictionary):
                    mcid = int(cast(Any, properties.get("/MCID", -1)))
                    if "/ActualText" in properties:
                        self.out.actual[index] = str(properties.ActualText)
        if mcid < 0 and index not in self.out.actual and self._marks and tag != "/Artifact":
            index = self._marks[-1].index
        else:
            if mcid < 0 and self._marks and tag != "/Artifact":
                mcid = self.out.marks[self._marks[-1].index][1]
            self.out.marks.append((tag, mcid))
        self._marks.append(Mark(index, hidden))
        self._hidden += hidden

    def _end_mark(self, _: list[bytes]) -> None:
        if self._marks:
            self._hidden -= self._marks.pop().hidden

    def _is_off(self, group: Any) -> bool:
        """Whether an optional content group, or a membership of groups, is switched off (8.11.2)."""
        if not isinstance(group, pikepdf.Dictionary) or not self._hidden_groups:
            return False
        if group.get("/Type") == "/OCMD":
            members = group.get("/OCGs")
            groups = list(members) if isinstance(members, pikepdf.Array) else [members]
            offs = [self._is_off(g) for g in groups if isinstance(g, pikepdf.Dictionary)]
            policy = str(group.get("/P", "/AnyOn"))
            if not offs:
                return False
            return {
                "/AllOn": any(offs), "/AnyOff": not any(offs), "/AllOff": not all(offs),
            }.get(policy, all(offs))  # fmt: skip
        return group.objgen in self._hidden_groups

    def _resource(self, kind: str, name: bytes) -> Any:
        """The named resource, or an empty dictionary; names may hold #xx escapes (7.3.5)."""
        group = self._resources.get(kind)
        if not isinstance(group, pikepdf.Dictionary):
            return pikepdf.Dictionary()
        if b"#" in name:
            name = re.sub(rb"#([0-9A-Fa-f]{2})", lambda m: bytes((int(m[1], 16),)), name)
        return group.get(name.decode("utf-8", "surrogateescape"), pikepdf.Dictionary())


def _size(image: Any, key: str) -> int:
    value: Any = image.get(key, 0)
    return int(value)


def _text_string(data: bytes) -> str:
    if data[:2] == b"\xfe\xff":
        return data[2:].decode("utf-16-be", "ignore")
    if data[:3] == b"\xef\xbb\xbf":
        return data[3:].decode("utf-8", "ignore")
    return data.decode("pdfdoc", "ignore")


Operator = Callable[[Walk, list[bytes]], None]

# What the operators do (annex A). Those that only matter for drawing are ignored.
_OPERATORS: dict[bytes, Operator] = {
    b"BT": Walk._begin_text, b"ET": Walk._end_text, b"Tf": Walk._font, b"Tc": Walk._char_space,
    b"Tw": Walk._word_space, b"Tz": Walk._scale, b"TL": Walk._leading, b"Ts": Walk._rise, b"Tr": Walk._mode,
    b"Td": Walk._move, b"TD": Walk._move_leading, b"Tm": Walk._matrix, b"T*": Walk._next_line,
    b"Tj": Walk._show, b"TJ": Walk._show, b"'": Walk._show_next, b'"': Walk._show_spaced, b"q": Walk._save,
    b"Q": Walk._restore, b"cm": Walk._concat, b"w": Walk._line_width, b"d": Walk._dash,
    b"gs": Walk._external_state, b"m": Walk._move_to, b"l": Walk._line_to, b"c": Walk._curve,
    b"v": Walk._curve_v, b"y": Walk._curve_v, b"h": Walk._close, b"re": Walk._rectangle, b"W": Walk._clip,
    b"W*": Walk._clip, b"n": Walk._end_path, b"S": Walk._stroke, b"s": Walk._close_stroke, b"f": Walk._fill,
    b"F": Walk._fill, b"f*": Walk._fill, b"B": Walk._fill_stroke, b"B*": Walk._fill_stroke,
    b"b": Walk._close_fill_stroke, b"b*": Walk._close_fill_stroke, b"g": Walk._grey, b"rg": Walk._rgb,
    b"k": Walk._cmyk, b"G": Walk._stroke_grey, b"RG": Walk._stroke_rgb, b"K": Walk._stroke_cmyk,
    b"cs": Walk._space, b"CS": Walk._stroke_space, b"sc": Walk._colour, b"scn": Walk._colour,
    b"SC": Walk._stroke_colour, b"SCN": Walk._stroke_colour, b"Do": Walk._do, b"BI": Walk._inline_image,
    b"sh": Walk._shading, b"BMC": Walk._begin_mark, b"BDC": Walk._begin_mark, b"EMC": Walk._end_mark,
}  # fmt: skip
for _ignored in b"i ri j J M d0 d1 MP DP BX EX ID EI".split():
    _OPERATORS[_ignored] = lambda walk, operands: None
