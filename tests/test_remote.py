"""A vision model as a method: simulated ones that lose rows, change digits and talk, on the demo's papers."""

from __future__ import annotations

import contextlib
import functools
import http.server
import json
import os
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any, ClassVar
from unittest import mock

import httpx
import jsonschema

import wennak
from tests.support import DEMO, InFolder, pdf_of, run, run_here, text_pdf
from wennak.bench import as_seen, benchmark, load_results, summarise, verdict, write_report
from wennak.bench.grid import grid_of
from wennak.filling import FilledSchema
from wennak.model import Document
from wennak.remote import Asking, Question, Service
from wennak.remote.answer import BadAnswer, tables_of
from wennak.remote.protocol import protocol
from wennak.remote.simulated import Rates, Simulated, answering
from wennak.truth import load_truth

PAPERS = (
    "yearly-accounts",
    "fares-circular",
    "berth-ledger",
    "timetable",
    "swell-note",
    "berth-charges-2031-03",
)


ONCE = Asking(attempts=1)
# Simulated ones need not see much.
SMALL = Asking(pause=0.001, scale=0.2)


class Recording:
    """A service that keeps what it was asked."""

    def __init__(self, service: Service) -> None:
        self.service = service
        self.questions: list[Question] = []

    def __call__(self, png: bytes, question: Question) -> str:
        self.questions.append(question)
        return self.service(png, question)


@functools.cache
def original(name: str) -> Document:
    return wennak.read(DEMO / f"{name}.pdf")


def places(document: Document) -> dict[tuple[int, int, int], str]:
    """The text of each cell by where it stands."""
    out = {}
    for table in document.tables:
        for cell in table.cells:
            if cell.places and cell.text:
                first = cell.places[0]
                out[first.page, round(first.box.x0), round(first.box.y0)] = cell.text
    return out


