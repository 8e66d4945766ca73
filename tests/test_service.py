"""Wennak over HTTP: a real server on localhost, asked politely, rudely, and by a browser."""

from __future__ import annotations

import configparser
import io
import json
import os
import re
import shlex
import shutil
import signal
import socket
import subprocess
import tempfile
import time
import unittest
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import openpyxl
import pikepdf

import wennak
from tests.support import DEMO, InFolder, browser, command, pdf_of, run, text_pdf

PDF = (DEMO / "yearly-accounts.pdf").read_bytes()


@contextmanager
def serving(folder: Path, *options: object) -> Iterator[tuple[str, subprocess.Popen[str]]]:
    """A service with its own folder for what is on its way; gives its address and its process."""
    (folder / "tmp").mkdir(exist_ok=True)
    server = subprocess.Popen(
        command("serve", "--port", 0, *options), stderr=subprocess.PIPE, text=True,
        env={**os.environ, "TMPDIR": str(folder / "tmp")},
    )  # fmt: skip
    try:
        assert server.stderr is not None
        line = server.stderr.readline()
        found = re.search(r"http://[^/]+/", line)
        if found is None:
            raise AssertionError(f"it did not begin: {line}{server.stderr.read()}")
        address = found[0].rstrip("/")
        for _ in range(300):
            try:
                if httpx.get(f"{address}/ready").status_code == 200:
                    break
            except httpx.TransportError:
                pass
            time.sleep(0.1)
        yield address, server
    finally:
        if server.poll() is None:
            server.terminate()
        server.wait(60)
        assert server.stderr is not None
        server.stderr.close()


