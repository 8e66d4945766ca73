"""Write the JSON Schemas of saved documents and of recipes: python tools/write_schema.py."""

import json
from pathlib import Path

from wennak.emit import json_schema
from wennak.recipes import recipe_schema

DOCS = Path(__file__).parent.parent / "docs"

if __name__ == "__main__":
    for name, schema in (("document", json_schema()), ("recipe", recipe_schema())):
        text = json.dumps(schema, indent=1) + "\n"
        (DOCS / f"wennak-{name}.schema.json").write_text(text, encoding="utf-8")