class TestGrounding(unittest.TestCase):
    def test_what_is_answered_rightly_is_what_is_read(self) -> None:
        for name in PAPERS[:5]:
            with self.subTest(name):
                document = original(name)
                service = Simulated({f"{name}.pdf": document}, Rates())
                asked = wennak.read(DEMO / f"{name}.pdf", method="remote", service=service, asking=SMALL)
                self.assertEqual(
                    [grid_of(t).cells for t in asked.tables], [grid_of(t).cells for t in document.tables]
                )
                self.assertEqual(
                    [f.code for f in asked.findings if f.code in ("ungrounded", "lost-lines")], []
                )
                self.assertEqual({t.method for t in asked.tables}, {"remote"})

    def test_nothing_wrong_gets_through_and_lost_rows_are_told(self) -> None:
        rates = Rates(lost_rows=0.08, invented_rows=0.05, changed_digits=0.03, shifted_columns=0.3)
        done: list[str] = []
        reported = dropped = 0
        for name in PAPERS:
            document = original(name)
            known = places(document)
            for seed in range(4):
                service = Simulated({f"{name}.pdf": document}, rates, seed)
                asked = wennak.read(DEMO / f"{name}.pdf", method="remote", service=service, asking=SMALL)
                for place, text in places(asked).items():
                    self.assertEqual(known.get(place), text, f"{name}, seed {seed}, {place}")
                told = " ".join(f.message for f in asked.findings if f.code == "lost-lines")
                # Of a table hardly any of whose texts stands there nothing is taken, which is told as well.
                kept = {place.page for table in asked.tables for place in table.places}
                lost = [d for d in service.done if d[2] == "lost" and d[1] in kept]
                numbers = re.findall(r"row of the answer: (\d+)", told)
                reported += min(sum(map(int, numbers)), len(lost))
                dropped += len(lost)
                done += [d[2] for d in service.done]
        self.assertGreaterEqual(reported, 0.95 * dropped)
        self.assertGreater(done.count("lost"), 20)
        self.assertGreater(done.count("invented"), 10)
        self.assertGreater(done.count("changed"), 40)

    def test_a_value_of_another_row_or_column_is_not_taken(self) -> None:
        document = original("yearly-accounts")
        answer = json.loads(
            Simulated({"a": document}, Rates())(b"\x89PNG", Question("a", 1))
            .split("```json\n")[-1]
            .split("\n```")[0]
        )
        rows = answer["tables"][0]["rows"]
        rows[2][1], rows[3][1] = rows[3][1], rows[2][1]
        rows[7][1], rows[7][2] = rows[7][2], rows[7][1]
        asked = wennak.read(
            DEMO / "yearly-accounts.pdf", method="remote", service=lambda *_: json.dumps(answer)
        )
        (finding,) = [f.message for f in asked.findings if f.code == "ungrounded"]
        self.assertIn("do not stand there: 4, left out", finding)
        self.assertIn("row 3, column 2", finding)
        (table,) = asked.tables
        self.assertEqual(
            sum(bool(c.text) for c in table.cells), sum(bool(c.text) for c in document.tables[0].cells) - 4
        )

    def test_tables_alone_are_asked_about_and_go_on_over_pages(self) -> None:
        for name in ("yearly-accounts", "tide-table"):
            document = original(name)
            seen = as_seen(load_truth(DEMO / f"{name}.html"), DEMO / f"{name}.pdf")
            service = Recording(Simulated({f"{name}.pdf": seen}, Rates()))
            asked = wennak.read(
                DEMO / f"{name}.pdf", method="remote", service=service, asking=Asking(crops=True)
            )
            self.assertEqual(
                [grid_of(t).cells for t in asked.tables], [grid_of(t).cells for t in document.tables]
            )
            regions = [(q.page, q.region) for q in service.questions]
            self.assertEqual(len(regions), sum(len(t.places) for t in document.tables))
            for cell in (c for table in document.tables for c in table.cells if c.text):
                (place,) = cell.places
                around = [r for page, r in regions if page == place.page and r is not None]
                self.assertTrue(any(r.shared(place.box) > 0.99 * place.box.area for r in around), cell.text)

    def test_what_is_kept_though_it_does_not_stand_there_is_marked_in_every_format(self) -> None:
        document = original("yearly-accounts")
        service = Simulated({"yearly-accounts.pdf": document}, Rates(changed_digits=0.1), seed=3)
        asked = wennak.read(
            DEMO / "yearly-accounts.pdf",
            method="remote",
            service=service,
            asking=Asking(keep_ungrounded=True),
        )
        changed = [said for _, _, what, said in service.done if what == "changed"]
        self.assertGreater(len(changed), 2)
        (table,) = asked.tables
        wrong = [c for c in table.cells if "not on the page" in c.text]
        self.assertEqual(sorted(c.text for c in wrong), sorted(f"[not on the page: {s}]" for s in changed))
        self.assertEqual({c.confidence for c in wrong}, {0.0})
        self.assertEqual({len(c.places) for c in wrong}, {0})
        with tempfile.TemporaryDirectory() as folder:
            for ending in ("csv", "md", "html", "json"):
                path = Path(folder) / f"table.{ending}"
                table.save(str(path))
                self.assertEqual(
                    path.read_text(encoding="utf-8").count("not on the page"), len(changed), ending
                )


