"""Where outputs go: a folder, or a place in a bucket. Files appear whole or not at all."""

from __future__ import annotations

import contextlib
import shutil
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from ..emit import write_whole
from ..errors import UsageError
from ..intake import reached, scheme_of

# What a run keeps for itself, below the outputs: what is on its way, and the parts of what is written for the
# whole collection.
OWN = ".wennak"
WORK, PARTS = f"{OWN}/work", f"{OWN}/parts"


class Store(Protocol):
    """Files by name, with forward slashes."""

    @property
    def place(self) -> str:
        """Where that is, for people."""
        ...

    def begin(self) -> None:
        """Delete what an earlier run left on its way, and make room for this one."""
        ...

    def write(self, name: str, data: bytes) -> None:
        """Write a file, whole or not at all."""
        ...

    def put(self, name: str, path: Path) -> None:
        """Move a file of this machine to where it belongs, whole or not at all."""
        ...

    def read(self, name: str) -> bytes:
        """Return the bytes of a file. Raises FileNotFoundError."""
        ...

    def size(self, name: str) -> int:
        """Return the size of a file in bytes, -1 where there is none."""
        ...

    def delete(self, name: str) -> None:
        """Delete a file, if it is there, and the folders that this leaves empty."""
        ...

    def clear(self, name: str) -> None:
        """Delete a folder with all that is in it, if it is there."""
        ...


@dataclass(frozen=True, slots=True)
class FolderStore:
    """A folder on this machine, or on a disk that all workers share.

    `run` names what is on its way in this run: what is left of one that was killed is deleted by the next,
    and a worker that outlived its run finds no place any more to write to.
    """

    folder: Path
    run: str

    @property
    def place(self) -> str:
        """The folder."""
        return str(self.folder)

    def begin(self) -> None:
        """Delete what an earlier run left on its way, and make room for this one."""
        self.clear(WORK)
        (self.folder / WORK / self.run).mkdir(parents=True)

    def write(self, name: str, data: bytes) -> None:
        """Write a file."""
        write_whole(self.folder / name, data, self.folder / WORK / self.run)

    def put(self, name: str, path: Path) -> None:
        """Move a file here, over the folder for what is on its way, as it may come from another disk."""
        step = self.folder / WORK / self.run / path.name
        shutil.move(path, step)
        step.replace(self.folder / name)

    def read(self, name: str) -> bytes:
        """Return the bytes of a file."""
        return (self.folder / name).read_bytes()

    def size(self, name: str) -> int:
        """Return the size of a file."""
        try:
            return (self.folder / name).stat().st_size
        except OSError:
            return -1

    def delete(self, name: str) -> None:
        """Delete a file."""
        path = self.folder / name
        path.unlink(missing_ok=True)
        for above in path.parents:
            if above == self.folder:
                break
            try:
                above.rmdir()
            except OSError:
                break

    def clear(self, name: str) -> None:
        """Delete a folder."""
        shutil.rmtree(self.folder / name, ignore_errors=True)
        with contextlib.suppress(OSError):
            (self.folder / OWN).rmdir()


@dataclass(frozen=True, slots=True)
class BucketStore:
    """A place in a store that fsspec reaches, by its URL; its files appear whole by themselves."""

    url: str
    run: str

    @property
    def place(self) -> str:
        """The URL."""
        return self.url

    def begin(self) -> None:
        """Delete what an earlier run left on its way."""
        self.clear(WORK)

    def _reached(self, name: str) -> tuple[Any, str]:
        store, path = reached(self.url)
        return store, f"{path.rstrip('/')}/{name}"

    def write(self, name: str, data: bytes) -> None:
        """Write a file."""
        store, path = self._reached(name)
        store.pipe_file(path, data)

    def put(self, name: str, path: Path) -> None:
        """Copy a file here."""
        store, target = self._reached(name)
        store.put_file(str(path), target)

    def read(self, name: str) -> bytes:
        """Return the bytes of a file."""
        store, path = self._reached(name)
        data: bytes = store.cat_file(path)
        return data

    def size(self, name: str) -> int:
        """Return the size of a file."""
        store, path = self._reached(name)
        try:
            return int(store.info(path)["size"])
        except FileNotFoundError:
            return -1

    def delete(self, name: str) -> None:
        """Delete a file."""
        store, path = self._reached(name)
        with contextlib.suppress(FileNotFoundError):
            store.rm_file(path)

    def clear(self, name: str) -> None:
        """Delete a folder."""
        store, path = self._reached(name)
        with contextlib.suppress(FileNotFoundError):
            store.rm(path, recursive=True)


def store_at(out: str | Path, run: str) -> Store:
    """Return where outputs go.

    Raises UsageError where that is a file, or a store that cannot be reached.
    """
    scheme = scheme_of(out) if isinstance(out, str) else ""
    if scheme in ("http", "https"):
        raise UsageError(f"{out} cannot be written to; name a folder, or a bucket.")
    if scheme:
        reached(str(out))
        return BucketStore(str(out), run)
    folder = Path(out)
    if folder.exists() and not folder.is_dir():
        raise UsageError(f"{out} is a file; name a folder to write to.")
    return FolderStore(folder, run)
