"""What a user may name: archives read in place, URLs within limits, patterns, lists, standard input."""

from __future__ import annotations

import contextlib
import io
import random
import tarfile
import threading
import time
import unittest
import zipfile
from collections.abc import Callable, Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import fsspec

import wennak
from tests.support import DEMO, InFolder, files_below, run, text_pdf
from wennak.collection import Plan
from wennak.intake import Limits, all_sources, count_sources, find_sources

MOVED = {"/loop.pdf": "/loop.pdf", "/moved.pdf": "/berth.pdf", "/file.pdf": "file:///etc/hostname"}


class _Handler(BaseHTTPRequestHandler):
    """A server that does what the path says."""

    tries = 0

    def do_GET(self) -> None:
        body, status, kind = text_pdf("Water, berth 4"), 200, "application/pdf"
        match self.path.split("?")[0]:
            case path if path in MOVED:
                self._to(MOVED[path])
                return
            case "/endless.pdf" | "/slow.pdf" as path:
                self._slowly(0.1 if path == "/slow.pdf" else 0.0)
                return
            case "/page.pdf":
                body, kind = b"<!DOCTYPE html><title>Sign in</title>", "text/html"
            case "/gone.pdf":
                body, status = b"", 404
            case "/busy.pdf":
                type(self).tries += 1
                status = 200 if self.tries == 3 else 503
            case "/papers.zip":
                body = zipped({"a.pdf": text_pdf("In the archive")})
        self._headers(status, kind, len(body))
        if self.command == "GET":
            with contextlib.suppress(OSError):
                self.wfile.write(body)

    do_HEAD = do_GET  # noqa: N815

    def _headers(self, status: int, kind: str, length: int | None = None) -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        if length is not None:
            self.send_header("Content-Length", str(length))
        self.end_headers()

    def _to(self, where: str) -> None:
        self.send_response(302)
        self.send_header("Location", where)
        self.send_header("Content-Length", "0")
        self.end_headers()

    def _slowly(self, pause: float) -> None:
        self._headers(200, "application/pdf")
        if self.command == "HEAD":
            return
        with contextlib.suppress(OSError):
            self.wfile.write(b"%PDF-1.7\n")
            while True:
                self.wfile.write(b"%" * (100 if pause else 1 << 16))
                time.sleep(pause)

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@contextlib.contextmanager
def server() -> Iterator[str]:
    """A real server on localhost; gives its address."""
    with ThreadingHTTPServer(("127.0.0.1", 0), _Handler) as found:
        found.daemon_threads = True
        threading.Thread(target=found.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{found.server_port}"
        found.shutdown()


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def tarred(
    files: dict[str, bytes], mode: str, more: Callable[[tarfile.TarFile], None] = lambda _: None
) -> bytes:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode=mode) as archive:  # type: ignore[call-overload]
        for name, data in files.items():
            info = tarfile.TarInfo(name)
            info.size = len(data)
            archive.addfile(info, io.BytesIO(data))
        more(archive)
    return out.getvalue()