class TestHybrid(unittest.TestCase):
    def words(self, document: Document) -> Counter[str]:
        return Counter(w for t in document.tables for c in t.cells for w in c.text.split())

    def test_no_word_is_lost_or_new_whatever_is_answered(self) -> None:
        rates = Rates(lost_rows=0.1, invented_rows=0.05, changed_digits=0.1, shifted_columns=0.2, prose=0.1)
        taken = 0
        with mock.patch("wennak.remote.method.DOUBT", 2.0):
            for name in PAPERS:
                document = original(name)
                for seed in range(3):
                    service = Simulated({f"{name}.pdf": document}, rates, seed)
                    asked = wennak.read(DEMO / f"{name}.pdf", service=service, asking=SMALL)
                    self.assertEqual(self.words(asked), self.words(document), f"{name}, seed {seed}")
                    for table in asked.tables:
                        grid = table.grid()
                        self.assertEqual((len(grid), len(grid[0])), (table.rows, table.columns))
                    taken += sum(t.method == "remote" for t in asked.tables)
        self.assertGreater(taken, 6)

    def test_the_structure_is_that_of_the_answer(self) -> None:
        document = original("yearly-accounts")
        answer = {"tables": [{"header_rows": 1, "rows": [
            [c.text if c else "" for c in row] for row in document.tables[0].grid()]}]}  # fmt: skip
        # The model sees one heading over both years' columns, and drops a row.
        rows = answer["tables"][0]["rows"]
        del rows[3]
        rows[1] = [{"text": "Income", "colspan": 3}]
        with mock.patch("wennak.remote.method.DOUBT", 2.0):
            asked = wennak.read(DEMO / "yearly-accounts.pdf", service=lambda *_: json.dumps(answer))
        (table,) = asked.tables
        self.assertEqual((table.method, table.rows), ("remote", document.tables[0].rows))
        self.assertEqual([c.colspan for c in table.cells if c.text == "Income"], [3])
        self.assertEqual([t.method for t in table.alternatives][:1], [document.tables[0].method])

    def test_only_doubtful_tables_are_sent_and_that_is_told(self) -> None:
        sent = 0
        # Three rows of few words may be a table, and may be none.
        rows = (("Gannet", "17", "Eider"), ("Tern", "20"), ("Eider", "23", "Skua"))
        said = [
            f"BT /F1 10 Tf {72 + 100 * c} {600 - 15 * r} Td ({text}) Tj ET"
            for r, row in enumerate(rows)
            for c, text in enumerate(row)
        ]
        papers = {name: (DEMO / f"{name}.pdf").read_bytes() for name in PAPERS}
        for name, data in {**papers, "few": pdf_of("\n".join(said))}.items():
            document = wennak.read(data, name=f"{name}.pdf")
            service = Recording(Simulated({f"{name}.pdf": document}, Rates()))
            asked = wennak.read(data, name=f"{name}.pdf", service=service, asking=SMALL)
            told = [f for f in asked.findings if f.code == "asked"]
            self.assertEqual({q.page for q in service.questions}, {f.page for f in told})
            sure = [t for t in document.tables if min((c.confidence for c in t.cells), default=0) > 0.95]
            self.assertFalse(sure and len(sure) == len(document.tables) and service.questions)
            sent += len(service.questions)
            for finding in told:
                self.assertRegex(finding.message, r"asked about \d+ of the \d+ tables of page \d+, \d+\.\d s")
        self.assertGreater(sent, 0)


