"""Runs over collections: what is killed goes on, what fails costs itself only, nothing is done twice."""

from __future__ import annotations

import csv
import io
import json
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import time
import unittest
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import closing
from pathlib import Path
from typing import Any
from unittest import mock

import pikepdf
import pypdfium2
from pyarrow import parquet

import wennak
import wennak.emit
from tests.support import DEMO, InFolder, command, files_below, method_of, pdf_of, run, run_here, text_pdf
from wennak.collection import Plan

# A method that does what its page says: hangs, crashes, fills the memory; takes its time, or finds the disk
# full.
FAULTS = """
import errno, os, time
from wennak.tables import find_method
from wennak.collection import store

write = store.write_whole

def full(path, *rest):
    if os.environ.get("TESTED_FULL") and path.name in os.environ["TESTED_FULL"].split(","):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
    write(path, *rest)

store.write_whole = full

def read(layout):
    said = " ".join(layout.words.texts)
    if "HANG" in said:
        time.sleep(1000)
    if "CRASH" in said:
        os.abort()
    if "MEMORY" in said:
        held = [bytearray(50_000_000) for _ in range(100)]
    time.sleep(float(os.environ.get("TESTED_SECONDS", 0)))
    return find_method("combined")(layout)
"""


def journal(out: Path) -> dict[str, sqlite3.Row]:
    """The documents of a journal by name."""
    with closing(sqlite3.connect(out / "wennak-journal.sqlite")) as db:
        db.row_factory = sqlite3.Row
        return {row["name"]: row for row in db.execute("select * from documents order by place")}


