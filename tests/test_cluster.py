"""A real Dask cluster on localhost, sources and outputs in a server that speaks the protocol of buckets."""

from __future__ import annotations

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
import unittest
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from unittest import mock

import wennak
from tests.support import DEMO, InFolder, command, files_below, run, text_pdf


@contextmanager
def buckets(test: InFolder) -> Iterator[None]:
    """A server of buckets, which this process and its children use."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    address = f"http://127.0.0.1:{port}"
    env = {
        "AWS_ENDPOINT_URL": address, "AWS_ACCESS_KEY_ID": "skerra", "AWS_SECRET_ACCESS_KEY": "sound",
        "AWS_DEFAULT_REGION": "us-east-1",
    }  # fmt: skip
    arguments = [sys.executable, "-m", "moto.server", "-H", "127.0.0.1", "-p", str(port)]
    with (test.folder / "buckets.log").open("wb") as log:
        server = subprocess.Popen(arguments, stdout=log, stderr=log)
    try:
        with mock.patch.dict(os.environ, env):
            for _ in range(200):
                try:
                    with urllib.request.urlopen(address, timeout=1):
                        break
                except OSError:
                    time.sleep(0.1)
            yield
    finally:
        server.kill()
        server.wait()


class TestCluster(InFolder):
    def test_a_cluster_that_loses_a_worker_gives_the_same_bytes(self) -> None:
        import s3fs
        from distributed import Client, LocalCluster

        papers = self.folder / "papers"
        (papers / "deep").mkdir(parents=True)
        for paper in ("timetable", "tide-table", "berth-ledger", "fares-circular"):
            shutil.copy(DEMO / f"{paper}.pdf", papers / "deep")
        for k in range(20):
            (papers / f"berth-{k}.pdf").write_bytes(text_pdf(*(f"Berth {k}, tide {n}" for n in range(3))))
        (papers / "bad.pdf").write_bytes(b"%PDF-1.4 nothing")
        (papers / "twin.pdf").write_bytes((papers / "berth-9.pdf").read_bytes())
        how = ("--as", "md,json", "--together", "passages,csv")
        self.assertEqual(run("convert", papers, "--out", self.folder / "here", *how).returncode, 1)
        expected = files_below(self.folder / "here")
        with buckets(self):
            store = s3fs.S3FileSystem(use_listings_cache=False, skip_instance_cache=True)
            for bucket in ("papers", "texts"):
                store.mkdir(bucket)
            store.put(f"{papers}/", "papers/in/", recursive=True)
            with LocalCluster(
                n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50
            ) as cluster, Client(cluster) as client:  # fmt: skip
                pids = client.run(os.getpid)
                arguments = (
                    "convert", "s3://papers/in", "--out", "s3://texts/out", "--journal",
                    self.folder / "run.sqlite",
                    "--cluster", cluster.scheduler_address, "--log-json", *how,
                )  # fmt: skip
                child = subprocess.Popen(command(*arguments), stderr=subprocess.PIPE, text=True)
                assert child.stderr is not None
                events = [json.loads(child.stderr.readline()) for _ in range(8)]
                os.kill(next(iter(pids.values())), signal.SIGKILL)
                events += [self.event(line) for line in child.stderr]
                self.assertEqual(child.wait(), 1)
            self.assertEqual(events[-1]["converted"], 24)
            self.assertEqual((events[-1]["failed"], events[-1]["same"]), (1, 1))
            found = {name[len("texts/out/") :]: store.cat_file(name) for name in store.find("texts/out")}
            parts = [name for name in found if name.startswith(".wennak/")]
            self.assertTrue(all(name.startswith(".wennak/parts/") for name in parts))
            self.assertEqual({n: data for n, data in found.items() if n not in parts}, expected)
            self.assertEqual(wennak.read("s3://papers/in/deep/timetable.pdf").tables,
                             wennak.read(DEMO / "timetable.pdf").tables)  # fmt: skip

    def event(self, line: str) -> dict[str, object]:
        """A line of the log, all of which is JSON."""
        try:
            return dict(json.loads(line))
        except ValueError:
            self.fail(f"no JSON: {line}")

    def test_a_cluster_made_for_the_run(self) -> None:
        for paper in ("timetable", "berth-ledger"):
            shutil.copy(DEMO / f"{paper}.pdf", self.folder)
        sources = [self.folder / "timetable.pdf", self.folder / "berth-ledger.pdf"]
        wennak.convert(sources, self.folder / "plain")
        result = run("convert", *sources, "--out", self.folder / "out", "--cluster", "local:2")
        self.assertEqual(result.returncode, 0, result.stderr)
        self.assertEqual(files_below(self.folder / "out"), files_below(self.folder / "plain"))


if __name__ == "__main__":
    unittest.main()
