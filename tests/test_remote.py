"""A vision model as a method: simulated ones that lose rows, change digits and talk, on the demo's papers."""

from __future__ import annotations

import contextlib
import http.server
import json
import os
import re
import shutil
import socket
import subprocess
import sys
import threading
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx

import wennak
from tests.support import DEMO, InFolder, run, text_pdf
from wennak.bench.grid import grid_of
from wennak.model import Document
from wennak.remote import Asking, Question
from wennak.remote.answer import BadAnswer, tables_of
from wennak.remote.simulated import Rates, Simulated

PAPERS = (
    "yearly-accounts",
    "fares-circular",
    "berth-ledger",
    "timetable",
    "swell-note",
    "berth-charges-2031-03",
)


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
                asked = wennak.read(DEMO / f"{name}.pdf", method="remote", service=service)
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
                asked = wennak.read(DEMO / f"{name}.pdf", method="remote", service=service)
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
def answering(answers: list[tuple[int, dict[str, str], Any]]) -> Iterator[tuple[str, list[dict[str, Any]]]]:
    """A server on localhost that gives the answers one by one, the last again and again; and its records."""
    asked: list[dict[str, Any]] = []

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers["Content-Length"]))
            asked.append({"headers": dict(self.headers), "body": json.loads(body), "path": self.path})
            status, headers, said = answers[min(len(asked), len(answers)) - 1]
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
        with answering([(503, {"Retry-After": "0"}, {}), (200, {}, {"wrong": 1}), good]) as (address, asked):
            result = self.ask(address, WENNAK_SERVICE_KEY="a-secret")
        self.assertIn("2 x 3", result.stdout)
        self.assertEqual(len(asked), 3)
        self.assertEqual(asked[0]["path"], "/answer")
        self.assertEqual(asked[0]["headers"]["Authorization"], "Bearer a-secret")
        self.assertNotIn("a-secret", result.stdout + result.stderr)
        body = asked[0]["body"]
        self.assertEqual((body["document"], body["page"]), ("yearly-accounts.pdf", 1))
        self.assertTrue(body["picture"].startswith("iVBOR"))
        self.assertEqual(body["schema"]["required"], ["tables"])
        # The lines that were not answered are told.
        self.assertIn("lines within tables of page 1 that are in no row of the answer", result.stderr)

    def test_what_no_other_try_helps_is_told_at_once(self) -> None:
        with answering([(401, {}, {"title": "no key"})]) as (address, asked):
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


class TestDocs(unittest.TestCase):
    def test_the_callable_of_the_docs_runs(self) -> None:
        text = Path("docs/vision.md").read_text(encoding="utf-8")
        (code,) = re.findall(r"^```python\n(.*?)^```$", text, re.M | re.S)
        table = {"tables": [{"rows": [["Fuel", "512", "1,829"], ["Harbour dues", "2,394", "478"]]}]}
        reply = {"choices": [{"message": {"content": json.dumps(table)}}]}
        with answering([(200, {}, reply)]) as (address, asked):
            said: list[object] = []
            names = {"PAPER": DEMO / "yearly-accounts.pdf", "print": lambda *words: said.extend(words)}
            exec(code.replace("http://127.0.0.1:8000", address).replace('"report.pdf"', "PAPER"), names)
        self.assertEqual(len(asked), 1)
        self.assertIn("Harbour dues", str(said[0]))


if __name__ == "__main__":
    unittest.main()
