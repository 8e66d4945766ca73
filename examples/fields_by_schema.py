"""Fill one JSON Schema from forms of several layouts; every value says where it stands."""

import json
from pathlib import Path

import wennak
from wennak.demo import write_collection

write_collection(Path("wennak-demo"))
schema = json.loads(Path("wennak-demo/recipes/inspection.json").read_text(encoding="utf-8"))

for path in sorted(Path("wennak-demo/forms").glob("*.pdf")):
    filled = wennak.fields(wennak.read(path), schema)
    print(path.name)
    for name, field in filled.fields.items():
        # What was not found is not guessed: it is None, and says why.
        said = field.why if field.place is None else f"{field.value} (page {field.place.page})"
        print(f"  {name:16} {said}")
    for name, why in filled.why.items():
        print(f"  {name:16} {why}")