class TestRuns(InFolder):
    def setUp(self) -> None:
        super().setUp()
        self.papers, self.out = self.folder / "papers", self.folder / "out"
        self.papers.mkdir()

    def write(self, name: str, data: bytes) -> Path:
        path = self.papers / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
        return path

    def written(self) -> int:
        """The number of outputs so far; a walk bears folders that vanish while it looks."""
        return sum(name.endswith(".md") for _, _, names in os.walk(self.out) for name in names)

    def test_a_killed_run_goes_on_and_gives_the_same_bytes(self) -> None:
        for k in range(36):
            self.write(
                f"{k % 7}/berth-{k}.pdf", text_pdf(*(f"Berth {k}, tide {n}" for n in range(1 + k % 5)))
            )
        for k in range(0, 36, 6):
            self.write(f"again/{k}.pdf", (self.papers / f"{k % 7}/berth-{k}.pdf").read_bytes())
            self.write(f"bad/{k}.pdf", b"%PDF-1.4 and nothing more " + bytes([k]))
        shutil.copy(DEMO / "tide-table.pdf", self.papers / "tide-table.pdf")
        arguments = ("convert", self.papers, "--as", "md,json", "--together", "passages,csv", "--workers", 2)
        whole = self.folder / "whole"
        self.assertEqual(run(*arguments, "--out", whole).returncode, 1)
        rng = random.Random(20)
        killed = 0
        for _ in range(3):
            child = subprocess.Popen(
                command(*arguments, "--out", self.out),
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                start_new_session=True,
            )
            done = rng.randrange(8, 20) + killed * 8
            while child.poll() is None and self.written() < done:
                time.sleep(0.01)
            killed += child.poll() is None
            # The driver only: its workers are left to themselves, as by a power cut to it.
            os.kill(child.pid, signal.SIGKILL)
            child.wait()
        self.assertGreater(killed, 0)
        self.assertEqual(run(*arguments, "--out", self.out).returncode, 1)
        self.assertEqual(files_below(self.out), files_below(whole))
        rows, expected = journal(self.out), journal(whole)
        self.assertEqual(len(rows), 49)
        for name, row in expected.items():
            same = ("state", "content", "pages", "tables", "same_as", "error", "place")
            self.assertEqual([rows[name][k] for k in same], [row[k] for k in same])
        # What was done before a kill was not done again.
        again = run(*arguments, "--out", self.out)
        self.assertIn("37 of them unchanged", again.stderr)
        self.assertEqual({n: r["attempts"] for n, r in journal(self.out).items() if r["state"] == "done"},
                         {n: r["attempts"] for n, r in rows.items() if r["state"] == "done"})  # fmt: skip
        left = {p.name for p in (self.out / ".wennak").iterdir()}
        self.assertEqual(left, {"parts"})

    def test_hangs_crashes_and_bombs_cost_their_own_document(self) -> None:
        env = method_of(self.folder, FAULTS)
        for k in range(6):
            self.write(f"good-{k}.pdf", text_pdf(f"Berth {k}"))
        for word in ("HANG", "CRASH", "MEMORY"):
            self.write(f"{word.lower()}.pdf", text_pdf("Berth 1", f"{word} it"))
        limits = ("--time-limit", 4, "--memory-limit", 1500)
        result = run("convert", self.papers, "--out", self.out, "--method", "tested", *limits, env=env)
        self.assertEqual(result.returncode, 1)
        self.assertEqual(sorted(files_below(self.out)), [f"good-{k}.md" for k in range(6)])
        for name, said in (("hang", "took longer than 4 s"), ("crash", "brought down"), ("memory", "memory")):
            self.assertIn(said, journal(self.out)[f"{name}.pdf"]["error"])
            self.assertIn(f"  {name}.pdf\n", result.stderr)
        self.assertNotIn("Traceback", result.stderr)

    def test_a_full_disk_stops_the_run_and_the_same_command_goes_on(self) -> None:
        env = method_of(self.folder, FAULTS)
        for k in range(12):
            self.write(f"berth-{k:02}.pdf", text_pdf(f"Berth {k}"))
        arguments = ("convert", self.papers, "--out", self.out, "--method", "tested", "--workers", 2)
        result = run(*arguments, env=env | {"TESTED_FULL": "berth-07.md"})
        self.assertEqual(result.returncode, 1)
        self.assertIn("no room left", result.stderr)
        self.assertNotIn("Traceback", result.stderr)
        done = files_below(self.out)
        self.assertNotIn("berth-07.md", done)
        self.assertTrue(all(data.startswith(b"Berth") for data in done.values()))
        result = run(*arguments, env=env)
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertEqual(len(files_below(self.out)), 12)

    def test_long_documents_are_shared_out_and_joined_to_the_same_bytes(self) -> None:
        env = method_of(self.folder, FAULTS)
        with pikepdf.open(DEMO / "tide-table.pdf") as tides, pikepdf.new() as pdf:
            for k in range(6):
                pdf.pages.extend(tides.pages)
                with pikepdf.open(io.BytesIO(text_pdf(f"Slack water {k}"))) as one:
                    pdf.pages.extend(one.pages)
            pdf.save(self.papers / "long.pdf")
        how = ("--as", "json", "--method", "tested")
        slow = env | {"TESTED_SECONDS": "0.8"}
        result = run("convert", self.papers, "--out", self.out, *how, "--log-json", env=slow)
        self.assertEqual(result.returncode, 0, result.stderr)
        events = [json.loads(line) for line in result.stderr.splitlines()]
        read = [event["pages"] for event in events if event["event"] == "reading"]
        self.assertGreater(len(read), 1)
        self.assertEqual(sum(read), 18)
        alone = run("convert", self.papers / "long.pdf", *how, env=env)
        self.assertEqual((self.out / "long.json").read_text("utf-8"), alone.stdout)
        self.assertFalse((self.out / ".wennak").exists())

    def test_only_what_changed_is_done_again(self) -> None:
        for name in ("a", "b", "c"):
            self.write(f"{name}.pdf", text_pdf(f"Paper {name}"))
        self.write("bad.pdf", b"%PDF-1.4 nothing")

        def convert(plan: Plan | None = None, **more: Any) -> dict[str, int]:
            before = {n: r["attempts"] for n, r in journal(self.out).items()} if self.out.exists() else {}
            self.last = wennak.convert(self.papers, self.out, plan=plan, **more)
            tried = {n: r["attempts"] - before.get(n, 0) for n, r in journal(self.out).items()}
            return {name: times for name, times in tried.items() if times}

        once = dict.fromkeys(("a.pdf", "b.pdf", "c.pdf", "bad.pdf"), 1)
        marked = wennak.emit.EmitOptions(page_marks=True)
        self.assertEqual(convert(), once)
        self.assertEqual(convert(), {})
        self.assertEqual([o.name for o in self.last if "is damaged" in o.error], ["bad.pdf"])
        self.write("b.pdf", text_pdf("Paper b, second printing"))
        self.assertEqual(convert(), {"b.pdf": 1})
        self.assertIn(b"second printing", files_below(self.out)["b.md"])
        # Written anew with the same bytes: nothing to do.
        self.write("a.pdf", (self.papers / "a.pdf").read_bytes())
        os.utime(self.papers / "a.pdf", (1, 1))
        self.assertEqual(convert(), {})
        self.assertEqual(convert(Plan(retry=True)), {"bad.pdf": 1})
        (self.out / "c.md").unlink()
        self.assertEqual(convert(), {"c.pdf": 1})
        self.assertEqual(convert(options=marked), once)
        convert(options=marked, fresh=True)
        self.assertEqual({r["attempts"] for r in journal(self.out).values()}, {1})
        (self.papers / "a.pdf").unlink()
        convert(Plan(prune=True), options=marked)
        self.assertEqual(sorted(files_below(self.out)), ["b.md", "c.md"])
        # The collection has moved: its outputs still hold.
        self.papers = self.papers.rename(self.folder / "elsewhere")
        convert(options=marked)
        self.assertEqual(sorted(o.state for o in self.last), ["failed", "unchanged", "unchanged"])

    def test_the_options_reach_the_run(self) -> None:
        self.write("a.pdf", text_pdf("Paper a"))
        self.write("bad.pdf", b"%PDF-1.4 nothing")
        for more, tries in (((), 1), (("--retry", "failed"), 2), (("--fresh",), 1)):
            self.assertEqual(run_here("convert", self.papers, "--out", self.out, *more).returncode, 1)
            self.assertEqual(journal(self.out)["bad.pdf"]["attempts"], tries)
        (self.papers / "a.pdf").unlink()
        run_here("convert", self.papers, "--out", self.out, "--prune")
        self.assertEqual(files_below(self.out), {})

    def test_a_locked_file_is_tried_again_with_a_password(self) -> None:
        with pikepdf.open(DEMO / "timetable.pdf") as pdf:
            pdf.save(self.papers / "locked.pdf", encryption=pikepdf.Encryption(owner="o", user="skerra"))
        self.assertEqual(run_here("convert", self.papers, "--out", self.out).returncode, 1)
        result = run_here("convert", self.papers, "--out", self.out, "--password", "skerra")
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertNotIn(b"skerra", (self.out / "wennak-journal.sqlite").read_bytes())

    def test_the_same_content_is_converted_once_and_accounted_for(self) -> None:
        for name in ("x/first.pdf", "y/second.pdf", "z/third.pdf"):
            self.write(name, text_pdf("One berth"))
        result = run_here("convert", self.papers, "--out", self.out)
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertIn("2 more with the content of another", result.stderr)
        self.assertEqual(list(files_below(self.out)), ["x/first.md"])
        rows = journal(self.out)
        self.assertEqual({n: r["same_as"] for n, r in rows.items() if r["state"] == "same"},
                         dict.fromkeys(("y/second.pdf", "z/third.pdf"), "x/first.pdf"))  # fmt: skip

    def test_two_runs_never_write_to_one_folder(self) -> None:
        env = method_of(self.folder, FAULTS)
        self.write("hang.pdf", text_pdf("HANG"))
        arguments = ("convert", self.papers, "--out", self.out, "--method", "tested")
        first = subprocess.Popen(
            command(*arguments), stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, env=os.environ | env,
            text=True, start_new_session=True,
            # A shell that runs tests in the background has them ignore Ctrl-C.
            preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
        )  # fmt: skip
        self.addCleanup(first.kill)
        while not (self.out / "wennak-journal.sqlite").exists():
            time.sleep(0.02)
        time.sleep(1.0)
        second = run(*arguments, env=env)
        self.assertEqual(second.returncode, 2)
        self.assertIn("Another run is writing", second.stderr)
        first.send_signal(signal.SIGINT)
        _, said = first.communicate(timeout=30)
        self.assertEqual(first.returncode, 130)
        self.assertIn("The same command goes on", said)
        self.assertNotIn("Traceback", said)

    def test_a_file_that_is_no_journal_is_left_alone(self) -> None:
        self.out.mkdir()
        (self.out / "wennak-journal.sqlite").write_bytes(b"These are the minutes of the board." * 99)
        self.write("a.pdf", text_pdf("Berth"))
        result = run_here("convert", self.papers, "--out", self.out)
        self.assertEqual(result.returncode, 2)
        self.assertIn("is no journal", result.stderr)
        self.assertTrue((self.out / "wennak-journal.sqlite").read_bytes().startswith(b"These are"))

    def test_what_is_written_for_the_whole_collection(self) -> None:
        papers = ["berth-ledger", "tide-table", "timetable", "yearly-accounts"]
        for k, paper in enumerate(papers):
            shutil.copy(DEMO / f"{paper}.pdf", self.papers / f"{k}.pdf")
        outs = [self.folder / f"out-{workers}" for workers in (1, 2)]
        for workers, out in enumerate(outs, start=1):
            names = ["passages", "csv", "parquet"]
            done = wennak.convert(self.papers, out, ["passages"], workers=workers, together=names)
            self.assertEqual([o.error for o in done], [""] * 4)
        self.assertEqual(files_below(outs[0]), files_below(outs[1]))
        each = [(outs[0] / f"{k}.jsonl").read_bytes() for k in range(4)]
        self.assertEqual((outs[0] / "passages.jsonl").read_bytes(), b"".join(each))
        with (outs[0] / "tables.csv").open(newline="", encoding="utf-8") as file:
            rows = list(csv.DictReader(file))
        columns = parquet.read_table(outs[0] / "tables.parquet").to_pylist()
        self.assertEqual([r["text"] for r in rows], [c["text"] for c in columns])
        documents = {f"{k}.pdf": wennak.read(self.papers / f"{k}.pdf") for k in range(4)}
        for row, column in zip(rows, columns, strict=True):
            table = documents[row["document"]].tables[column["table"] - 1]
            cell = table.grid()[column["row"] - 1][column["column"] - 1]
            self.assertEqual((cell.row + 1, cell.column + 1), (column["row"], column["column"]))
            self.assertEqual(cell.text, column["text"])
            if column["value"] is not None:
                digits = "".join(c for c in column["text"] if c.isdigit()).lstrip("0")
                self.assertIn(digits.rstrip("0"), f"{abs(column['value']):.6f}".replace(".", "").lstrip("0"))
        count = sum(
            bool(c.text)
            for d in documents.values()
            for t in d.tables
            for c in t.cells
            if c.row >= t.header_rows
        )
        self.assertEqual(len(rows), count)
        # A tide at Hollinquay is found by its paths alone.
        tide = next(r for r in rows if r["document"] == "1.pdf" and r["value"])
        self.assertTrue(tide["row_path"] and tide["column_path"])

    def test_an_executor_that_is_passed_gives_the_same_bytes(self) -> None:
        for name in ("timetable", "fares-circular", "berth-ledger"):
            shutil.copy(DEMO / f"{name}.pdf", self.papers)
        wennak.convert(self.papers, self.folder / "plain", ["json"])
        with ProcessPoolExecutor(2) as executor:
            wennak.convert(self.papers, self.out, ["json"], workers=executor)
        self.assertEqual(files_below(self.out), files_below(self.folder / "plain"))

    def test_wrong_calls_get_one_sentence(self) -> None:
        paper = self.write("a.pdf", text_pdf("Berth"))
        (self.folder / "list.bin").write_bytes(b"\xff\xfe\x00\x80")
        cases = [
            ("no 'xlsx' for a whole", [paper, "--out", self.out, "--together", "xlsx"]),
            ("at least one source", ["--out", self.out]),
            ("cannot be written to", [paper, "--out", "https://skerra.example/out"]),
            ("is no text file", ["--from", self.folder / "list.bin", "--out", self.out]),
            ("no cluster with workers", [paper, "--out", self.out, "--cluster", "tcp://127.0.0.1:9"]),
            ("names no kind of store", [paper, "--out", "skerra://out"]),
            ("need a journal on this machine", [paper, "--out", "memory://out"]),
        ]
        for sentence, arguments in cases:
            with self.subTest(sentence):
                result = (run if sentence == cases[0][0] else run_here)("convert", *arguments)
                self.assertEqual(result.returncode, 2, result.stderr)
                self.assertIn(sentence, result.stderr)
                self.assertNotIn("Traceback", result.stderr)