class TestFields(unittest.TestCase):
    SCHEMA: ClassVar[dict[str, Any]] = {
        "type": "object",
        "properties": {
            "title": {"type": "string"},
            "fares": {
                "type": "array",
                "items": {"type": "object", "properties": {
                    "label": {"type": "string"}, "this": {"type": "integer"}, "last": {"type": "integer"}}},
            },
        },
    }  # fmt: skip

    def ask(self, answer: dict[str, Any], name: str = "yearly-accounts", schema: Any = None) -> FilledSchema:
        return wennak.ask_fields(DEMO / f"{name}.pdf", schema or self.SCHEMA, lambda *_: json.dumps(answer))

    def test_records_are_taken_where_they_stand(self) -> None:
        rows = [
            {"label": c[0], "this": c[1], "last": c[2]}
            for c in grid_of(original("yearly-accounts").tables[0]).texts
            if c[1].isdigit() or "," in c[1]
        ]
        right = self.ask({"fares": rows})
        self.assertEqual(len(right.records["fares"]), len(rows))
        self.assertTrue(all(isinstance(r["this"].value, int) for r in right.records["fares"]))
        self.assertEqual({r["this"].method for r in right.records["fares"]}, {"remote"})
        # A digit changed, two values changed round, a record left out.
        wrong = [dict(row) for row in rows]
        wrong[1]["this"] = wrong[1]["this"][:-1] + "7"
        wrong[2]["this"], wrong[2]["last"] = wrong[2]["last"], wrong[2]["this"]
        lost = wrong.pop(4)
        read = self.ask({"fares": wrong})
        self.assertIsNone(read.records["fares"][1]["this"].value)
        self.assertIn("does not stand there", read.records["fares"][1]["this"].why)
        self.assertIsNone(read.records["fares"][2]["this"].value)
        self.assertIn(lost["label"], read.why["fares"])

    def test_single_values_stand_by_their_labels(self) -> None:
        forms = ("engine-inspection", "inspection-card", "inspection-letter", "inspection-slip")
        schema = json.loads((DEMO / "inspection.json").read_text(encoding="utf-8"))
        right = wrong = 0
        for name in forms:
            own = wennak.fields(wennak.read(DEMO / f"{name}.pdf"), schema)
            singles = {p: f for p, f in own.fields.items() if isinstance(f.value, (str, int)) and f.text}
            given = {
                p: f for p, f in singles.items() if not isinstance(f.value, bool) and "." not in p and f.label
            }
            answer = {p: {"text": f.text, "label": f.label} for p, f in given.items()}
            read = self.ask(answer, name, schema)
            for path, filled in given.items():
                value = read.fields[path].value
                self.assertIn(value, (filled.value, None), f"{name}, {path}")
                right += value == filled.value
            # Each value by the label of another one.
            labels = [f.label for f in given.values()]
            turned = {
                p: {"text": f.text, "label": label}
                for (p, f), label in zip(given.items(), labels[1:] + labels[:1], strict=True)
            }
            swapped = self.ask(turned, name, schema)
            wrong += sum(swapped.fields[p].value is not None for p in given)
            self.assertTrue(all(swapped.fields[p].why for p in given if swapped.fields[p].value is None))
        self.assertGreater(right, 12)
        self.assertEqual(wrong, 0)

    def test_what_is_not_there_or_of_another_form_says_why(self) -> None:
        told = self.ask({"title": {"text": "A title that nobody printed"}})
        self.assertIn("is not on page 1", told.fields["title"].why)
        told = self.ask({"title": {"text": ["no"]}})
        self.assertIn("title is no text", told.fields["title"].why)
        told = wennak.ask_fields(DEMO / "yearly-accounts.pdf", self.SCHEMA, lambda *_: "Sorry.", asking=ONCE)
        self.assertIn("it is no JSON: 'Sorry.'", told.fields["title"].why)
        self.assertIn("it is no JSON", told.why["fares"])
        with self.assertRaises(wennak.UsageError):
            self.ask({}, schema={"type": "array"})


class TestAnswers(unittest.TestCase):
    def test_why_an_answer_cannot_be_used(self) -> None:
        for answer, said in (
            ("I see a table.", "it is no JSON: 'I see a table.'"), ("", "it is no JSON"),
            ('{"tables": [{"rows": [["a", "b"', "its JSON breaks off"),
            ('{"rows": []}', "it holds no list of tables"),
            ('{"tables": [{"lines": []}]}', "table 1 has no rows"),
            ('{"tables": [{"rows": ["a"]}]}', "is no list of cells"),
            ('{"tables": [{"rows": [[3]]}]}', "holds a cell that is no text: '3'"),
            ('{"tables": [{"rows": [[{"text": "a", "rowspan": 0}]]}]}', "holds a cell"),
            ('{"tables": [{"rows": [[{"text": "a", "rowspan": 2}, "b"], ["c", {"text": "d", "colspan": 2}]], '
             '"header_rows": "one"}]}', "header_rows"), ("[" * 100_000 + "{", "JSON"),
        ):  # fmt: skip
            with self.subTest(answer[:40]), self.assertRaises(BadAnswer) as caught:
                tables_of(answer)
            self.assertIn(said, str(caught.exception))

    def test_text_around_json_is_peeled_off(self) -> None:
        inner = '{"tables": [{"rows": [["a", {"text": "b", "colspan": 2}], ["c", null, "d"]]}]}'
        for text, peeled in ((inner, False), (f"Sure!\n```json\n{inner}\n```\nAnything else?", True)):
            (table,), told = tables_of(text)
            self.assertEqual(told, peeled)
            self.assertEqual((table.rows, table.columns, len(table.cells)), (2, 3, 4))

    def test_a_page_that_fails_spoils_no_other(self) -> None:
        document = original("berth-charges-2031-03")
        good = Simulated({"berth-charges-2031-03.pdf": document}, Rates())

        def service(png: bytes, question: Question) -> str:
            return "Sorry." if question.page == 2 else good(png, question)

        asked = wennak.read(DEMO / "berth-charges-2031-03.pdf", method="remote", service=service)
        self.assertEqual({p.page for t in asked.tables for p in t.places}, {1})
        (finding,) = [f for f in asked.findings if f.code == "no-answer"]
        self.assertEqual(finding.page, 2)
        self.assertIn("it is no JSON: 'Sorry.'", finding.message)

    def test_what_fails_now_and_then_is_asked_again(self) -> None:
        document = original("fares-circular")
        service = Simulated({"fares-circular.pdf": document}, Rates(failures=0.5, prose=0.2), seed=1)
        asking = Asking(attempts=12, pause=0.001)
        asked = wennak.read(DEMO / "fares-circular.pdf", method="remote", service=service, asking=asking)
        self.assertEqual(len(asked.tables), 2)


