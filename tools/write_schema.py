"""Write the JSON Schema of saved documents: python tools/write_schema.py."""

import json
from pathlib import Path

from wennak.emit import json_schema

OUT = Path(__file__).parent.parent / "docs/wennak-document.schema.json"

if __name__ == "__main__":
    OUT.write_text(json.dumps(json_schema(), indent=1) + "\n", encoding="utf-8")
