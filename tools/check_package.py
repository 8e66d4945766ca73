"""Build Wennak and try what was built: python tools/check_package.py [PYTHON...] [--oldest]

Builds a wheel and a source distribution, checks that both hold every file of the package, and installs each
in an empty environment of every PYTHON named (this one if none): there it must load without plots, browser or
cluster, and convert the demo's papers to the same bytes as this environment does. With --oldest also, for the
first PYTHON (newer ones need more), with the oldest version of each dependency that pyproject.toml allows.
"""

from __future__ import annotations

import argparse
import re
import subprocess
import sys
import tarfile
import tempfile
import zipfile
from importlib.metadata import requires
from pathlib import Path

ROOT = Path(__file__).parent.parent
# Packages that only extras bring.
NOT_NEEDED = ("matplotlib", "selenium", "distributed", "tesserocr", "pyarrow", "starlette", "sklearn")


def main() -> int:
    """Build, install, try; return 1 where something is wrong."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("pythons", nargs="*", default=[sys.executable])
    parser.add_argument("--oldest", action="store_true")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        wheel, source = built(folder / "dist")
        missing = missing_files(wheel, source)
        for path in missing:
            print(f"missing: {path}")
        expected = converted([sys.executable, "-m", "wennak"], folder / "here")
        wrong = bool(missing)
        for python in options.pythons:
            for what, archive in (("wheel", wheel), ("source", source)):
                wrong |= not tried(python, archive, folder / "env", expected, f"{python}, {what}")
            if options.oldest and python == options.pythons[0]:
                wrong |= not tried(python, wheel, folder / "env", expected, f"{python}, oldest", oldest())
    print("Something is wrong." if wrong else "All is well.")
    return int(wrong)


def built(folder: Path) -> tuple[Path, Path]:
    """Build both distributions and return their paths."""
    subprocess.run([sys.executable, "-m", "build", "--outdir", folder, ROOT], check=True, capture_output=True)
    (wheel,), (source,) = folder.glob("*.whl"), folder.glob("*.tar.gz")
    return wheel, source


def missing_files(wheel: Path, source: Path) -> list[str]:
    """Return the files of the package that an archive lacks; what Python makes of them is not meant."""
    found = [path for path in (ROOT / "src/wennak").rglob("*") if path.is_file() and path.suffix != ".pyc"]
    files = [str(path.relative_to(ROOT)) for path in found]
    with zipfile.ZipFile(wheel) as archive:
        in_wheel = set(archive.namelist())
    with tarfile.open(source) as packed:
        in_source = {name.partition("/")[2] for name in packed.getnames()}
    return [f for f in files if f.removeprefix("src/") not in in_wheel or f not in in_source]


def oldest() -> list[str]:
    """Return each dependency with its lowest version."""
    found = [r for r in requires("wennak") or [] if "extra ==" not in r]
    return [re.sub(r">=", "==", r) for r in found]


def tried(
    python: str,
    archive: Path,
    env: Path,
    expected: dict[str, bytes],
    said: str,
    versions: list[str] | None = None,
) -> bool:
    """Install an archive into an empty environment and convert the papers there; tell, and return, whether
    the outputs are those expected.
    """
    subprocess.run([python, "-m", "venv", "--clear", env], check=True)
    own = env / "bin" / "python"
    subprocess.run([own, "-m", "pip", "install", "-q", archive, *(versions or [])], check=True)
    code = f"import importlib.util as u; print(*(n for n in {NOT_NEEDED!r} if u.find_spec(n)))"
    more = subprocess.run(
        [own, "-c", code], check=True, capture_output=True, text=True, cwd=env
    ).stdout.split()
    found = converted([str(own), "-m", "wennak"], env / "out")
    wrong = [name for name in expected if found.get(name) != expected[name]]
    for name in wrong:
        print(f"{said}: {name} is another than here")
    for name in more:
        print(f"{said}: {name} was installed")
    print(f"{said}: {len(expected) - len(wrong)} of {len(expected)} outputs are the same")
    return not wrong and not more


def converted(command: list[str], out: Path) -> dict[str, bytes]:
    """Convert the demo's papers with a command, and return what it wrote by name."""
    papers = ROOT / "src/wennak/demo/files"
    how = ["--as", "md,html,json,passages", "--recognise", "never", "-q"]
    subprocess.run(
        [*command, "convert", papers, "--out", out, *how],
        check=True, cwd=out.parent,
    )  # fmt: skip
    return {p.name: p.read_bytes() for p in sorted(out.iterdir()) if p.suffix != ".sqlite" and p.is_file()}


if __name__ == "__main__":
    sys.exit(main())