class TestAsking(InFolder):
    def test_pages_are_asked_about_side_by_side(self) -> None:
        (self.folder / "many.pdf").write_bytes(text_pdf(*(f"page {k}" for k in range(12))))
        # Nobody is answered before six have asked.
        gate = threading.Barrier(6, timeout=60)

        def service(png: bytes, question: Question) -> str:
            gate.wait()
            return '{"tables": []}'

        document = wennak.read(
            self.folder / "many.pdf", method="remote", service=service, asking=Asking(at_once=6, attempts=1)
        )
        self.assertEqual([f for f in document.findings if f.code == "no-answer"], [])

    def test_a_budget_ends_asking_and_says_of_which_pages(self) -> None:
        (self.folder / "many.pdf").write_bytes(text_pdf(*(f"page {k}" for k in range(12))))
        asked: list[int] = []

        def service(png: bytes, question: Question) -> str:
            asked.append(question.page)
            time.sleep(0.2)
            return '{"tables": []}'

        asking = Asking(at_once=1, budget=0.5)
        document = wennak.read(self.folder / "many.pdf", method="remote", service=service, asking=asking)
        rest = [f.page for f in document.findings if "the time for asking was over" in f.message]
        self.assertEqual(sorted([*asked, *rest]), list(range(1, 13)))
        self.assertGreater(len(rest), 4)
        self.assertEqual(len(document.pages), 12)

    def test_the_method_needs_a_service(self) -> None:
        with self.assertRaises(wennak.UsageError):
            wennak.read(DEMO / "timetable.pdf", method="remote")


@contextlib.contextmanager
def server_of(
    answers: list[tuple[int, dict[str, str], Any]],
) -> Iterator[tuple[str, list[dict[str, Any]]]]:
    """A server on localhost that gives the answers one by one, the last again and again; and its records."""
    asked: list[dict[str, Any]] = []

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers["Content-Length"]))
            asked.append({"headers": dict(self.headers), "body": json.loads(body), "path": self.path})
            status, headers, said = answers[min(len(asked), len(answers)) - 1]
            time.sleep(float(headers.get("Slow", 0)))
            data = json.dumps(said).encode()
            self.send_response(status)
            for name, value in {**headers, "Content-Length": str(len(data))}.items():
                self.send_header(name, value)
            self.end_headers()
            self.wfile.write(data)

        def log_message(self, *_: object) -> None:
            pass

    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_port}", asked
        server.shutdown()


