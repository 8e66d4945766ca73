"""`Document` -> Markdown, HTML, JSON, passages, and pictures of what was read.

`overlay` and `look_page` are entered by themselves: their functions are called as they are.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..later import loaded

if TYPE_CHECKING:
    from .cells import CellRow, cell_rows
    from .data import DATA_FORMATS, DataColumn, DataRow, SqlTable, check_parquet, write_sheets, write_sql
    from .formats import (
        FORMATS,
        LIMIT,
        PLAIN,
        TABLE_FORMATS,
        EmitOptions,
        check_format,
        emit,
        save,
        save_table,
        table_bytes,
    )
    from .html import body_html, place_text, table_html, to_html
    from .json import from_json, json_schema, load, to_json
    from .markdown import to_markdown
    from .notebook import shown_document, shown_rows, shown_table
    from .page import page_of
    from .passage import Passage, count_tokens, passages, to_passages
    from .sheets import guarded
    from .survey import COLUMNS, SurveyRow, SurveyTotals, said, survey_csv, survey_html, survey_json
    from .typed import table_data
    from .whole import as_bytes, write_whole

# Loaded on first use: one format needs none of the others.
_LATER = {
    name: module
    for module, names in {
        "cells": "CellRow cell_rows",
        "data": "DATA_FORMATS DataColumn DataRow SqlTable check_parquet write_sheets write_sql",
        "formats": "FORMATS LIMIT PLAIN TABLE_FORMATS EmitOptions check_format emit save save_table "
        "table_bytes",
        "html": "body_html place_text table_html to_html",
        "json": "from_json json_schema load to_json",
        "markdown": "to_markdown",
        "notebook": "shown_document shown_rows shown_table",
        "page": "page_of",
        "passage": "Passage count_tokens passages to_passages",
        "sheets": "guarded",
        "survey": "COLUMNS SurveyRow SurveyTotals said survey_csv survey_html survey_json",
        "typed": "table_data",
        "whole": "as_bytes write_whole",
    }.items()
    for name in names.split()
}


def __getattr__(name: str) -> Any:
    return loaded(__name__, _LATER, name)


__all__ = [
    "COLUMNS",
    "DATA_FORMATS",
    "FORMATS",
    "LIMIT",
    "PLAIN",
    "TABLE_FORMATS",
    "CellRow",
    "DataColumn",
    "DataRow",
    "EmitOptions",
    "Passage",
    "SqlTable",
    "SurveyRow",
    "SurveyTotals",
    "as_bytes",
    "body_html",
    "cell_rows",
    "check_format",
    "check_parquet",
    "count_tokens",
    "emit",
    "from_json",
    "guarded",
    "json_schema",
    "load",
    "page_of",
    "passages",
    "place_text",
    "said",
    "save",
    "save_table",
    "shown_document",
    "shown_rows",
    "shown_table",
    "survey_csv",
    "survey_html",
    "survey_json",
    "table_bytes",
    "table_data",
    "table_html",
    "to_html",
    "to_json",
    "to_markdown",
    "to_passages",
    "write_sheets",
    "write_sql",
    "write_whole",
]
