"""Placed symbols and rules -> the tree of an equation.

After the baseline trees of Zanibbi, Blostein and Cordy (2002): what stands over and under rules, in brackets
and around operators is taken out first, from the outside to the inside; what is left follows a baseline, and
scripts are what leaves it. PDF tells baselines and sizes exactly, so that these decide and not the shapes.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from dataclasses import replace

from .symbols import FENCES, OPERATORS, Bar, Placed
from .tree import Accent, Fraction, Grid, Node, Radical, Row, Scripts, Symbol, row_of

# Lines of a system, and rows of a matrix, are parted by strips at least this high (em).
LINE_GAP, ROW_GAP = 0.15, 0.12
# A rule keeps what stands this near to it (em) on its line; what stands over or under it follows without a
# gap of this height.
GLUE, STACK = 0.55, 0.5
# Columns of a matrix stand at least this far apart (em).
COLUMN_GAP = 0.5
# What leaves the baseline by more than this (em) is a script; where only the axis is known, by more than
# that.
SHIFT, AXIS_SHIFT = 0.1, 0.17
# The rule of a radical stands at most so far (em) above its sign.
RADICAL = 6.0
# Operators and tall brackets may stand off by so much (em).
OPERATOR_SHIFT = 0.6
# What is as large as this share of the largest symbols may stand on their line.
LEVEL = 0.85
# Limits are centred on their operator within this (em).
CENTRED = 0.5

# No equation has more symbols and rules.
MOST = 3000

OPENING = {"(": ")", "[": "]", "{": "}", "⟨": "⟩", "⌊": "⌋", "⌈": "⌉", "|": "|", "‖": "‖"}
LIMIT_NAMES = frozenset(
    ("lim", "max", "min", "sup", "inf", "argmax", "argmin", "limsup", "liminf", "det", "gcd", "Pr")
)
RELATIONS = frozenset("=<>≤≥≈≡∼≅≃∝→⇒⇔↔←⊂⊆⊃⊇∈∋≠≪≫≺≻⟶⟹⟺↦≔∉⪯⪰≲≳⊢⊨|∣∥⊥")
ACCENTS = {
    "^": "^", "ˆ": "^", "̂": "^", "~": "~", "˜": "~", "̃": "~", "∼": "~", "¯": "¯", "ˉ": "¯", "̄": "¯",
    "‾": "¯", "̅": "¯",
    "⃗": "→", "→": "→", "˙": "˙", "̇": "˙", "¨": "¨", "̈": "¨", "ˇ": "ˇ", "˘": "˘", "´": "´", "`": "`",
    "˚": "˚",
}  # fmt: skip


class Unclear(Exception):
    """What is placed so that no reading of it is sure."""


def read_tree(symbols: Sequence[Placed], bars: Sequence[Bar]) -> Node:
    """Return the tree of an equation. Raises Unclear where something is left that has no place in it."""
    if not symbols or len(symbols) + len(bars) > MOST:
        raise Unclear
    lines = _cut(symbols, bars, LINE_GAP)
    if len(lines) == 1:
        return _line(*lines[0]).node
    return Grid(tuple(_aligned(lines)))


# Things side by side with the rules among them.
_Part = tuple[Sequence[Placed], Sequence[Bar]]


def _cut(symbols: Sequence[Placed], bars: Sequence[Bar], gap: float) -> list[_Part]:
    """Cut an equation into its lines, or what stands in brackets into its rows: at strips at least so high
    (em) that nothing reaches into, and that are not those beside the rule of a fraction.
    """
    size = _size(symbols)
    spans = [(s.top, s.bottom) for s in symbols]
    roots = [s for s in symbols if s.text == "√"]
    for bar in bars:
        if any(_is_hooked(root, bar) for root in roots):
            continue
        over, under = _stacked(symbols, bar, bars)
        if over and under:
            spans.append((min(s.bottom for s in over), max(s.top for s in under)))
    spans.sort()
    cuts: list[tuple[float, float]] = []
    reach = spans[0][1]
    for top, bottom in spans[1:]:
        if top - reach > gap * size:
            cuts.append(((top + reach) / 2, top - reach))
        reach = max(reach, bottom)
    # What is smaller throughout is no line of its own, but a limit of the line that it is nearer to.
    while cuts:
        rows = _rows(symbols, cuts)
        small = next((k for k, row in enumerate(rows) if all(s.size < LEVEL * size for s in row)), None)
        if small is None:
            break
        beside = [k for k in (small - 1, small) if 0 <= k < len(cuts)]
        del cuts[min(beside, key=lambda k: cuts[k][1])]
    rules: list[list[Bar]] = [[] for _ in range(len(cuts) + 1)]
    for bar in bars:
        rules[sum(bar.y > cut for cut, _ in cuts)].append(bar)
    return list(zip(_rows(symbols, cuts), rules, strict=True))


def _size(items: Sequence[Placed]) -> float:
    """The size of the largest letters; operators are set larger in some fonts."""
    return max((s.size for s in items if s.plain), default=max(s.size for s in items))


def _rows(symbols: Sequence[Placed], cuts: Sequence[tuple[float, float]]) -> list[list[Placed]]:
    rows: list[list[Placed]] = [[] for _ in range(len(cuts) + 1)]
    for symbol in symbols:
        rows[sum((symbol.top + symbol.bottom) / 2 > cut for cut, _ in cuts)].append(symbol)
    return rows


def _stacked(
    symbols: Sequence[Placed], bar: Bar, others: Sequence[Bar], reach: float = GLUE
) -> tuple[list[Placed], list[Placed]]:
    """What stands over and under a rule without a gap; other rules fill gaps."""
    size = _size(symbols)
    within = [s for s in symbols if bar.x0 - 0.15 * size <= s.middle <= bar.x1 + 0.15 * size]
    rules = [
        b for b in others if b is not bar and bar.x0 - 0.15 * size <= b.x0 and b.x1 <= bar.x1 + 0.15 * size
    ]
    sides: tuple[list[Placed], list[Placed]] = ([], [])
    # Both sides alike: by how far away a thing begins, and ends.
    for side, sign in zip(sides, (-1, 1), strict=True):
        things: list[tuple[float, float, Placed | None]] = []
        for s in within:
            if sign * ((s.top + s.bottom) / 2 - bar.y) > 0:
                near, far = sorted((sign * (s.top - bar.y), sign * (s.bottom - bar.y)))
                things.append((near, far, s))
        things += [
            (sign * (b.y - bar.y), sign * (b.y - bar.y), None) for b in rules if sign * (b.y - bar.y) > 0
        ]
        end, largest = 0.0, 0.0
        for near, far, thing in sorted(things, key=lambda t: t[:2]):
            # What is larger than all so far belongs to the line around the fraction, which is in a script.
            larger = thing is not None and largest and near > end and LEVEL * thing.size > largest
            if near - end > reach * size or larger:
                break
            end, largest = max(end, far), max(largest, thing.size if thing else 0.0)
            if thing is not None:
                side.append(thing)
    return sides


def _aligned(lines: Sequence[_Part]) -> list[tuple[Node, ...]]:
    """The lines of a system, parted where all of them have a sign of relation at one place."""
    size = _size([s for symbols, _ in lines for s in symbols])
    signs = [
        [s.x0 for s in symbols if s.text in RELATIONS and s.size >= LEVEL * size] for symbols, _ in lines
    ]
    shared = [x for x in sorted(signs[0]) if all(any(abs(x - y) < 0.2 * size for y in ys) for ys in signs)]
    if not shared:
        return [(_line(*line).node,) for line in lines]
    x = shared[0] - 0.2 * size
    out: list[tuple[Node, ...]] = []
    for symbols, bars in lines:
        left = [s for s in symbols if s.x0 < x], [b for b in bars if b.x0 < x]
        right = [s for s in symbols if s.x0 >= x], [b for b in bars if b.x0 >= x]
        out.append(tuple(_line(*part).node if part[0] else Row() for part in (left, right)))
    return out


def _line(symbols: Sequence[Placed], bars: Sequence[Bar]) -> Placed:
    """Read what stands on one line."""
    items, left = _take_grids(sorted(symbols, key=lambda s: s.x0), bars)
    items = _take_bars(items, left)
    return _take_scripts(_take_limits(_take_accents(items)))


def _around(node: Node, parts: Sequence[Placed], like: Placed) -> Placed:
    """A node with the box of its parts, on the line of one of them."""
    return replace(
        like, node=node, x0=min(p.x0 for p in parts), x1=max(p.x1 for p in parts),
        top=min(p.top for p in parts), bottom=max(p.bottom for p in parts),
    )  # fmt: skip


def _centred(node: Node, parts: Sequence[Placed], axis: float) -> Placed:
    """A node with the box of its parts, centred on an axis."""
    like = replace(parts[0], size=max(p.size for p in parts), axis=axis, plain=False)
    return _around(node, parts, like)


def _take_grids(items: list[Placed], bars: Sequence[Bar]) -> tuple[list[Placed], list[Bar]]:
    """Put what stands in tall brackets on several rows into one."""
    kept = list(bars)
    k = 0
    while k < len(items):
        opening = items[k]
        closing = _partner(items, k) if _is_tall(opening) and opening.text in OPENING else None
        if closing is None and not (_is_tall(opening) and opening.text == "{"):
            k += 1
            continue
        end = closing.x0 if closing else float("inf")
        inside = [s for s in items[k + 1 :] if s is not closing and s.middle < end and _is_beside(s, opening)]
        rules = [b for b in kept if opening.x0 < b.x0 < end and opening.top < b.y < opening.bottom]
        rows = _cut(inside, rules, ROW_GAP) if inside else []
        if len(rows) < 2:
            k += 1
            continue
        right = closing.text if closing else ""
        node = Grid(tuple(_cells(rows)), opening.text, right)
        parts = [opening, *inside, *([closing] if closing else [])]
        used = {id(p) for p in parts}
        grid = _centred(node, parts, opening.axis)
        items = [*items[:k], grid, *(s for s in items[k:] if id(s) not in used)]
        kept = [b for b in kept if b not in rules]
        k += 1
    return items, kept


def _is_tall(item: Placed) -> bool:
    return isinstance(item.node, Symbol) and item.node.tall


def _partner(items: Sequence[Placed], k: int) -> Placed | None:
    """The bracket of the same height that closes the one at `k`."""
    opening, depth = items[k], 0
    closes = OPENING[opening.text]
    for item in items[k + 1 :]:
        if not _is_tall(item) or abs(item.axis - opening.axis) > 0.3 * opening.size:
            continue
        if abs((item.bottom - item.top) - (opening.bottom - opening.top)) > 0.3 * opening.size:
            continue
        if item.text == closes:
            if not depth:
                return item
            depth -= 1
        elif item.text == opening.text:
            depth += 1
    return None


def _is_beside(item: Placed, bracket: Placed) -> bool:
    reach = 0.3 * bracket.size
    return item.top > bracket.top - reach and item.bottom < bracket.bottom + reach


def _cells(rows: Sequence[_Part]) -> list[tuple[Node, ...]]:
    """The cells of rows, parted where room runs down through all of them."""
    things = sorted((s.x0, s.x1) for symbols, _ in rows for s in symbols)
    size = _size([s for symbols, _ in rows for s in symbols])
    cuts, reach = [], things[0][1]
    for x0, x1 in things[1:]:
        if x0 - reach > COLUMN_GAP * size:
            cuts.append((x0 + reach) / 2)
        reach = max(reach, x1)
    out: list[tuple[Node, ...]] = []
    for symbols, bars in rows:
        cells: list[tuple[list[Placed], list[Bar]]] = [([], []) for _ in range(len(cuts) + 1)]
        for s in symbols:
            cells[sum(s.middle > cut for cut in cuts)][0].append(s)
        for b in bars:
            cells[sum((b.x0 + b.x1) / 2 > cut for cut in cuts)][1].append(b)
        out.append(tuple(_line(*cell).node if cell[0] else Row() for cell in cells))
    return out


def _take_bars(items: list[Placed], bars: Sequence[Bar]) -> list[Placed]:
    """Put fractions, radicals and what has a rule over or under it together, the widest first."""
    left = sorted(bars, key=lambda b: (b.x0 - b.x1, b.y))
    while left:
        bar = left.pop(0)
        root = next((s for s in items if s.text == "√" and _is_hooked(s, bar)), None)
        over, under = _stacked(items, bar, left, STACK)
        if root is not None:
            parts = [s for s in items if s is not root and _is_under(s, bar, root)]
            index = [s for s in items if s is not root and _is_index(s, root)]
            if not parts:
                raise Unclear
            body = _with_bars(parts, left)
            node = Radical(body.node, _line(index, []).node if index else None)
            whole, like = [root, *index, *parts], body
            made = _around(node, whole, like)
        elif over and under:
            whole = [*over, *under]
            top, bottom = _with_bars(over, left), _with_bars(under, left)
            made = _centred(Fraction(top.node, bottom.node), whole, bar.y)
        elif over or under:
            whole = over or under
            body = _with_bars(whole, left)
            mark = Accent(body.node, "¯") if under else Accent(body.node, "_", below=True)
            made = _around(mark, whole, body)
        else:
            raise Unclear
        used = {id(p) for p in whole}
        items = sorted([made, *(s for s in items if id(s) not in used)], key=lambda s: s.x0)
    return items


def _with_bars(parts: Sequence[Placed], bars: list[Bar]) -> Placed:
    """Read parts with the rules among them, which are taken from the others."""
    x0, x1 = min(p.x0 for p in parts), max(p.x1 for p in parts)
    top, bottom = min(p.top for p in parts), max(p.bottom for p in parts)
    reach = 0.3 * max(p.size for p in parts)
    own = [
        b for b in bars
        if x0 - reach < b.x0 and b.x1 < x1 + reach and top - reach < b.y < bottom + reach
    ]  # fmt: skip
    for bar in own:
        bars.remove(bar)
    return _line(parts, own)


def _is_hooked(root: Placed, bar: Bar) -> bool:
    """Whether a rule begins at the tip of a radical sign."""
    beside = abs(root.x1 - bar.x0) < 0.3 * root.size
    # How high the sign reaches is not known of every font.
    return beside and root.top - RADICAL * root.size < bar.y < root.top + 0.3 * root.size


def _is_under(item: Placed, bar: Bar, root: Placed) -> bool:
    """Whether something stands under the rule of a radical sign, and no lower than that."""
    high = bar.y < (item.top + item.bottom) / 2 < root.bottom + 0.2 * root.size
    return high and bar.x0 - 0.1 * root.size < item.middle < bar.x1 + 0.1 * root.size


def _is_index(item: Placed, root: Placed) -> bool:
    """Whether something small stands in the opening of a radical sign."""
    high = item.baseline < root.bottom - 0.45 * (root.bottom - root.top)
    return high and item.size < 0.8 * root.size and root.x0 - 0.1 * root.size < item.middle < root.x1


def _take_accents(items: list[Placed]) -> list[Placed]:
    """Put marks and what they stand over together."""
    out = []
    marks = [s for s in items if s.text in ACCENTS]
    for item in (s for s in items if s.text not in ACCENTS):
        for mark in marks:
            if _bears(item, mark):
                item = _around(Accent(item.node, ACCENTS[mark.text]), [item], item)
                marks.remove(mark)
                break
        out.append(_decomposed(item))
    return sorted([*out, *marks], key=lambda s: s.x0)


def _bears(item: Placed, mark: Placed) -> bool:
    raised = item.baseline - mark.baseline
    near = -0.5 * item.size < raised < item.size and mark.size >= 0.6 * item.size
    over = item.x0 - 0.05 * item.size < mark.middle < item.x1 + 0.12 * item.size
    letter = item.text[:1].isalnum() or not isinstance(item.node, Symbol)
    return near and letter and item.plain and over


def _decomposed(item: Placed) -> Placed:
    """A letter that holds its mark, as a letter and a mark."""
    node = item.node
    if not isinstance(node, Symbol) or len(node.text) != 1 or node.style != "italic":
        return item
    parts = unicodedata.normalize("NFD", node.text)
    if len(parts) != 2 or parts[1] not in ACCENTS:
        return item
    return replace(item, node=Accent(replace(node, text=parts[0]), ACCENTS[parts[1]]))


def _take_limits(items: list[Placed]) -> list[Placed]:
    """Put operators and what is set below and above them together."""
    size = _size(items)
    for op in [s for s in items if s.text in OPERATORS or s.text in LIMIT_NAMES]:
        # Names are set in the size of their line, which may be that of a script.
        line = op.size if op.plain else size
        small = [s for s in items if s is not op and s.size < LEVEL * line]
        reach = 0.15 * line
        below = _centred_on(op, [s for s in small if s.top > op.bottom - reach and s.top < op.bottom + line])
        above = _centred_on(op, [s for s in small if s.bottom < op.top + reach and s.bottom > op.top - line])
        if not (below or above):
            continue
        sub, sup = (_line(part, []).node if part else None for part in (below, above))
        whole = [op, *below, *above]
        used = {id(p) for p in whole}
        made = _around(Scripts(op.node, sub, sup, limits=True), whole, op)
        items = [s for s in items if id(s) not in used] + [made]
    return sorted(items, key=lambda s: s.x0)


def _centred_on(op: Placed, small: Sequence[Placed]) -> list[Placed]:
    """Those of some things in a row that are centred on an operator."""
    groups: list[list[Placed]] = []
    for item in sorted(small, key=lambda s: s.x0):
        if groups and item.x0 - max(s.x1 for s in groups[-1]) < 0.4 * item.size:
            groups[-1].append(item)
        else:
            groups.append([item])
    for group in groups:
        x0, x1 = min(s.x0 for s in group), max(s.x1 for s in group)
        if x0 < op.middle < x1 and abs((x0 + x1) / 2 - op.middle) < CENTRED * op.size:
            return group
    return []


def _take_scripts(items: Sequence[Placed]) -> Placed:
    """Read what is left along its baseline."""
    largest = _size(items)
    # Letters tell the line best: where operators stand on it differs from font to font.
    main = next((s for s in items if s.plain and s.size >= LEVEL * largest), items[0])
    groups: list[tuple[Placed, list[Placed]]] = []
    for item in items:
        # Something small on the line right behind a script belongs to that.
        scripts = groups[-1][1] if groups and item.plain and item.size < LEVEL * largest else []
        follows = any(abs(item.x0 - s.x1) < SHIFT * largest for s in scripts)
        if not groups or (_is_level(item, main, largest) and not follows):
            groups.append((item, []))
        else:
            groups[-1][1].append(item)
    nodes: list[Node] = []
    for base, scripts in groups:
        node = _with_scripts(base, scripts, main.axis)
        if nodes and isinstance(nodes[-1], Symbol) and nodes[-1].text == "√":
            # A radical sign without a rule covers what stands right behind it.
            nodes[-1] = Radical(node)
        else:
            nodes += node.items if isinstance(node, Row) else [node]
    return _around(row_of(nodes), items, main)


def _is_level(item: Placed, main: Placed, size: float) -> bool:
    if item.plain and main.plain and item.text not in FENCES:
        off = abs(item.baseline - main.baseline)
        return off < SHIFT * size and (item.size >= LEVEL * size or off < 0.03 * size)
    sign = isinstance(item.node, Symbol) and (not item.plain or item.text in FENCES)
    large = item.size >= LEVEL * size and (sign or _is_operator(item.node))
    return abs(item.axis - main.axis) < (OPERATOR_SHIFT if large else AXIS_SHIFT) * size


def _is_operator(node: Node) -> bool:
    base = node.base if isinstance(node, Scripts) else node
    return isinstance(base, Symbol) and base.text in OPERATORS


def _distance(host: Placed, script: Placed) -> float:
    return abs(host.x1 - script.x0) + max(0.0, abs(host.axis - script.axis) - 0.5 * host.size)


def _with_scripts(base: Placed, scripts: Sequence[Placed], axis: float) -> Node:
    if not scripts:
        return base.node
    high: list[Placed] = []
    low: list[Placed] = []
    largest = max(s.size for s in scripts)
    for item in scripts:
        hosts = [part for part in (high, low) if part]
        if item.size < LEVEL * largest and len(hosts) == 2:
            # A script of a script belongs to the one that ends where it begins, at about its height.
            min(hosts, key=lambda part: _distance(part[-1], item)).append(item)
        else:
            (high if item.axis < axis else low).append(item)
    sup, sub = (_line(part, []).node if part else None for part in (high, low))
    if isinstance(base.node, Scripts) and base.node.limits:
        return Row((base.node, Scripts(Row(), sub, sup)))
    return Scripts(base.node, sub, sup)