class TestHttp(InFolder):
    def ask(self, address: str, *options: object, **env: str) -> subprocess.CompletedProcess[str]:
        return run(
            "tables",
            DEMO / "yearly-accounts.pdf",
            "--method",
            "remote",
            "--service",
            address,
            *options,
            env=env,
        )

    def test_the_protocol(self) -> None:
        table = {
            "tables": [{"rows": [["", "This year", "Last year"], ["Fuel", "512", "1,829"]], "header_rows": 1}]
        }
        good = (200, {}, {"answer": json.dumps(table)})
        with server_of([(503, {"Retry-After": "0"}, {}), (200, {}, {"wrong": 1}), good]) as (
            address,
            asked,
        ):
            result = self.ask(address, WENNAK_SERVICE_KEY="a-secret")
        self.assertIn("2 x 3", result.stdout)
        self.assertEqual(len(asked), 3)
        self.assertEqual(asked[0]["path"], "/answer")
        self.assertEqual(asked[0]["headers"]["Authorization"], "Bearer a-secret")
        self.assertNotIn("a-secret", result.stdout + result.stderr)
        body = asked[0]["body"]
        described = json.loads(Path("docs/wennak-vision.openapi.json").read_text(encoding="utf-8"))
        self.assertEqual(described, protocol())
        operation = described["paths"]["/answer"]["post"]
        schemas = operation["requestBody"], operation["responses"]["200"]
        for schema, said in zip(schemas, (body, {"answer": "x"}), strict=True):
            jsonschema.Draft202012Validator(schema["content"]["application/json"]["schema"]).validate(said)
        jsonschema.Draft202012Validator(body["schema"]).validate(table)
        self.assertEqual((body["document"], body["page"]), ("yearly-accounts.pdf", 1))
        self.assertTrue(body["picture"].startswith("iVBOR"))
        self.assertEqual(body["schema"]["required"], ["tables"])
        # The lines that were not answered are told.
        self.assertIn("lines within tables of page 1 that are in no row of the answer", result.stderr)

    def test_what_no_other_try_helps_is_told_at_once(self) -> None:
        with server_of([(401, {}, {"title": "no key"})]) as (address, asked):
            result = self.ask(address)
        self.assertEqual(len(asked), 1)
        self.assertIn("the service answered 401", result.stderr)
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
        self.assertIn("cannot be reached", self.ask(f"http://127.0.0.1:{port}").stderr)
        wrong = self.ask("ftp://nowhere")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("is no address of a service", wrong.stderr)

    def test_the_simulated_service_over_a_collection(self) -> None:
        papers = self.folder / "papers"
        papers.mkdir()
        for name in ("yearly-accounts", "fares-circular"):
            shutil.copy(DEMO / f"{name}.pdf", papers)
        with socket.create_server(("127.0.0.1", 0)) as free:
            port = free.getsockname()[1]
        command = [sys.executable, "-m", "wennak.remote.simulated", str(papers), "--port", str(port)]
        server = subprocess.Popen(
            [*command, "--lost-rows", "0.2"], stdout=subprocess.PIPE, text=True, env=os.environ
        )
        try:
            assert server.stdout is not None
            self.assertIn("SIMULATED service for 2 documents", server.stdout.readline())
            address = f"http://127.0.0.1:{port}"
            for _ in range(100):
                with contextlib.suppress(httpx.TransportError):
                    self.assertIn("simulated", httpx.get(f"{address}/health").text)
                    break
                time.sleep(0.1)
            options = ("--method", "remote", "--service", address)
            result = run("convert", papers, *options, "--out", "out", "--workers", 2, cwd=self.folder)
            self.assertEqual(result.returncode, 0, result.stderr)
            self.assertIn("lost-lines, in", result.stderr)
            self.assertEqual(len(list((self.folder / "out").glob("*.md"))), 2)
        finally:
            server.terminate()
            server.wait(20)
            assert server.stdout is not None
            server.stdout.close()

    def test_a_budget_is_that_of_the_whole_run_which_then_goes_on(self) -> None:
        papers = self.folder / "papers"
        papers.mkdir()
        for name in ("yearly-accounts", "fares-circular", "timetable"):
            shutil.copy(DEMO / f"{name}.pdf", papers)
        # The budget is over with the first answer.
        answer = {"answer": '{"tables": []}'}
        with server_of([(200, {"Slow": "8.5"}, answer), (200, {}, answer)]) as (address, _):
            options = ("--method", "remote", "--service", address, "--out", "out", "--workers", 1)
            first = run("convert", papers, *options, "--budget", 8, cwd=self.folder)
            again = run_here("convert", papers, *options, "--retry", "failed", cwd=self.folder)
        self.assertEqual(first.returncode, 1)
        self.assertIn("1 document converted", first.stderr)
        self.assertIn("2 documents failed", first.stderr)
        self.assertEqual(again.returncode, 0, again.stderr)
        self.assertIn("3 documents converted", again.stderr)
        self.assertEqual(len(list((self.folder / "out").glob("*.md"))), 3)

    def test_options_that_need_others(self) -> None:
        paper = DEMO / "yearly-accounts.pdf"
        for options, said in (
            (("--crops",), "--crops is about a service; name one with --service."),
            (("--budget", 3), "--budget is about a service"),
            (("--keep-ungrounded", "--service", "http://127.0.0.1:1"), "goes with --method remote"),
            (("--method", "remote"), "needs a service to ask"),
        ):
            for command in ("tables", "convert"):
                result = run_here(command, paper, *options)
                self.assertEqual(result.returncode, 2, result.stderr)
                self.assertIn(said, result.stderr)


