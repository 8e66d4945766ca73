"""Run all tests, a module in a process of its own, one more at once than there are processors, since many
wait for processes of their own: python -m tests.

The end is that of unittest; `python -m unittest tests.test_ink` runs one module.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

KINDS = ("failures", "errors", "skipped")
# Those that take longest, for what they start, so that none of them is alone at the end; of the others, the
# larger take longer.
LONGEST = (
    "test_scan", "test_recipes", "test_collection", "test_docs", "test_demo", "test_remote", "test_service",
    "test_whole_documents", "test_bench", "test_cluster", "test_examples", "test_random_tables",
    "test_settings", "test_nameless", "test_readings",
)  # fmt: skip


def main() -> int:
    """Run the modules, those of LONGEST first, print what each says when it is done, and the sums."""
    begun = time.monotonic()
    modules = sorted(
        Path(__file__).parent.glob("test_*.py"),
        key=lambda path: (
            LONGEST.index(path.stem) if path.stem in LONGEST else len(LONGEST),
            -path.stat().st_size,
        ),
    )
    ran, sums = 0, dict.fromkeys(KINDS, 0)
    with ThreadPoolExecutor((os.cpu_count() or 1) + 1) as threads:
        for done in as_completed(threads.submit(run, path.stem) for path in modules):
            name, said = done.result()
            print(f"-- {name}\n{said}", flush=True)
            count = re.findall(r"^Ran (\d+) tests? in", said, re.M)
            ran += int(count[-1]) if count else 1
            last = said.strip().rsplit("\n", 1)[-1]
            for kind in KINDS:
                found = re.search(rf"{kind}=(\d+)", last)
                sums[kind] += int(found[1]) if found else 0
            # A module that did not come to its end is one error.
            sums["errors"] += not count
    print(f"{'-' * 70}\nRan {ran} tests in {time.monotonic() - begun:.0f}s\n")
    wrong = sums["failures"] + sums["errors"]
    print(f"{'FAILED' if wrong else 'OK'} ({', '.join(f'{kind}={n}' for kind, n in sums.items())})")
    return 1 if wrong else 0


def run(name: str) -> tuple[str, str]:
    """Run a module; returns its name and what it said."""
    command = [sys.executable, "-m", "unittest", f"tests.{name}"]
    # Modules run beside each other: more threads than one would only wait for those of others.
    env = {"OPENBLAS_NUM_THREADS": "1"} | os.environ
    done = subprocess.run(command, capture_output=True, text=True, cwd=Path(__file__).parent.parent, env=env)
    return name, done.stdout + done.stderr


if __name__ == "__main__":
    sys.exit(main())
