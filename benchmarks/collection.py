"""What running over a collection costs: python benchmarks/collection.py [PART...], or long FILE.pdf.

workers: pages a second of two workers and of one, on the demo's papers under many titles;
overhead: time of a run with one worker against reading and writing the same documents in a loop;
memory: peak of the process that drives a run over 100, 10,000 and 100,000 sources that cost nothing to read;
long: one long document with one worker and two, whether the bytes are the same, and the largest process.
All but the last where nothing is named.
"""

from __future__ import annotations

import resource
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pikepdf

import wennak
from wennak.collection import Outcome, Plan, Processes, Settings, WorkerLimits, begin

PAPERS = Path(wennak.__file__).parent / "demo/files"
COUNT, ROUNDS = 480, 3


def main(asked: list[str]) -> int:
    """Measure what was asked for."""
    if asked[:1] == ["long"]:
        long(Path(asked[1]))
        return 0
    if asked[:1] == ["memory-of"]:
        print(memory_of(int(asked[1])))
        return 0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        papers = drawn(folder / "papers")
        if not asked or "workers" in asked:
            workers(papers, folder)
        if not asked or "overhead" in asked:
            overhead(papers, folder)
    if not asked or "memory" in asked:
        memory()
    return 0


def drawn(folder: Path) -> Path:
    """Write the demo's papers under many titles, so that no two have the same content."""
    folder.mkdir()
    papers = [p for p in sorted(PAPERS.glob("*.pdf")) if "scan" not in p.name and "nameless" not in p.name]
    for k in range(COUNT):
        with pikepdf.open(papers[k % len(papers)]) as pdf:
            pdf.docinfo["/Title"] = f"Paper {k}"
            pdf.save(folder / f"{k:04}.pdf", deterministic_id=True)
    return folder


def workers(papers: Path, folder: Path) -> None:
    """Two workers against one, in turn."""
    rates: dict[int, list[float]] = {1: [], 2: []}
    for turn in range(ROUNDS):
        for count, found in rates.items():
            begun = time.perf_counter()
            pages = sum(o.pages for o in outcomes(papers, folder / f"w{turn}-{count}", count))
            found.append(pages / (time.perf_counter() - begun))
    one, two = (statistics.median(found) for found in rates.values())
    print(f"pages a second: one worker {one:.1f}, two {two:.1f}, ratio {two / one:.2f}")


def overhead(papers: Path, folder: Path) -> None:
    """A run with one worker against a loop."""
    ratios = []
    for turn in range(ROUNDS):
        begun = time.perf_counter()
        (folder / f"loop{turn}").mkdir()
        for path in sorted(papers.iterdir()):
            text = wennak.read(path).markdown()
            (folder / f"loop{turn}" / f"{path.stem}.md").write_text(text, encoding="utf-8")
        loop = time.perf_counter() - begun
        begun = time.perf_counter()
        list(outcomes(papers, folder / f"run{turn}", 1))
        run = time.perf_counter() - begun
        ratios.append(run / loop)
    print(
        f"a run of {COUNT} papers with one worker against a loop: {statistics.median(ratios):.3f} of its time"
    )


def outcomes(papers: object, out: Path, count: int) -> Iterator[Outcome]:
    """Convert and yield the outcomes as they come."""
    pool = Processes(count, WorkerLimits())
    try:
        run = begin(papers, out, Settings(), pool, Plan())  # type: ignore[arg-type]
        yield from (event for event in run.events() if isinstance(event, Outcome))
    finally:
        pool.close()


def memory() -> None:
    """Peak memory of the driver, each time in a process of its own."""
    for count in (100, 10_000, 100_000):
        command = [sys.executable, __file__, "memory-of", str(count)]
        told = subprocess.run(command, capture_output=True, text=True, check=True).stdout.strip()
        print(f"{count:>7,} sources: {told}")


def memory_of(count: int) -> str:
    """Run over so many sources that are no PDFs."""
    begun = time.perf_counter()
    with tempfile.TemporaryDirectory() as name:
        papers = (b"no PDF %d" % k for k in range(count))
        failed = sum(o.state == "failed" for o in outcomes(papers, Path(name) / "out", 2))
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    each = (time.perf_counter() - begun) / count * 1e3
    return f"{failed:,} refused, driver at most {peak:.0f} MiB, {each:.2f} ms each"


def long(path: Path) -> None:
    """One document with one worker and with two."""
    times, texts = [], []
    peaks: list[int] = []
    with tempfile.TemporaryDirectory() as name:
        for count in (1, 2):
            ended = threading.Event()
            watch = threading.Thread(target=watch_processes, args=(ended, peaks))
            watch.start()
            begun = time.perf_counter()
            list(outcomes(path, Path(name) / str(count), count))
            times.append(time.perf_counter() - begun)
            ended.set()
            watch.join()
            texts.append((Path(name) / str(count) / f"{path.stem}.md").read_bytes())
    same = "the same bytes" if texts[0] == texts[1] else "OTHER BYTES"
    print(f"{path.name}: {times[0]:.1f} s with one worker, {times[1]:.1f} s with two")
    print(f"ratio {times[0] / times[1]:.2f}, {same}, largest process {peaks[0]} and {peaks[1]} MiB")


def watch_processes(ended: threading.Event, peaks: list[int]) -> None:
    """Note the largest peak of this process and those below it (Linux)."""
    most = 0
    while not ended.wait(0.2):
        for status in Path("/proc").glob("[0-9]*/status"):
            try:
                said = dict(line.split(":", 1) for line in status.read_text().splitlines() if ":" in line)
                if sys.executable in (status.parent / "cmdline").read_text():
                    most = max(most, int(said.get("VmHWM", "0").split()[0]) // 1024)
            except OSError:
                continue
    peaks.append(most)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