class TestArchives(InFolder):
    def convert(self, *sources: object, plan: Plan | None = None) -> dict[str, str]:
        """Convert into a fresh folder; the outcome of each document by name, "" for those converted."""
        self.outs = getattr(self, "outs", 0) + 1
        out = self.folder / "out" / str(self.outs)
        outcomes = wennak.convert(list(sources), out, plan=plan)  # type: ignore[arg-type]
        self.written = files_below(out)
        self.assertEqual(len(self.written), sum(not o.error and o.state != "same" for o in outcomes))
        # Nothing else was written anywhere.
        self.assertLessEqual({p.name for p in self.folder.iterdir()}, {"out", "papers", *self.given})
        return {outcome.name: outcome.error for outcome in outcomes}

    def give(self, name: str, data: bytes) -> Path:
        (self.folder / name).write_bytes(data)
        self.given = {*getattr(self, "given", ()), name}
        return self.folder / name

    def test_archives_in_archives_are_read_in_place(self) -> None:
        inner = zipped({"deep/one.pdf": text_pdf("One"), "notes.txt": b"no PDF"})
        middle = tarred({"two.pdf": text_pdf("Two"), "inner.zip": inner}, "w:gz")
        path = self.give("papers.zip", zipped({"three.PDF": text_pdf("Three"), "middle.tar.gz": middle}))
        outcomes = self.convert(path)
        self.assertEqual(
            outcomes,
            dict.fromkeys(("three.PDF", "middle.tar.gz/two.pdf", "middle.tar.gz/inner.zip/deep/one.pdf"), ""),
        )
        self.assertEqual(self.written["middle.tar.gz/inner.zip/deep/one.md"], b"One\n")

    def test_members_that_lead_out_are_refused(self) -> None:
        names = ["../up.pdf", "/absolute.pdf", "a/../../b.pdf", "C:\\drive.pdf", "..\\back.pdf", "good.pdf"]
        for kind, path in (
            ("zip", self.give("a.zip", zipped({n: text_pdf(n[-8:].replace("\\", "/")) for n in names}))),
            ("tar", self.give("b.tar", tarred({n: text_pdf(n[-8:].replace("\\", "/")) for n in names}, "w"))),
        ):
            with self.subTest(kind):
                outcomes = self.convert(path)
                self.assertEqual([n for n, error in outcomes.items() if not error], ["good.pdf"])
                self.assertEqual(sum("would lie outside" in e for e in outcomes.values()), 5)

    def test_links_and_devices_in_a_tar_are_refused(self) -> None:
        def links(archive: tarfile.TarFile) -> None:
            for kind, name in (
                (tarfile.SYMTYPE, "s.pdf"),
                (tarfile.LNKTYPE, "h.pdf"),
                (tarfile.FIFOTYPE, "f.pdf"),
            ):
                info = tarfile.TarInfo(name)
                info.type, info.linkname = kind, "/etc/hostname"
                archive.addfile(info)

        outcomes = self.convert(self.give("a.tar.xz", tarred({"good.pdf": text_pdf("Good")}, "w:xz", links)))
        self.assertEqual(outcomes["good.pdf"], "")
        self.assertIn("is a link", outcomes["s.pdf"])
        self.assertIn("is a link", outcomes["h.pdf"])
        self.assertIn("no regular file", outcomes["f.pdf"])

    def test_bombs_are_refused_before_they_unpack(self) -> None:
        zeros = bytes(100_000_000)
        bomb = zipped({"bomb.pdf": zeros, "good.pdf": text_pdf("Good")})
        outcomes = self.convert(self.give("bomb.zip", bomb))
        self.assertIn("times its size", outcomes["bomb.pdf"])
        self.assertEqual(outcomes["good.pdf"], "")
        # An archive of bombs, and one that is packed as a whole: what is skipped must be unpacked too.
        outcomes = self.convert(self.give("deep.zip", zipped({"bomb.zip": bomb})))
        self.assertIn("times its size", outcomes["bomb.zip/bomb.pdf"])
        packed = tarred(
            {"good.pdf": text_pdf("Fine"), "zeros.bin": zeros, "late.pdf": text_pdf("Late")}, "w:gz"
        )
        outcomes = self.convert(self.give("bomb.tgz", packed))
        self.assertEqual(outcomes["good.pdf"], "")
        self.assertIn("times its size", next(e for e in outcomes.values() if e))
        # And turtles all the way down.
        data = zipped({"end.pdf": text_pdf("End")})
        for _ in range(8):
            data = zipped({"next.zip": data})
        outcomes = self.convert(self.give("turtles.zip", data))
        self.assertIn("deep in others", next(iter(outcomes.values())))

    def test_damaged_and_locked_archives_get_one_sentence(self) -> None:
        good = zipped(
            {"a.pdf": text_pdf("Some text that is long enough to be packed"), "b.pdf": text_pdf("b")}
        )
        torn = bytearray(good)
        torn[60] ^= 0xFF
        cut = tarred({"a.pdf": text_pdf("A"), "b.pdf": text_pdf("B") * 30}, "w:gz")
        cases = [
            ("cut.zip", good[:-40], "cut.zip is damaged"),
            ("torn.zip", bytes(torn), "a.pdf cannot be unpacked"),
            ("cut.tgz", cut[: len(cut) // 2], "damaged"),
            ("no.zip", b"These are words.", "no.zip is damaged"),
            ("none.tar", b"", "none.tar is damaged"),
        ]
        for name, data, sentence in cases:
            with self.subTest(name):
                errors = [e for e in self.convert(self.give(name, data)).values() if e]
                self.assertEqual(len(errors), 1)
                self.assertIn(sentence, errors[0])

    def test_torn_archives_never_end_in_anything_but_sentences(self) -> None:
        rng = random.Random(7)
        files = {f"{k}.pdf": text_pdf(*(f"Berth {k}, tide {n}" for n in range(9))) for k in range(4)}
        kinds = {f"a.tar.{kind}": tarred(files, f"w:{kind}") for kind in ("gz", "bz2", "xz")}
        kinds |= {"a.tar": tarred(files, "w"), "a.zip": zipped(files)}
        kinds["b.zip"] = zipped(kinds)
        said = 0
        for name, whole in kinds.items():
            for _ in range(25):
                data = bytearray(whole)
                for _ in range(rng.randrange(1, 30)):
                    data[rng.randrange(len(data))] = rng.randrange(256)
                path = self.give(name, bytes(data[: rng.randrange(len(data) // 2, len(data) + 1)]))
                for source in all_sources(path):
                    try:
                        source.fetch(self.folder)
                    except wennak.SourceError as error:
                        said += 1
                        self.assertRegex(str(error), r"^[^\n]+\.$")
        self.assertGreater(said, 100)

    def test_sources_that_are_too_large_are_refused(self) -> None:
        plan = Plan(limits=Limits(size=500))
        path = self.give("a.zip", zipped({"a.pdf": text_pdf("A long story")}))
        outcomes = self.convert(path, text_pdf("Bytes"), plan=plan)
        self.assertEqual(sum("is larger than" in error for error in outcomes.values()), 2)

    def test_folders_patterns_lists_and_standard_input(self) -> None:
        papers = self.folder / "papers"
        (papers / "b").mkdir(parents=True)
        (papers / "a.pdf").write_bytes(text_pdf("A"))
        (papers / "b/c.pdf").write_bytes(text_pdf("C"))
        (papers / "b/more.zip").write_bytes(zipped({"d.pdf": text_pdf("D")}))
        names = ["a.pdf", "b/c.pdf", "b/more.zip/d.pdf"]
        self.assertEqual([s.name for s in find_sources(papers)], names)
        self.assertEqual([s.name for s in find_sources(f"{papers}/**/*.pdf")], names[:2])
        self.assertEqual([s.name for s in find_sources(papers.as_uri())], names)
        with self.assertRaises(wennak.MissingSource):
            list(find_sources(f"{papers}/*.tif"))
        named = [str(papers / "a.pdf"), f"{papers}/**/*.pdf", f"{papers}/*.tif", str(papers / "no.pdf"), "-"]
        self.assertEqual(count_sources(named), 1 + 2 + 1 + 1 + 1)
        self.assertIsNone(count_sources([str(papers)]))
        (self.folder / "list.txt").write_text(f"# what to convert\n\n{papers}/b\n{papers}/missing.pdf\n")
        result = run("convert", "--from", self.folder / "list.txt", "--out", self.folder / "out")
        self.assertEqual(result.returncode, 1)
        self.assertIn("missing.pdf does not exist", result.stderr)
        self.assertEqual(sorted(files_below(self.folder / "out")), ["c.md", "more.zip/d.md"])
        result = run("convert", "-", given=text_pdf("From a pipe"))
        self.assertEqual(result.stdout, "From a pipe\n")

    def test_pictures_of_a_folder_without_pdfs(self) -> None:
        pages = self.folder / "pages"
        (pages / "b").mkdir(parents=True)
        for name in ("2.TIFF", "1.png", "b/3.jpeg", "b/notes.txt"):
            (pages / name).write_bytes(b"")
        self.assertEqual([s.name for s in find_sources(pages)], ["1.png", "2.TIFF", "b/3.jpeg"])
        # Beside PDFs pictures are what belongs to these.
        (pages / "b/4.pdf").write_bytes(text_pdf("D"))
        self.assertEqual([s.name for s in find_sources(pages)], ["b/4.pdf"])
        self.assertEqual([s.name for s in find_sources(f"{pages}/*.png")], ["1.png"])

    def test_pictures_of_a_bucket_without_pdfs(self) -> None:
        store = fsspec.filesystem("memory")
        for name in ("b/3.jpeg", "1.png", "notes.txt"):
            store.pipe_file(f"/pages/{name}", b"")
        self.assertEqual([s.name for s in find_sources("memory://pages")], ["1.png", "b/3.jpeg"])
        store.pipe_file("/pages/4.pdf", text_pdf("D"))
        self.assertEqual([s.name for s in find_sources("memory://pages")], ["4.pdf"])
        store.rm("/pages", recursive=True)
        store.pipe_file("/pages/notes.txt", b"")
        with self.assertRaises(wennak.NotPdf):
            list(find_sources("memory://pages"))

    def test_bytes_and_open_files(self) -> None:
        with (DEMO / "timetable.pdf").open("rb") as file:
            document = wennak.read(file)
        self.assertEqual(document, wennak.read(DEMO / "timetable.pdf"))
        with (DEMO / "timetable.pdf").open("rb") as file:
            outcomes = wennak.convert([file, text_pdf("Bytes")], self.folder / "out")
        self.assertEqual([o.name for o in outcomes], ["timetable.pdf", "document.pdf"])
        self.assertEqual(sorted(files_below(self.folder / "out")), ["document.md", "timetable.md"])


class TestWeb(InFolder):
    def test_what_servers_do(self) -> None:
        limits = Limits(size=3 << 20, seconds=6)
        cases = {
            "berth.pdf": "",
            "moved.pdf": "",
            "busy.pdf": "",
            "loop.pdf": "sends on more than",
            "file.pdf": "only http and https",
            "endless.pdf": "is larger than 3 MiB",
            "slow.pdf": "takes longer than",
            "page.pdf": "is a web page, not a PDF",
            "gone.pdf": "refused with 404",
        }
        with server() as address:
            urls = [f"{address}/{name}" for name in cases]
            outcomes = wennak.convert(urls, self.folder / "out", plan=Plan(limits=limits))
            self.assertIn("berth 4", wennak.read(f"{address}/berth.pdf").markdown())
            zip_names = [s.name.split("/", 1)[1] for s in find_sources(f"{address}/papers.zip")]
        self.assertEqual(zip_names, ["papers.zip/a.pdf"])
        self.assertEqual(len(outcomes), len(cases))
        for outcome in outcomes:
            sentence = cases[outcome.name.rsplit("/", 1)[1]]
            with self.subTest(outcome.name):
                self.assertIn(sentence, outcome.error)
                self.assertEqual(bool(outcome.error), bool(sentence))
        # The same content at three addresses is converted once.
        states = {o.name.rsplit("/", 1)[1]: o.state for o in outcomes if not o.error}
        self.assertEqual(states, {"berth.pdf": "done", "moved.pdf": "same", "busy.pdf": "same"})

    def test_no_server(self) -> None:
        with server() as address:
            pass
        result = run("convert", f"{address}/a.pdf", "--out", self.folder / "out")
        self.assertEqual(result.returncode, 1)
        self.assertIn("cannot be reached", result.stderr)
        self.assertNotIn("Traceback", result.stderr)


if __name__ == "__main__":
    unittest.main()