class TestAnswers(InFolder):
    """One server for many questions."""

    address = ""

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory(prefix="wennak-test-")
        cls.addClassCleanup(folder.cleanup)
        cls.home = Path(folder.name)
        cls.address, _ = cls.enterClassContext(serving(cls.home, "--workers", 2, "--size-limit", 2))

    def tearDown(self) -> None:
        # Nothing that was sent is kept.
        self.assertEqual([p.name for p in (self.home / "tmp").iterdir() if p.name.startswith("wennak-")], [])

    def ask(self, content: bytes = PDF, accept: str = "*/*", **query: object) -> httpx.Response:
        parameters = {name.replace("_", "-"): str(value) for name, value in query.items()}
        return httpx.post(
            f"{self.address}/convert",
            content=content,
            params=parameters,
            headers={"Accept": accept},
            timeout=60,
        )

    def test_answers_are_what_the_command_line_writes(self) -> None:
        wennak.convert([DEMO / "yearly-accounts.pdf"], self.folder, ["md", "html", "json", "passages"])
        for accept, ending in (
            ("text/markdown", "md"), ("text/html;q=0.9, image/gif", "html"), ("application/json", "json"),
            ("application/jsonl", "jsonl"), ("text/html;q=0.1, text/markdown;q=0.5", "md"), ("*/*", "md"),
        ):  # fmt: skip
            with self.subTest(accept):
                answer = self.ask(accept=accept, name="yearly-accounts.pdf")
                self.assertEqual(answer.status_code, 200, answer.text)
                self.assertEqual(answer.content, (self.folder / f"yearly-accounts.{ending}").read_bytes())
                self.assertEqual(answer.headers["wennak-tables"], "1")
                self.assertIn(f"yearly-accounts.{ending}", answer.headers["content-disposition"])
        self.assertIn("sandbox", self.ask(accept="text/html").headers["content-security-policy"])

    def test_tables_as_csv_and_workbook(self) -> None:
        fares = (DEMO / "fares-circular.pdf").read_bytes()
        self.assertTrue(self.ask(fares, **{"as": "csv", "table": 2}).text.startswith("Kind,Charged,Crowns\n"))
        book = openpyxl.load_workbook(io.BytesIO(self.ask(fares, **{"as": "xlsx"}).content))
        self.assertEqual(len(book.sheetnames), 2)
        one = openpyxl.load_workbook(io.BytesIO(self.ask(fares, **{"as": "xlsx", "table": 1}).content))
        self.assertEqual(len(one.sheetnames), 1)

    def test_options_are_those_of_the_command_line(self) -> None:
        tides = (DEMO / "tide-table.pdf").read_bytes()
        paper = DEMO / "tide-table.pdf"
        for query, document, form in (
            ({"pages": "2"}, wennak.read(paper, "2"), {}),
            ({"records": "yes"}, wennak.read(paper), {"records": True}),
            ({"page_marks": "1"}, wennak.read(paper), {"page_marks": True}),
            ({"method": "plain"}, wennak.read(paper, method="plain"), {}),
            ({"pages": "found:30 June"}, wennak.read(paper, "found:30 June"), {}),
        ):
            with self.subTest(query):
                answer = self.ask(tides, name="tide-table.pdf", **query)
                self.assertEqual(answer.text, document.markdown(**form))

    def test_a_form_holds_a_file_of_any_name(self) -> None:
        for name in ("accounts.pdf", "../../etc/passwd", "конто.pdf", 'a"b.pdf'):
            answer = httpx.post(f"{self.address}/convert?as=json", files={"file": (name, PDF)}, timeout=60)
            self.assertEqual(answer.status_code, 200, answer.text)
            self.assertEqual([b["kind"] for b in answer.json()["blocks"]].count("table"), 1)

    def test_what_cannot_be_answered_is_a_problem_with_a_sentence(self) -> None:
        locked = io.BytesIO()
        with pikepdf.open(io.BytesIO(PDF)) as pdf:
            pdf.save(locked, encryption=pikepdf.Encryption(owner="a", user="b"))
        cases: list[tuple[int, str, str, httpx.Response]] = [
            (415, "NotPdf", "is not a PDF", self.ask(b"<html>no</html>")),
            (400, "UsageError", "Nothing was sent", self.ask(b"")),
            (422, "LockedPdf", "password", self.ask(locked.getvalue())),
            (422, "DamagedPdf", "", self.ask(PDF[:700])),
            (422, "MissingPage", "there is no page 9", self.ask(pages=9)),
            (422, "MissingPage", "on no page", self.ask(pages="found:whales")),
            (400, "UsageError", "is no choice of pages", self.ask(pages="x")),
            (400, "UsageError", "There is no parameter 'colour'", self.ask(colour="red")),
            (400, "UsageError", "There is no format 'pdf'", self.ask(**{"as": "pdf"})),
            (400, "UsageError", "There is no table 7", self.ask(**{"as": "csv", "table": 7})),
            (400, "UsageError", "is no number from 1 on", self.ask(table="-1")),
            (400, "UsageError", "neither yes nor no", self.ask(records="perhaps")),
            (400, "UsageError", "There is no method", self.ask(method="magic")),
            (406, "NotAcceptable", "can be given", self.ask(accept="image/gif")),
            (413, "TooLarge", "larger than 2 MiB", self.ask(PDF + b" " * (3 << 20))),
            (404, "UnknownPlace", "documents go to /convert", httpx.get(f"{self.address}/x")),
            (405, "WrongWay", "GET is not allowed", httpx.get(f"{self.address}/convert")),
            (400, "UsageError", "No file was sent", httpx.post(
                f"{self.address}/convert", content=b"--x\r\nnonsense",
                headers={"Content-Type": "multipart/form-data; boundary=x"})),
            (400, "UsageError", "cannot be read (Missing boundary", httpx.post(
                f"{self.address}/convert", content=b"", headers={"Content-Type": "multipart/form-data"})),
            (400, "UsageError", "No file was sent", httpx.post(
                f"{self.address}/convert", files={"file": ("a.pdf", b"")})),
        ]  # fmt: skip
        for status, kind, said, answer in cases:
            with self.subTest(said or kind):
                self.assertEqual(answer.headers["content-type"], "application/problem+json")
                problem = answer.json()
                self.assertEqual(
                    (answer.status_code, problem["status"], problem["kind"]), (status, status, kind)
                )
                self.assertIn(said, problem["detail"])
                self.assertTrue(problem["detail"].endswith("."))
                self.assertNotIn("Traceback", answer.text)
        good = self.ask(locked.getvalue(), password="b")
        self.assertEqual(good.status_code, 200)

    def test_a_body_without_an_end_is_cut_off(self) -> None:
        def endless() -> Iterator[bytes]:
            while True:
                yield b"%PDF-1.7 " * 4096

        try:
            answer = httpx.post(f"{self.address}/convert", content=endless(), timeout=30)
            self.assertEqual((answer.status_code, answer.json()["kind"]), (413, "TooLarge"))
        except httpx.WriteError:
            # The service has said so and hung up while more was being sent.
            pass
        self.assertEqual(self.ask().status_code, 200)

    def test_who_sends_too_much_and_reads_only_then_still_learns_why(self) -> None:
        # Twenty at once, over connections that are kept, and without saying first how much will come.
        def pieces() -> Iterator[bytes]:
            for _ in range(24):
                yield b"%PDF-1.7 " * 29_000

        with httpx.Client(timeout=60) as client, ThreadPoolExecutor(20) as pool:
            announced = [what for _ in range(20) for what in (b"\0" * (6 << 20), PDF, pieces())]
            answers = list(pool.map(lambda c: client.post(f"{self.address}/convert", content=c), announced))
        codes = [answer.status_code for answer in answers]
        self.assertEqual(codes, [413, 200, 413] * 20)

    def test_every_answer_has_the_headers_that_keep_a_browser_safe(self) -> None:
        for answer in (
            httpx.get(f"{self.address}/"),
            self.ask(),
            self.ask(b"x"),
            httpx.get(f"{self.address}/x"),
        ):
            policy = answer.headers["content-security-policy"]
            self.assertIn("default-src 'none'", policy)
            self.assertNotIn("unsafe-inline", policy)
            self.assertEqual(answer.headers["x-content-type-options"], "nosniff")
            self.assertEqual(answer.headers["cache-control"], "no-store")

    def test_the_description_is_that_of_the_service(self) -> None:
        told = httpx.get(f"{self.address}/openapi.json").json()
        kept = json.loads(Path("docs/wennak-service.openapi.json").read_text(encoding="utf-8"))
        self.assertEqual(told, kept)
        operation = told["paths"]["/convert"]["post"]
        for parameter in operation["parameters"]:
            schema = parameter["schema"]
            value = schema.get("enum", [None])[0] or {"integer": 1, "boolean": "true"}.get(schema["type"], "")
            answer = self.ask(**{parameter["name"].replace("-", "_"): value})
            self.assertEqual(answer.status_code, 200, f"{parameter['name']}={value}: {answer.text}")
        media = set(operation["responses"]["200"]["content"])
        self.assertEqual({self.ask(accept=m).headers["content-type"].split(";")[0] for m in media}, media)

    def test_the_commands_of_the_docs_run_as_written(self) -> None:
        for name in ("yearly-accounts", "tide-table", "cargo-manifest", "timetable"):
            shutil.copy(DEMO / f"{name}.pdf", self.folder)
        text = Path("docs/service.md").read_text(encoding="utf-8")
        (block,) = re.findall(r"^```sh\n(.*?)^```$", text, re.M | re.S)
        if shutil.which("curl") is None:
            self.skipTest("needs curl")
        commands = block.replace("http://127.0.0.1:8320", self.address).splitlines()
        self.assertEqual(len(commands), 7)
        for line in commands:
            done = subprocess.run(shlex.split(line), cwd=self.folder, capture_output=True, timeout=60)
            self.assertEqual(done.returncode, 0, f"{line}: {done.stderr!r}")
            self.assertTrue(done.stdout or "-o" in line)
        self.assertGreater((self.folder / "timetable.xlsx").stat().st_size, 1000)

    def test_the_page_in_a_browser_with_and_without_script(self) -> None:
        from selenium.common.exceptions import WebDriverException
        from selenium.webdriver.common.by import By
        from selenium.webdriver.common.keys import Keys
        from selenium.webdriver.support.expected_conditions import staleness_of
        from selenium.webdriver.support.ui import WebDriverWait

        evil = "<script>document.title='taken'</script><img src=x onerror=alert\\(1\\)> <b>bold</b>"
        (self.folder / "evil.pdf").write_bytes(pdf_of(f"BT /F1 11 Tf 72 700 Td ({evil}) Tj ET"))
        shutil.copy(DEMO / "yearly-accounts.pdf", self.folder)

        def give(name: str, press: Callable[[Any], None]) -> None:
            """Choose a file on the empty page, press the button, and wait for the page that comes."""
            driver.get(f"{self.address}/")
            before = driver.find_element(By.TAG_NAME, "main")
            driver.find_element(By.ID, "file").send_keys(str(self.folder / name))
            press(driver.find_element(By.CSS_SELECTOR, "form button"))
            # While one page goes and the next comes, a browser may have no answer: it is asked again.
            wait = WebDriverWait(driver, 60, ignored_exceptions=[WebDriverException])
            wait.until(staleness_of(before))
            wait.until(lambda d: d.find_elements(By.CSS_SELECTOR, "article, .refused"))

        for script in (True, False):
            with self.subTest(script=script), browser(self) as driver:
                if not script:
                    driver.execute_cdp_cmd("Emulation.setScriptExecutionDisabled", {"value": True})
                give("yearly-accounts.pdf", lambda button: button.send_keys(Keys.ENTER))
                self.assertEqual(driver.find_element(By.CSS_SELECTOR, "article caption").text,
                                 "Table 1: Income and expenditure")  # fmt: skip
                self.assertEqual(len(driver.find_elements(By.CSS_SELECTOR, "article tr")), 13)
                give("evil.pdf", lambda button: button.click())
                self.assertIn("<script>", driver.find_element(By.TAG_NAME, "article").text)
                self.assertEqual(
                    driver.find_elements(By.CSS_SELECTOR, "article script, article img, article b"), []
                )
                self.assertEqual(driver.title, "evil.pdf: what was read")
                (self.folder / "no.pdf").write_bytes(b"no")
                give("no.pdf", lambda button: button.click())
                self.assertIn("is not a PDF", driver.find_element(By.CSS_SELECTOR, "[role=alert]").text)
                # At four times the size nothing runs out of the window.
                driver.set_window_size(320, 640)
                wide = driver.execute_script("return document.documentElement.scrollWidth") if script else 320
                self.assertLessEqual(wide, 520)
            shutil.rmtree(self.folder / "profile", ignore_errors=True)


