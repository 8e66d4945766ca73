"""How a text begins that names a figure or a table."""

from __future__ import annotations

import re

CAPTION = re.compile(
    r"^(?i:table|figure|fig\.|exhibit|chart|plate|map|tabelle|tab\.|abbildung|abb\.|tableau|figura|tabla|"
    r"таблица|рисунок|рис\.|πίνακας|σχήμα)\s*(\d|[IVX]+\b|[A-Z][.-]?\d)"
)
