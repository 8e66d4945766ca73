"""What the service takes under load: python benchmarks/service.py [--requests 1000] [--clients 32].

Starts services on localhost with one worker and with two, asks them with many clients at once for the
demo's papers, a tenth of the requests hostile (bodies too large, broken forms, no documents, cut files),
and prints requests a second, what became of them, and how much memory the service took.
"""

from __future__ import annotations

import argparse
import os
import re
import subprocess
import sys
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx

from wennak.demo import file_names

PAPERS = Path(__file__).parent.parent / "src/wennak/demo/files"


def main() -> None:
    """Print how services with one worker and with two do."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--requests", type=int, default=1000)
    parser.add_argument("--clients", type=int, default=32)
    options = parser.parse_args()
    rates = [_measured(workers, options.requests, options.clients) for workers in (1, 2)]
    print(f"two workers do {rates[1] / rates[0]:.2f} times what one does")


def _measured(workers: int, requests: int, clients: int) -> float:
    """Requests a second of a service with so many workers."""
    command = [sys.executable, "-m", "wennak", "serve", "--port", "0", "--workers", str(workers),
               "--size-limit", "1", "--waiting", "64"]  # fmt: skip
    server = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
    assert server.stderr is not None
    found = re.search(r"http://[^/]+", server.stderr.readline())
    assert found is not None
    papers = [(PAPERS / n).read_bytes() for n in file_names() if n.endswith(".pdf") and "berth-charges" in n]
    rude: list[dict[str, Any]] = [
        {"content": b"%PDF-1.4\n" + b"1 0 obj<</A" * 20_000}, {"content": b"\0" * (2 << 20)},
        {"content": b"--q\r\nx", "headers": {"Content-Type": "multipart/form-data; boundary=q"}},
        {"content": papers[0][:900]}, {"content": b"hello"},
    ]  # fmt: skip

    # One for all: making one anew for each request takes longer than many requests.
    client = httpx.Client(timeout=120, limits=httpx.Limits(max_connections=clients))

    def ask(k: int) -> int:
        what = rude[k // 10 % len(rude)] if k % 10 == 9 else {"content": papers[k % len(papers)]}
        while True:
            try:
                answer = client.post(f"{found[0]}/convert", **what)
            except httpx.TransportError:
                return 0
            if answer.status_code != 503:
                return answer.status_code
            time.sleep(0.1)

    try:
        for _ in range(200):
            try:
                httpx.get(f"{found[0]}/ready")
                break
            except httpx.TransportError:
                time.sleep(0.1)
        with ThreadPoolExecutor(clients) as pool:
            list(pool.map(ask, range(2 * clients)))
            before = _memory(server.pid)
            start = time.monotonic()
            codes = Counter(pool.map(ask, range(requests)))
            seconds = time.monotonic() - start
        after = _memory(server.pid)
    finally:
        client.close()
        server.terminate()
        server.wait(60)
    said = ", ".join(f"{n} x {code or 'no answer'}" for code, n in sorted(codes.items()))
    print(f"{workers} workers: {requests / seconds:.1f} requests/s; {said}; memory {before} to {after} MiB")
    return requests / seconds


def _memory(pid: int) -> int:
    """Memory of a process and those that it started, in MiB."""
    parents: dict[int, int] = {}
    sizes: dict[int, int] = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                fields = (entry / "stat").read_text().rsplit(")", 1)[1].split()
            except OSError:
                continue
            parents[int(entry.name)] = int(fields[1])
            sizes[int(entry.name)] = int(fields[21]) * os.sysconf("SC_PAGE_SIZE") >> 20
    own = {pid}
    while more := {p for p, parent in parents.items() if parent in own} - own:
        own |= more
    return sum(sizes[p] for p in own if p in sizes)


if __name__ == "__main__":
    main()
