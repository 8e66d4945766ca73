"""Content stream bytes -> tokens (ISO 32000-2, 7.2 and 7.8.2).

Arrays, dictionaries and inline images come out as one token each, so that the walk over a page sees a few
hundred tokens rather than thousands; the arrays of TJ are taken apart later, for the whole page at once
(`shown_strings`).
"""

from __future__ import annotations

import functools
import re
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .arrays import distinct

_SPACE = rb"\x00\t\n\x0c\r "
_DELIMITER = rb"()<>\[\]{}/%"
# Strings may hold balanced parentheses; four levels are more than any producer was seen to write. Runs of
# plain characters stand before and between the rest, since an alternative for each character is slower.
_PLAIN = rb"[^()\\]*+"
_STRING = rb"\(" + _PLAIN + rb"(?:\\." + _PLAIN + rb")*+\)"
for _ in range(4):
    _STRING = rb"\(" + _PLAIN + rb"(?:(?:\\.|" + _STRING + rb")" + _PLAIN + rb")*+\)"
_HEX = rb"<[0-9A-Fa-f" + _SPACE + rb"]*+>"
_WORD = rb"/?[^" + _SPACE + _DELIMITER + rb"]++"
_COMMENT = rb"%[^\r\n]*+"
_BETWEEN = rb"[^\[\]()%]*+"
_ITEM = rb"(?:" + _STRING + rb"|" + _COMMENT + rb"|\[[^\[\]()]*+\])"
_ARRAY = rb"\[" + _BETWEEN + rb"(?:" + _ITEM + _BETWEEN + rb")*+\]"
_DICT_INNER = rb"[^<>()]|" + _STRING + rb"|" + _HEX
_DICT = rb"<<(?:" + _DICT_INNER + rb"|<<(?:" + _DICT_INNER + rb"|<<(?:" + _DICT_INNER + rb")*+>>)*+>>)*+>>"
# An inline image ends at an EI that is followed by the end or by something that reads like operators: the
# same two letters may also occur in the image data (7.8.2 and 8.9.7 leave the search to the reader).
_IMAGE = rb"BI(?=[" + _SPACE + rb"/])(?:[^()]|" + _STRING + rb")*?[" + _SPACE + rb"]ID[" + _SPACE + rb"]"
_IMAGE += rb".*?[" + _SPACE + rb"]EI(?=[" + _SPACE + rb"]++(?:[\x20-\x7e\r\n\t]{8}|[\x20-\x7e\r\n\t]*$)|$)"

_TOKENS = re.compile(b"|".join((_WORD, _STRING, _ARRAY, _DICT, _HEX, rb"/")), re.S)
_ITEMS = re.compile(rb"(" + _STRING + rb")|(" + _HEX + rb")|([+-]?[\d.]+(?:-\d+)?)", re.S)

_ESCAPE = re.compile(rb"\\([0-7]{1,3}|\r\n|.)", re.S)
_ESCAPES = {
    b"n": b"\n", b"r": b"\r", b"t": b"\t", b"b": b"\b", b"f": b"\f", b"\n": b"", b"\r": b"", b"\r\n": b"",
}  # fmt: skip
_NOT_HEX = re.compile(rb"[^0-9A-Fa-f]")


@functools.cache
def _tokens_and_images() -> re.Pattern[bytes]:
    # Few pages need it, and it takes longer to compile than they to read.
    return re.compile(b"|".join((_IMAGE, _WORD, _STRING, _ARRAY, _DICT, _HEX, rb"/")), re.S)


@functools.cache
def _strings_and_comments() -> re.Pattern[bytes]:
    # A stray parenthesis or bracket in a comment must not open a token, nor a comment begin in a string.
    return re.compile(rb"(" + _STRING + rb")|" + _COMMENT, re.S)


def tokens(data: bytes) -> list[bytes]:
    """Return the tokens of a content stream; white space, comments and stray delimiters are dropped.

    An inline image is one token, the operand of a BI that follows it.
    """
    if b"EI" in data and b"BI" in data:
        found: list[bytes] = []
        for token in _tokens_and_images().findall(data):
            found += (token, b"BI") if token[:2] == b"BI" and len(token) > 2 else (token,)
        return found
    if b"%" in data:
        data = _strings_and_comments().sub(lambda m: m[1] or b" ", data)
    return _TOKENS.findall(data)


