"""The command line, as a user meets it: outputs, names, exit codes, and one clear sentence for bad input."""

from __future__ import annotations

import io
import shutil

import pikepdf

from tests.support import DEMO, InFolder, files_below, run, run_here


class TestConvert(InFolder):
    def test_folders_are_mirrored_and_workers_change_nothing(self) -> None:
        (self.folder / "in/deep").mkdir(parents=True)
        shutil.copy(DEMO / "timetable.pdf", self.folder / "in/deep/b.pdf")
        shutil.copy(DEMO / "fares-circular.pdf", self.folder / "in/a.PDF")
        (self.folder / "in/notes.txt").write_text("not a PDF")
        outputs = []
        for workers in (1, 2):
            out = self.folder / f"out{workers}"
            result = run(
                "convert", self.folder / "in", "--out", out, "--as", "md,html,json", "--workers", workers
            )
            self.assertEqual(result.returncode, 0, result.stderr)
            self.assertEqual(result.stdout, "")
            files = files_below(out)
            self.assertEqual(
                sorted(files),
                sorted(f"{stem}.{e}" for stem in ("a", "deep/b") for e in ("md", "html", "json")),
            )
            outputs.append(files)
        self.assertEqual(*outputs)

    def test_one_document_goes_to_standard_output(self) -> None:
        result = run("convert", DEMO / "tide-table.pdf", "--pages", "last", "--method", "spaced")
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertIn("| 30 June |", result.stdout)
        self.assertNotIn("| 1 May |", result.stdout)

    def test_bad_input_gets_one_sentence(self) -> None:
        f = self.folder
        good = DEMO / "timetable.pdf"
        (f / "empty.pdf").write_bytes(b"")
        (f / "text.pdf").write_text("These are words, not a PDF.")
        (f / "damaged.pdf").write_bytes(b"%PDF-1.4\n" + good.read_bytes()[9:700])
        with pikepdf.open(good) as pdf:
            pdf.save(f / "locked.pdf", encryption=pikepdf.Encryption(owner="o", user="u"))
        (f / "bare").mkdir()
        cases = [
            (1, "does not exist", [f / "missing.pdf"]),
            (1, "does not exist", ["x" * 5000]),
            (1, "is empty", [f / "empty.pdf"]),
            (1, "is not a PDF", [f / "text.pdf"]),
            (1, "is damaged", [f / "damaged.pdf"]),
            (1, "needs a password; give the right one (--password", [f / "locked.pdf"]),
            (1, "does not open it", [f / "locked.pdf", "--password", "wrong"]),
            (1, "holds no PDF", [f / "bare"]),
            (1, "there is no page 9", [good, "--pages", "9"]),
            (2, "no choice of pages", [good, "--pages", "one"]),
            (2, "no method 'magic'", [good, "--method", "magic"]),
            (2, "no format 'docx'", [good, "--as", "docx"]),
            (2, "--out", [good, DEMO / "fares-circular.pdf"]),
            (2, "is a file", [good, "--out", f / "text.pdf"]),
        ]
        for code, sentence, arguments in cases:
            with self.subTest(sentence):
                result = (run if sentence == cases[0][1] else run_here)("convert", *arguments)
                self.assertEqual(result.returncode, code, result.stderr)
                self.assertIn(sentence, result.stderr)
                self.assertNotIn("Traceback", result.stderr)
                self.assertEqual(result.stdout, "")
        # All that are no fault of the call at once: each has its sentence, and is named at the end.
        bad = [(sentence, source) for code, sentence, (source, *more) in cases if code == 1 and not more]
        result = run("convert", *(source for _, source in bad), "--out", f / "out")
        self.assertEqual(result.returncode, 1)
        self.assertEqual(result.stderr.count("does not exist"), 2)
        for sentence, _ in bad:
            self.assertIn(sentence, result.stderr)
        named = result.stderr.split("need a person:\n")[1].splitlines()
        self.assertEqual(len(named), len(bad), result.stderr)
        self.assertTrue(all(len(name) < 200 for name in named))
        self.assertNotIn("Traceback", result.stderr)
        self.assertEqual([p for p in f.rglob("*") if p.suffix in (".md", ".part")], [])

    def test_a_bad_document_does_not_stop_the_others(self) -> None:
        (self.folder / "in").mkdir()
        shutil.copy(DEMO / "timetable.pdf", self.folder / "in/good.pdf")
        (self.folder / "in/bad.pdf").write_bytes(b"%PDF-1.7 nothing else")
        result = run("convert", self.folder / "in", "--out", self.folder / "out")
        self.assertEqual(result.returncode, 1)
        self.assertIn("1 document failed", result.stderr)
        self.assertEqual(list(files_below(self.folder / "out")), ["good.md"])

    def test_a_locked_file_opens_with_its_password(self) -> None:
        out = io.BytesIO()
        with pikepdf.open(DEMO / "timetable.pdf") as pdf:
            pdf.save(out, encryption=pikepdf.Encryption(owner="o", user="skerra"))
        (self.folder / "locked.pdf").write_bytes(out.getvalue())
        result = run("convert", self.folder / "locked.pdf", "--password", "skerra")
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertIn("Hollinquay", result.stdout)

    def test_two_sources_never_write_one_file(self) -> None:
        for name, paper in (("one", "timetable"), ("two", "fares-circular")):
            (self.folder / name).mkdir()
            shutil.copy(DEMO / f"{paper}.pdf", self.folder / name / "x.pdf")
        sources = (self.folder / "one/x.pdf", self.folder / "two/x.pdf")
        result = run("convert", *sources, "--out", self.folder / "out")
        self.assertEqual(result.returncode, 1)
        self.assertIn("would be written over", result.stderr)
        alone = run("convert", sources[0])
        self.assertEqual((self.folder / "out/x.md").read_text("utf-8"), alone.stdout)
