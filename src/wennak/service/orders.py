"""What a request asks for: a format, by Accept or by name, and the options of `wennak convert`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..emit import LIMIT, PLAIN, EmitOptions
from ..errors import UsageError
from ..methods import DEFAULT_METHOD, check_method
from ..pages import check_pages
from ..scan import AS_NEEDED, MODES, Recognition

# By name as in `--as`: media type, and the ending of files. `page` is what a browser is shown.
FORMATS = {
    "md": ("text/markdown; charset=utf-8", "md"),
    "html": ("text/html; charset=utf-8", "html"),
    "json": ("application/json", "json"),
    "passages": ("application/jsonl", "jsonl"),
    "csv": ("text/csv; charset=utf-8", "csv"),
    "xlsx": ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "xlsx"),
    "page": ("text/html; charset=utf-8", "html"),
}
OPTIONS = ("as", "pages", "method", "password", "table", "limit", "records", "page-marks", "recognise",
           "languages", "name")  # fmt: skip
_SWITCH = {
    "": True,
    "1": True,
    "yes": True,
    "true": True,
    "on": True,
    "0": False,
    "no": False,
    "false": False,
}


class NotAcceptable(UsageError):
    """Nothing that a client accepts can be given."""


@dataclass(frozen=True, slots=True)
class Order:
    """A format, and how the document is read and written; `table` is the one that CSV gives, XLSX all of them
    where it is 0.
    """

    format: str = "md"
    name: str = "document.pdf"
    pages: str | None = None
    method: str = DEFAULT_METHOD
    password: str = ""
    table: int = 0
    options: EmitOptions = PLAIN
    recognition: Recognition = AS_NEEDED


def order_of(query: Mapping[str, str], accept: str, name: str = "") -> Order:
    """Return what query parameters and an Accept header ask for; `name` is that of the file that was sent.

    Raises UsageError for parameters that do not exist or make no sense, and NotAcceptable.
    """
    for key in query:
        if key not in OPTIONS:
            raise UsageError(f"There is no parameter {key!r}; choose from {', '.join(OPTIONS)}.")
    format = query.get("as") or accepted(accept)
    if format not in FORMATS:
        raise UsageError(f"There is no format {format!r}; choose from {', '.join(FORMATS)}.")
    pages = query.get("pages") or None
    if pages is not None:
        check_pages(pages)
    method = query.get("method") or DEFAULT_METHOD
    check_method(method)
    mode = query.get("recognise") or "auto"
    if mode not in MODES:
        raise UsageError(f"recognise={mode} is not one of {', '.join(MODES)}.")
    languages = tuple(code.strip() for code in query.get("languages", "").split(",") if code.strip())
    options = EmitOptions(
        _switch(query, "page-marks"), _switch(query, "records"), _number(query, "limit", LIMIT)
    )
    return Order(
        format, query.get("name") or name or "document.pdf", pages, method, query.get("password", ""),
        _number(query, "table", 0), options, Recognition(mode, languages),
    )  # fmt: skip


def accepted(accept: str) -> str:
    """Return the format that an Accept header (RFC 9110, 12.5.1) likes best; Markdown where any will do.

    Raises NotAcceptable where it likes none.
    """
    types = {media.split(";")[0]: name for name, (media, _) in reversed(FORMATS.items()) if name != "page"}
    best, chosen = 0.0, ""
    for part in accept.split(",") if accept.strip() else ["*/*"]:
        media, *parameters = (piece.strip() for piece in part.split(";"))
        weights = [p[2:] for p in parameters if p.startswith("q=")]
        try:
            weight = float(weights[0]) if weights else 1.0
        except ValueError:
            weight = 0.0
        fits = [n for kind, n in types.items() if media in ("*/*", kind, kind.split("/")[0] + "/*")]
        # "text/*" and "*/*" mean the first of our formats that they fit.
        name = next((n for n in FORMATS if n in fits), "")
        if name and weight > best:
            best, chosen = weight, name
    if not chosen:
        raise NotAcceptable(f"None of {accept} can be given; choose from {', '.join(types)}.")
    return chosen


def _switch(query: Mapping[str, str], name: str) -> bool:
    if name not in query:
        return False
    if query[name].lower() not in _SWITCH:
        raise UsageError(f"{name}={query[name]} is neither yes nor no.")
    return _SWITCH[query[name].lower()]


def _number(query: Mapping[str, str], name: str, otherwise: int) -> int:
    text = query.get(name, "")
    if not text:
        return otherwise
    if not text.isascii() or not text.isdigit() or not 0 < int(text[:9]) < 10**8:
        raise UsageError(f"{name}={text} is no number from 1 on.")
    return int(text)