def string_bytes(token: bytes) -> bytes:
    """Return what a literal or hexadecimal string token stands for (7.3.4)."""
    if token[:1] == b"(":
        inner = token[1:-1]
        if b"\r" in inner:
            inner = re.sub(rb"(?<!\\)\r\n?", b"\n", inner)
        return _ESCAPE.sub(_unescape, inner) if b"\\" in inner else inner
    digits = _NOT_HEX.sub(b"", token)
    return bytes.fromhex((digits + b"0" if len(digits) % 2 else digits).decode("ascii"))


def _unescape(match: re.Match[bytes]) -> bytes:
    escaped = match[1]
    if escaped[:1].isdigit() and escaped[0] < 0x38:
        return bytes((int(escaped, 8) & 0xFF,))
    return _ESCAPES.get(escaped, escaped)


def number(token: bytes) -> float:
    """Return the number that a token stands for; broken ones read as leniently as viewers do, else 0.

    Some producers write "--5" or "1.2-3"; the digits up to the second sign count.
    """
    try:
        value = float(token)
    except ValueError:
        match = re.match(rb"([+-])*(\d*\.?\d*)", token)
        digits = match[2] if match else b""
        try:
            value = float(digits) if digits.strip(b".") else 0.0
        except ValueError:
            return 0.0
        if match and match[1] == b"-":
            value = -value
    # "nan" and "inf" are words to a PDF, not numbers; huge ones would overflow the arithmetic downstream.
    return value if -1e9 < value < 1e9 else 0.0


@dataclass(slots=True)
class Strings:
    """Shown strings in a row: their bytes, and for each its length, the number of the token that it came
    from and the kern (thousandths of an em, as printed in the array) that follows it.
    """

    data: npt.NDArray[np.uint8]
    length: npt.NDArray[np.int64]
    owner: npt.NDArray[np.int64]
    kern: npt.NDArray[np.float64]


def shown_strings(shown: list[bytes]) -> Strings:
    """Take apart the string and array tokens of Tj and TJ, all at once.

    Tokens written in the plainest way, which nearly all are, are cut with array operations over their joined
    bytes; those with nested parentheses, comments or both kinds of strings are read one by one.
    """
    literal, hexed, other = _by_kind(shown)
    parts = []
    for members, opening in ((literal, b"("), (hexed, b"<")):
        if members:
            part, odd = _cut_plain([shown[i] for i in members], opening)
            where = np.array(members, dtype=np.int64)
            other += where[odd].tolist()
            part.owner = where[part.owner]
            parts.append(part)
    if other:
        parts.append(_read_each(shown, sorted(other)))
    if len(parts) == 1:
        return parts[0]
    if not parts:
        return _read_each([], [])
    length, owner = np.concatenate([p.length for p in parts]), np.concatenate([p.owner for p in parts])
    order = np.argsort(owner, kind="stable")
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    data = np.concatenate([p.data for p in parts])
    return Strings(
        data[np.argsort(np.repeat(rank, length), kind="stable")],
        length[order],
        owner[order],
        np.concatenate([p.kern for p in parts])[order],
    )


def _by_kind(shown: list[bytes]) -> tuple[list[int], list[int], list[int]]:
    """The positions of tokens with literal strings, with hexadecimal ones, and of those to be read one by
    one.
    """
    whole = b"".join(shown)
    if not any(sign in whole for sign in (b"<", b"\r", b"\\\n")):
        return list(range(len(shown))), [], []
    literal: list[int] = []
    hexed: list[int] = []
    other: list[int] = []
    for i, token in enumerate(shown):
        if b"<" in token:
            (other if b"(" in token else hexed).append(i)
        else:
            (other if b"\r" in token or b"\\\n" in token else literal).append(i)
    return literal, hexed, other