class TestStream(InFolder):
    def test_order_errors_as_values_and_lazy_sources(self) -> None:
        taken = 0

        def sources() -> Iterator[bytes | Path]:
            nonlocal taken
            for k in range(40):
                taken += 1
                yield text_pdf(f"Berth {k}") if k % 5 else self.folder / f"missing-{k}.pdf"

        for workers in (1, 2):
            taken = 0
            for k, document in enumerate(wennak.stream(sources(), workers=workers)):
                if k % 5:
                    assert isinstance(document, wennak.Document)
                    self.assertIn(f"Berth {k}", document.markdown())
                else:
                    assert isinstance(document, wennak.MissingSource)
                    self.assertIn(f"missing-{k}.pdf", document.source)
                self.assertLessEqual(taken, k + 6)
            self.assertEqual(taken, 40)

    def test_a_stream_may_be_left(self) -> None:
        documents = wennak.stream((text_pdf(f"Berth {k}") for k in range(100)), workers=2)
        self.assertIn("Berth 0", next(documents).markdown())
        documents.close()


class TestSurvey(InFolder):
    def test_what_lies_in_a_collection_and_what_to_do(self) -> None:
        papers = self.folder / "papers"
        papers.mkdir()
        for name in ("timetable", "tide-table", "engine-inspection-scan", "quay-rules-nameless"):
            shutil.copy(DEMO / f"{name}.pdf", papers)
        (papers / "again.pdf").write_bytes((DEMO / "timetable.pdf").read_bytes())
        (papers / "broken.pdf").write_bytes(b"%PDF-1.4 nothing")
        (papers / "words.pdf").write_bytes(b"Only words")
        with pikepdf.open(DEMO / "timetable.pdf") as pdf:
            pdf.save(papers / "locked.pdf", encryption=pikepdf.Encryption(owner="o", user="skerra"))
            for _ in range(99):
                pdf.pages.extend(pdf.pages[:1])
            pdf.save(papers / "long.pdf")
        surveys = [wennak.survey(papers, workers=workers) for workers in (1, 2)]
        for found in surveys:
            rows = {row.name: row for row in found.rows}
            states = {n: r.state for n, r in rows.items() if r.state != "ok"}
            self.assertEqual(
                states, {"broken.pdf": "damaged", "words.pdf": "not a PDF", "locked.pdf": "locked"}
            )
            self.assertEqual(rows["timetable.pdf"].same_as, "again.pdf")
            self.assertEqual(rows["engine-inspection-scan.pdf"].kinds, {"scan": 1})
            self.assertEqual(rows["quay-rules-nameless.pdf"].kinds, {"fonts without Unicode": 1})
            self.assertEqual(rows["tide-table.pdf"].kinds, {"text": 2})
            long = rows["long.pdf"]
            self.assertEqual((long.pages, long.looked, sum(long.kinds.values())), (100, 8, 100))
            self.assertEqual((sum(long.tables.values()), long.script), (100, "Latin"))
            self.assertTrue(all(row.advice for row in rows.values() if row.state != "ok" or row.same_as))
            self.assertEqual((found.totals.documents, found.totals.same, found.totals.pages), (9, 1, 105))
        plain = [[(r.name, r.kinds, r.tables, r.confidence, r.advice) for r in s.rows] for s in surveys]
        self.assertEqual(*plain)

    def test_formats_and_exit_codes(self) -> None:
        for kind, how in (("csv", run), ("json", run_here), ("html", run_here)):
            result = how("survey", DEMO / "tide-table.pdf", "--out", self.folder / f"s.{kind}")
            self.assertEqual(result.returncode, 0, result.stderr)
            self.assertIn("1 document, 2 pages: 2 text.", result.stdout)
            self.assertIn("tide-table.pdf", (self.folder / f"s.{kind}").read_text("utf-8"))
        data = json.loads((self.folder / "s.json").read_text("utf-8"))
        self.assertEqual(data["documents"][0]["pages"], 2)
        with (self.folder / "s.csv").open(newline="") as file:
            self.assertEqual(next(csv.DictReader(file))["kinds of pages"], "2 text")
        result = run_here("survey", DEMO / "tide-table.pdf", self.folder / "missing.pdf")
        self.assertEqual(result.returncode, 1)
        self.assertIn("cannot be read", result.stdout)
        self.assertEqual(run_here("survey", DEMO, "--out", self.folder / "s.txt").returncode, 2)


