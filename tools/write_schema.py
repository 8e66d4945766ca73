"""Write the JSON Schemas of saved documents and of recipes, and the descriptions of the service and of the
protocol of vision services: python tools/write_schema.py.
"""

import json
from pathlib import Path

from wennak.emit import json_schema
from wennak.recipes import recipe_schema
from wennak.remote.protocol import protocol
from wennak.service import openapi

DOCS = Path(__file__).parent.parent / "docs"

if __name__ == "__main__":
    files = {
        "document.schema": json_schema(),
        "recipe.schema": recipe_schema(),
        "service.openapi": openapi(),
        "vision.openapi": protocol(),
    }
    for name, data in files.items():
        text = json.dumps(data, indent=1) + "\n"
        (DOCS / f"wennak-{name}.json").write_text(text, encoding="utf-8")