def _cut_plain(shown: list[bytes], opening: bytes) -> tuple[Strings, npt.NDArray[np.int64]]:
    """Cut tokens of one kind of string; also the positions of those that turn out not to be plain."""
    sizes = np.array([len(t) for t in shown], dtype=np.int64)
    whole = b"".join(shown)
    joined = np.frombuffer(whole, dtype=np.uint8)
    token = np.repeat(np.arange(len(shown)), sizes)
    meant = joined
    if opening == b"(" and b"\\" in whole:
        joined, meant, keep = _unescaped(whole)
        token = token[keep]
    opens, closes = joined == opening[0], joined == opening[0] + (1 if opening == b"(" else 2)
    depth = np.cumsum(opens.view(np.int8) - closes.view(np.int8), dtype=np.int16)
    # Strings within strings, and comments, are rare.
    odd = (depth > 1) | ((joined == 37) & (depth < 1))
    if opening == b"<":
        # An odd digit or white space between digits is legal and rare.
        text = (depth == 1) & ~opens
        odd |= text & (joined <= 32)
        digits = np.bincount(np.cumsum(opens)[text])
        if (digits % 2).any():
            odd |= text & (digits % 2 == 1)[np.cumsum(opens) * text]
    bad = distinct(token[odd]) if odd.any() else token[:0]
    if len(bad):
        good = np.setdiff1d(np.arange(len(shown)), bad)
        part, _ = _cut_plain([shown[i] for i in good.tolist()], opening)
        part.owner = good[part.owner]
        return part, bad
    inside = (depth == 1) & ~opens
    starts = np.flatnonzero(opens | ((joined == 91) & ~inside))
    length = np.diff(np.append(np.cumsum(inside)[starts], np.count_nonzero(inside)))
    between = joined.copy()
    between[starts] = 124
    printed = between[~(inside | closes | (joined == 93))].tobytes().split(b"|")[1:]
    kern = np.fromiter(map(_kern, printed), np.float64, len(printed))
    data = meant[inside]
    if opening == b"<":
        data = np.frombuffer(bytes.fromhex(data.tobytes().decode("ascii")), dtype=np.uint8)
        length = length // 2
    return Strings(data, length, token[starts], kern), bad


def _unescaped(
    whole: bytes,
) -> tuple[npt.NDArray[np.uint8], npt.NDArray[np.uint8], npt.NDArray[np.bool_]]:
    """Replace each escape by one byte: as a blank for the cutting, as what it means for the text.

    Also which bytes of the whole stay.
    """
    joined = np.frombuffer(whole, dtype=np.uint8).copy()
    meant, keep = joined.copy(), np.ones(len(joined), dtype=np.bool_)
    for match in _ESCAPE.finditer(whole):
        start, end = match.span()
        joined[start] = 32
        meant[start] = _unescape(match)[0]
        keep[start + 1 : end] = False
    return joined[keep], meant[keep], keep


@functools.lru_cache(4096)
def _kern(part: bytes) -> float:
    """The sum of the numbers between two strings, of which there is seldom more than one.

    The same few kerns come again and again.
    """
    return sum(number(p) for p in part.split())


def _read_each(shown: list[bytes], members: list[int]) -> Strings:
    strings: list[bytes] = []
    owners: list[int] = []
    kerns: list[float] = []
    for i in members:
        token = shown[i]
        if token[:1] != b"[":
            token = b"[" + token + b"]"
        owners.append(i)
        strings.append(b"")
        kerns.append(0.0)
        for literal, hexed, kern in _ITEMS.findall(token, 1, len(token) - 1):
            if kern:
                kerns[-1] += number(kern)
            else:
                owners.append(i)
                strings.append(string_bytes(literal or hexed))
                kerns.append(0.0)
    return Strings(
        np.frombuffer(b"".join(strings), dtype=np.uint8),
        np.array([len(s) for s in strings], dtype=np.int64),
        np.array(owners, dtype=np.int64),
        np.array(kerns, dtype=np.float64),
    )


def array_numbers(token: bytes) -> list[float]:
    """Return the numbers of an array token."""
    return [number(item[2]) for item in _ITEMS.findall(token, 1, len(token) - 1) if item[2]]