class TestStretches(InFolder):
    def test_reading_page_by_page_gives_the_same_document(self) -> None:
        from wennak.ink import PdfFile
        from wennak.pipeline import document_of
        from wennak.stretches import joined_stretches, read_stretch
        from wennak.tables import find_method

        reader = find_method("combined")
        for path in (DEMO / "tide-table.pdf", DEMO / "swell-note.pdf", self._seam()):
            with self.subTest(path.name), PdfFile(path, path.name) as pdf:
                again = []

                def read_again(stretch, last, pdf=pdf, again=again):  # type: ignore[no-untyped-def]
                    again.append(stretch)
                    return read_stretch(pdf, pdf.pages([p.number for p in stretch.pages]), reader, last)

                pages = range(1, pdf.page_count + 1)
                pieces = [read_stretch(pdf, pdf.pages([page]), reader) for page in pages]
                document = document_of(pdf, joined_stretches(pieces, read_again))
                self.assertEqual(document, wennak.read(path))
                self.assertEqual(bool(again), path.parent == self.folder)

    def test_no_picture_is_recognised_twice_for_a_table_that_goes_on(self) -> None:
        from wennak.collection import tasks, work
        from wennak.collection.settings import Settings
        from wennak.collection.store import FolderStore

        scan = self.folder / "seam.tif"
        pages = [
            *pypdfium2.PdfDocument(text_pdf("The berths of one day")),
            *pypdfium2.PdfDocument(self._seam()),
        ]
        first, *others = [page.render(scale=1.7, grayscale=True).to_pil().convert("L") for page in pages]
        first.save(scan, save_all=True, append_images=others)
        store = FolderStore(self.folder / "out", "run")
        store.begin()
        task = tasks.Task("seam.tif", scan, "0", "seam", Settings(), store)
        asked: list[list[int]] = []

        def counted(pdf: Any, numbers: list[int], how: Any) -> Any:
            asked.append(numbers)
            return recognised(pdf, numbers, how)

        recognised = work.recognised
        with mock.patch.multiple(work, FIRST=0.0, LONGER=0.0, recognised=counted):
            begun = tasks.convert_document(task, True)
            assert isinstance(begun, tasks.Begun)
            rest = tasks.read_on(task, begun.left)
            assert isinstance(rest, tasks.Begun)
            done = tasks.join_pieces(task, (begun.piece, rest.piece))
        self.assertEqual(asked, [[1, 2, 3], [3], []])
        assert isinstance(done, tasks.Outcome)
        self.assertEqual(done.state, "done", done.error)
        self.assertEqual((self.folder / "out/seam.md").read_text("utf-8"), wennak.read(scan).markdown())

    def _seam(self) -> Path:
        """A table over two pages, whose second part shows but two of its columns by itself."""
        head, widths = ("Vessel", "Berth", "In", "Out"), (72, 250, 350, 374)
        pages = []
        for page in range(2):
            lines = [head, *((f"Gannet {k}", str(k), f"{k}:10", f"{k}:55") for k in range(10, 26))]
            if page:
                lines = [head, *((f"Tern {k}", str(k), "", "") for k in range(10, 18))]
            drawn = [
                f"BT /F1 10 Tf {x} {760 - 40 * r} Td ({text}) Tj ET"
                for r, row in enumerate(lines)
                for x, text in zip(widths, row, strict=True)
                if text
            ]
            pages.append(pdf_of("\n".join(drawn)))
        with pikepdf.new() as pdf:
            for data in pages:
                with pikepdf.open(io.BytesIO(data)) as one:
                    pdf.pages.extend(one.pages)
            path = self.folder / "seam.pdf"
            pdf.save(path)
        return path


if __name__ == "__main__":
    unittest.main()