class TestBenchmark(InFolder):
    def test_a_simulated_service_is_marked_and_has_no_rank(self) -> None:
        papers = self.folder / "papers"
        papers.mkdir()
        for name in ("yearly-accounts", "fares-circular"):
            for ending in ("pdf", "html"):
                shutil.copy(DEMO / f"{name}.{ending}", papers)
        service = answering(papers, Rates(lost_rows=0.3), seed=2)
        run_folder = self.folder / "run"
        methods = ("combined", "remote", "hybrid")
        results = benchmark(papers, methods, run_folder, service=service)
        self.assertEqual(results.names()[:3], ["combined", "remote (simulated)", "hybrid (simulated)"])
        summary = summarise(load_results(run_folder))
        by_name = {m.name: m for m in summary.methods}
        self.assertEqual([m.rank for m in summary.methods], [1, 0, 0])
        self.assertEqual(by_name["remote (simulated)"].cost.asked, 1.0)
        self.assertLess(by_name["hybrid (simulated)"].cost.asked, 1.0)
        self.assertLess(
            by_name["remote (simulated)"].means["score"].mean, by_name["combined"].means["score"].mean
        )
        self.assertEqual(by_name["hybrid (simulated)"].numbers.get("lost", 0), 0)
        said = " ".join(verdict(summary))
        self.assertIn("asks no model", said)
        self.assertIn("Pages asked about", (write_report(run_folder).parent / "report.md").read_text())
        for names in (("hybrid",), ("remote",)):
            with self.assertRaises(wennak.UsageError):
                benchmark(papers, names, self.folder / "none")

    def test_what_a_faultless_eye_sees_is_the_truth(self) -> None:
        for name in ("yearly-accounts", "tide-table", "timetable"):
            truth = load_truth(DEMO / f"{name}.html")
            seen = as_seen(truth, DEMO / f"{name}.pdf")
            wanted = Counter(
                c.text for t in truth.document.tables for c in t.cells if c.text and not c.header
            )
            self.assertEqual(
                Counter(c.text for t in seen.tables for c in t.cells if c.text and not c.header), wanted, name
            )
            self.assertTrue(all(t.places[0].box.area > 1000 for t in seen.tables))


class TestDocs(unittest.TestCase):
    def test_the_callable_of_the_docs_runs(self) -> None:
        text = Path("docs/vision.md").read_text(encoding="utf-8")
        (code,) = re.findall(r"^```python\n(.*?)^```$", text, re.M | re.S)
        table = {"tables": [{"rows": [["Fuel", "512", "1,829"], ["Harbour dues", "2,394", "478"]]}]}
        reply = {"choices": [{"message": {"content": json.dumps(table)}}]}
        with server_of([(200, {}, reply)]) as (address, asked):
            said: list[object] = []
            names = {"PAPER": DEMO / "yearly-accounts.pdf", "print": lambda *words: said.extend(words)}
            exec(code.replace("http://127.0.0.1:8000", address).replace('"report.pdf"', "PAPER"), names)
        self.assertEqual(len(asked), 1)
        self.assertIn("Harbour dues", str(said[0]))


if __name__ == "__main__":
    unittest.main()
