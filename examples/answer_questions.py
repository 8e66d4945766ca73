"""Put passages into a full-text index and answer questions from it, each with its page and box."""

import sqlite3
from pathlib import Path

import wennak
from wennak.demo import write_collection

# What is asked, and the words and phrases to look for.
QUESTIONS = {
    "By car from Hollinquay to Brannsey": ["car", "Hollinquay", "Brannsey"],
    "High water on 30 June": ["high", "30 June"],
    "Who asks about a berth charge, and by when": ["charges", "queries"],
}

write_collection(Path("wennak-demo"))
index = sqlite3.connect(":memory:")
index.execute("create virtual table passages using fts5(source, headings, text, page, box)")
for document in wennak.stream("wennak-demo/papers"):
    if isinstance(document, wennak.WennakError):
        print(document)
        continue
    # A table is never cut through a row; with records each row names its headers, so that it stands alone.
    for passage in document.passages(limit=60, records=True):
        place = passage.places[0]
        corner = f"{place.box.x0:.0f}, {place.box.y0:.0f}"
        row = (passage.source, " / ".join(passage.headings), passage.text, place.page, corner)
        index.execute("insert into passages values (?, ?, ?, ?, ?)", row)

for question, words in QUESTIONS.items():
    print(f"\n{question}?")
    found = index.execute(
        "select source, page, box, text from passages where passages match ? order by rank limit 2",
        (" OR ".join(f'"{word}"' for word in words),),
    )
    for source, page, box, text in found:
        # The line that answers best: a row of the table with its headers.
        line = max(text.splitlines(), key=lambda line: sum(word.lower() in line.lower() for word in words))
        print(f"  {source}, page {page}, at {box}\n    {line}")
