"""Put a year of ledgers to one recipe: rows of all months in one file, the doubtful ones to a person."""

import csv
from pathlib import Path

import wennak
from wennak.demo import write_collection

write_collection(Path("wennak-demo"))
recipe = wennak.load_recipe("wennak-demo/recipes/berth-charges.yaml")

# One month first: what the recipe makes of it, and whether its checks hold.
month = wennak.read("wennak-demo/ledgers/berth-charges-2031-01.pdf")
applied = wennak.apply_recipe(recipe, month)
print(f"January: {len(applied.records)} rows, {'fits' if applied.good else 'does not fit'}")

# Then the year. What breaks a check goes to data/review with the reason, and never into the data.
outcomes = wennak.apply_recipes([recipe], "wennak-demo/ledgers", "data", workers=1)
review = {o.name: [n.message for n in o.notes if n.code == "review"] for o in outcomes}
good = [name for name, why in review.items() if not why]
print(f"{len(good)} of {len(outcomes)} months are in the data")
for name, why in review.items():
    for said in why:
        print(f"For a person: {name}: {said}")

with Path("data/berth-charges.csv").open(newline="", encoding="utf-8") as file:
    rows = list(csv.DictReader(file))
print(f"{len(rows)} rows; the first: {rows[0]}")
