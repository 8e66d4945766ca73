"""Damage the demo files in many ways and see that reading them never falls over.

    python benchmarks/mutations.py [--variants 3000] [--seed 1]

Every variant is read with all outputs in a worker process. Each must be read or be refused with a sentence:
an exception that escapes, a crash, more than 10 s or more than 1 GiB of memory is a failure (exit 1).
"""

from __future__ import annotations

import argparse
import collections
import random
import re
import resource
import sys
from collections.abc import Callable, Iterator
from concurrent.futures import TimeoutError as FutureTimeout
from importlib import resources

from pebble import ProcessExpired, ProcessPool

from wennak.errors import OWN_ERROR

TIME_LIMIT = 10
MEMORY_LIMIT_MIB = 1024


def _flip(data: bytearray, rng: random.Random) -> None:
    for _ in range(rng.choice((1, 4, 16, 64))):
        data[rng.randrange(len(data))] = rng.randrange(256)


def _truncate(data: bytearray, rng: random.Random) -> None:
    del data[rng.randrange(len(data)) :]


def _drop(data: bytearray, rng: random.Random) -> None:
    start = rng.randrange(len(data))
    del data[start : start + rng.randrange(1, 400)]


def _double(data: bytearray, rng: random.Random) -> None:
    start = rng.randrange(len(data))
    data[start:start] = data[start : start + rng.randrange(1, 400)]


def _swap_objects(data: bytearray, rng: random.Random) -> None:
    """Give objects each other's numbers: pages become fonts, streams become page trees, parents loop."""
    found = list(re.finditer(rb"(?<!\d)(\d+) 0 (obj|R)\b", data))
    for match in rng.sample(found, min(len(found), rng.randrange(1, 6))):
        other = rng.choice(found)[1]
        data[match.start(1) : match.end(1)] = other.rjust(match.end(1) - match.start(1), b"0")[-8:]


def _break_operators(data: bytearray, rng: random.Random) -> None:
    """Replace operators and operands of content streams by others, by huge numbers, by brackets."""
    odd = b"Tj TJ Tm cm q Q BT ET re Do nan 1e99 (((( ]] << >> < [ % 0 -".split()
    odd += [b"W n", b"/F9 0 Tf", b"BI /W 9 ID", b"-" + b"9" * 40]
    found = list(re.finditer(rb"(?<=[\s(\[])[-\w.']+(?=[\s)\]])", data))
    for match in sorted(rng.sample(found, min(len(found), rng.randrange(1, 12))), key=lambda m: -m.start()):
        data[match.start() : match.end()] = rng.choice(odd)


KINDS: tuple[Callable[[bytearray, random.Random], None], ...] = (
    _flip, _truncate, _drop, _double, _swap_objects, _break_operators,
)  # fmt: skip


def variants(count: int, seed: int) -> Iterator[tuple[str, bytes]]:
    """Yield names and bytes of damaged files; the same seed gives the same files."""
    folder = resources.files("wennak.demo").joinpath("files")
    originals = {e.name: e.read_bytes() for e in folder.iterdir() if e.name.endswith(".pdf")}
    rng = random.Random(seed)
    for i in range(count):
        name = rng.choice(sorted(originals))
        data = bytearray(originals[name])
        kinds = rng.sample(KINDS, rng.choice((1, 1, 2)))
        for kind in kinds:
            kind(data, rng)
        yield f"{i} {name} {'+'.join(k.__name__[1:] for k in kinds)}", bytes(data)


def attempt(data: bytes) -> tuple[str, int]:
    """Read one variant and write it in every format: what came of it, and the peak memory in MiB."""
    import wennak

    try:
        document = wennak.read(data, name="variant.pdf")
        for text in (document.markdown(), document.html(), document.json()):
            text.encode("utf-8", "backslashreplace")
        said = "read with findings" if document.findings else "read"
        if own := [f.message for f in document.findings if f.code == OWN_ERROR]:
            raise AssertionError(own[0])
    except wennak.WennakError as error:
        said = f"refused: {type(error).__name__}"
    return said, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024


def main() -> None:
    """Run all variants and print what came of them."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--variants", type=int, default=3000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    names, files = zip(*variants(options.variants, options.seed), strict=True)
    outcomes: collections.Counter[str] = collections.Counter()
    failures, peak = [], 0
    with ProcessPool(max_workers=2) as pool:
        results = pool.map(attempt, files, timeout=TIME_LIMIT, chunksize=1).result()
        for name in names:
            try:
                said, memory = next(results)
                peak = max(peak, memory)
                outcomes[said] += 1
            except FutureTimeout:
                failures.append(f"{name}: took over {TIME_LIMIT} s")
            except ProcessExpired as error:
                failures.append(f"{name}: crashed ({error})")
            except Exception as error:
                failures.append(f"{name}: {type(error).__name__} escaped: {error}")
    for said, count in outcomes.most_common():
        print(f"{count:6} {said}")
    print(f"{len(failures):6} failures; peak memory {peak} MiB")
    print("\n".join(failures[:20]))
    sys.exit(1 if failures or peak > MEMORY_LIMIT_MIB else 0)


if __name__ == "__main__":
    main()
