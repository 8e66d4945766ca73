"""Lines -> running text."""

from __future__ import annotations

import re

# Marks of list items: bullets, numbers and letters with a point or parenthesis.
MARKER = re.compile(r"^([•●○■□▪◦‣–—*·-]|\(?[0-9ivxlc]{1,4}[.)]|\(?[a-zA-Z][.)])$")
_HYPHENS = "-\u2010\u00ad"
_BROKEN = re.compile(r"[^\W\d_]{2,}[-\u2010\u00ad]$")


def join_lines(lines: list[str]) -> str:
    """Join lines with blanks; a word broken with a hyphen before a small letter becomes whole again.

    Scripts that are written without blanks (Chinese, Japanese) are joined without them.
    """
    text = ""
    for line in lines:
        if not line:
            continue
        if not text:
            text = line
        elif text[-1] in _HYPHENS:
            text = _over_hyphen(text, line)
        elif _unspaced(text[-1]) and _unspaced(line[0]):
            text += line
        else:
            text += " " + line
    return text


def _over_hyphen(text: str, line: str) -> str:
    if text[-1] == "\u00ad" or (_BROKEN.search(text) and line[0].islower()):
        return text[:-1] + line
    # A compound such as "1990-2000" or "X-Ray" keeps its hyphen and takes no blank; a dash stays a dash.
    return text + line if text[-2:-1].isalnum() and line[0].isalnum() else f"{text} {line}"


def _unspaced(char: str) -> bool:
    return "\u2e80" <= char <= "\u9fff" or "\uf900" <= char <= "\ufaff" or "\uff00" <= char <= "\uffef"