class TestLoad(InFolder):
    def test_many_at_once_a_tenth_of_them_hostile(self) -> None:
        """Every request is answered, no worker is lost for good, and nothing is left behind."""
        long = text_pdf(*(f"page {k}" for k in range(300)))
        hostile: list[tuple[dict[str, Any], set[int]]] = [
            ({"content": b"%PDF-1.4\n" + b"1 0 obj<</A" * 20_000}, {415, 422}),
            ({"content": PDF + b"\0" * (2 << 20)}, {413}),
            ({"content": b"GIF89a" * 10}, {415}),
            ({"content": b"--q\r\nx", "headers": {"Content-Type": "multipart/form-data; boundary=q"}}, {400}),
            ({"content": long, "params": {"method": "combined"}}, {413}),
        ]
        with serving(
            self.folder, "--workers", 2, "--size-limit", 1, "--page-limit", 200, "--waiting", 40
        ) as (at, server):

            def one(k: int) -> tuple[bool, int]:
                rude, allowed = hostile[k // 10 % len(hostile)] if k % 10 == 9 else ({"content": PDF}, {200})
                for _ in range(100):
                    answer = httpx.post(f"{at}/convert", timeout=60, **rude)
                    if answer.status_code != 503:
                        return answer.status_code in allowed, answer.status_code
                    self.assertGreater(int(answer.headers["retry-after"]), 0)
                    time.sleep(0.2)
                return False, 503

            with ThreadPoolExecutor(32) as clients:
                answers = list(clients.map(one, range(50)))
            self.assertEqual([a for a in answers if not a[0]], [])
            self.assertEqual(Counter(code for _, code in answers)[200], 45)
            self.assertEqual(httpx.get(f"{at}/ready").status_code, 200)
            self.assertIsNone(server.poll())
        left = [p.name for p in (self.folder / "tmp").iterdir() if p.name.startswith("wennak-")]
        self.assertEqual(left, [])

    def test_a_slow_sender_holds_nobody_up(self) -> None:
        with serving(self.folder, "--workers", 1, "--waiting", 0) as (at, _):
            host, port = at.removeprefix("http://").split(":")
            slow = [socket.create_connection((host, int(port))) for _ in range(20)]
            for connection in slow:
                head = f"POST /convert HTTP/1.1\r\nHost: x\r\nContent-Length: {len(PDF)}\r\n\r\n"
                connection.sendall(head.encode() + PDF[:100])
            for _ in range(3):
                self.assertEqual(httpx.post(f"{at}/convert", content=PDF, timeout=30).status_code, 200)
            # One of them comes to its end after all.
            slow[0].sendall(PDF[100:])
            self.assertIn(b"200 OK", slow[0].recv(100))
            for connection in slow:
                connection.close()

    def test_what_takes_too_long_is_stopped_and_others_wait_in_a_queue(self) -> None:
        with serving(self.folder, "--workers", 1, "--waiting", 0, "--time-limit", 1.5) as (at, _):
            # Far more than any machine reads in that time.
            long = text_pdf(*("tide and time " * 1200 for _ in range(480)))
            with ThreadPoolExecutor(1) as clients:
                waiting = clients.submit(httpx.post, f"{at}/convert", content=long, timeout=60)
                busy = None
                for _ in range(200):
                    busy = httpx.get(f"{at}/ready")
                    if busy.status_code == 503:
                        break
                    time.sleep(0.01)
                assert busy is not None
                self.assertEqual((busy.status_code, busy.headers.get("retry-after")), (503, "2"))
                refused = httpx.post(f"{at}/convert", content=PDF, timeout=60)
                self.assertEqual((refused.status_code, refused.json()["kind"]), (503, "Busy"))
                stopped = waiting.result()
            self.assertEqual((stopped.status_code, stopped.json()["kind"]), (422, "StoppedSource"))
            self.assertIn("took longer than", stopped.json()["detail"])
            self.assertEqual(httpx.post(f"{at}/convert", content=PDF, timeout=60).status_code, 200)

    def test_a_graceful_stop_finishes_what_runs(self) -> None:
        with serving(self.folder, "--workers", 1) as (at, server):
            long = text_pdf(*("tide and time " * 12 for _ in range(200)))
            with ThreadPoolExecutor(1) as clients:
                running = clients.submit(httpx.post, f"{at}/convert", content=long, timeout=60)
                time.sleep(0.5)
                server.send_signal(signal.SIGTERM)
                self.assertEqual(running.result().status_code, 200)
            self.assertEqual(server.wait(60), 0)
            with self.assertRaises(httpx.TransportError):
                httpx.get(f"{at}/health")


class TestSetUp(InFolder):
    def test_a_place_that_cannot_be_listened_at_is_a_sentence(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as taken:
            result = run("serve", "--port", taken.getsockname()[1])
        self.assertEqual(result.returncode, 2)
        self.assertIn("cannot be listened at", result.stderr)
        result = run("serve", "--host", "no.such.host.invalid", "--port", 0)
        self.assertEqual(result.returncode, 2)
        self.assertNotIn("Traceback", result.stderr)

    def test_packaging_has_users_of_their_own_and_real_commands(self) -> None:
        unit = configparser.RawConfigParser(strict=False)
        unit.optionxform = str  # type: ignore[assignment,method-assign]
        unit.read("packaging/wennak.service")
        self.assertEqual(unit["Service"]["DynamicUser"], "yes")
        start = shlex.split(unit["Service"]["ExecStart"])
        docker = Path("packaging/Dockerfile").read_text(encoding="utf-8")
        self.assertRegex(docker, r"\nUSER wennak\n")
        (entry,) = re.findall(r"^ENTRYPOINT (\[.*\])$", docker, re.M)
        for line in (start[1:], json.loads(entry)[1:]):
            options = [word for word in line if word.startswith("--")]
            told = run("serve", "--help").stdout
            self.assertTrue(all(option in told for option in options), line)
        for source in re.findall(r"^COPY (.*) \S+$", docker, re.M):
            self.assertTrue(all(Path(name).exists() for name in source.split()), source)


if __name__ == "__main__":
    unittest.main()
