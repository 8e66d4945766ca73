"""Write what can be drawn from the program itself: python tools/write_reference.py [FOLDER]

FOLDER (docs/ if none is named) gets commands.md from the help of every command, library.md from the
docstrings of every public name, rooms.svg from what the rooms import, and errors.svg from what errors cost.
"""

from __future__ import annotations

import dataclasses
import importlib
import inspect
import re
import sys
import tomllib
from collections.abc import Iterator
from pathlib import Path
from types import ModuleType

import click
import grimp

import wennak
from wennak.cli import main as program
from wennak.emit import write_whole

sys.path.insert(0, str(Path(__file__).parent))
from draw_errors import errors

ROOT = Path(__file__).parent.parent
MADE = "<!-- Made by tools/write_reference.py; do not edit. -->\n"
MODULES = {
    "wennak": "Reading, converting, finding",
    "wennak.truth": "Ground truth",
    "wennak.bench": "Benchmarks",
}
# Of the drawing of the rooms (points).
WIDE, HIGH, BOX, GAP = 700, 56, 116, 28


def main() -> None:
    """Write the files."""
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs"
    for name, text in made().items():
        write_whole(folder / name, text.encode("utf-8"))


def made() -> dict[str, str]:
    """Return the text of each file by name."""
    return {"commands.md": commands(), "library.md": library(), "rooms.svg": rooms(), "errors.svg": errors()}


def commands() -> str:
    """Return every command with its options and an example."""
    parts = [
        MADE, "# Commands\n",
        "`wennak COMMAND --help` says the same. Exit codes of all commands:\n",
        "| code | meaning |\n| --- | --- |",
        "| 0 | all went well |",
        "| 1 | a document or an output could not be used; the others are done, and one sentence says why |",
        "| 2 | the command was called wrongly |",
        "| 3 | a benchmark fell short of what was asked for, a check failed, a document is for review |",
        "| 130 | stopped by Ctrl-C; the same command goes on |\n",
        "Options may also stand in `wennak.toml` beside the data (the folder of what is named first, "
        "or else the current one), at its top for all commands or below `[convert]`, `[bench.run]` "
        "for one; and in the environment, `WENNAK_CONVERT_AS=md,json` for `--as` of `convert`. The "
        "command line goes before the environment, that before the file. `wennak settings` says what "
        "is in force and why.\n",
        "```toml\nlanguages = \"eng\"\n\n[convert]\nas = [\"md\", \"json\"]\npage-marks = true\n```\n",
        "Names of commands, options and files are completed in a shell after "
        '`eval "$(_WENNAK_COMPLETE=bash_source wennak)"` (or `zsh_source`, `fish_source`). Colours are left '
        "out in pipes and where `NO_COLOR` is set.\n",
    ]  # fmt: skip
    for names, command in leaves(program, ()):
        path = " ".join(("wennak", *names))
        context = click.Context(command, info_name=path)
        usage = " ".join(command.collect_usage_pieces(context))
        parts += [f"## {path}\n", f"```\n{path} {usage}\n```\n", flowing(command.help or "") + "\n"]
        parts += ["| option | meaning |\n| --- | --- |"]
        for param in command.get_params(context):
            record = param.get_help_record(context) if isinstance(param, click.Option) else None
            if record and "--help" not in param.opts:
                parts.append(f"| `{record[0]}` | {cell(record[1])} |")
        parts.append(f"\nExample: `{getattr(command, 'example', '')}`\n")
    return "\n".join(parts)


def leaves(group: click.Command, names: tuple[str, ...]) -> Iterator[tuple[tuple[str, ...], click.Command]]:
    """Yield each command that is no group, with its names."""
    if not isinstance(group, click.Group):
        yield names, group
        return
    context = click.Context(group)
    for name in group.list_commands(context):
        command = group.get_command(context, name)
        if command is not None:
            yield from leaves(command, (*names, name))


def flowing(text: str) -> str:
    """Return the paragraphs of a docstring, each on one line."""
    return "\n\n".join(" ".join(part.split()) for part in inspect.cleandoc(text).split("\n\n"))


def cell(text: str) -> str:
    """Return a text that may stand in a table."""
    return " ".join(text.split()).replace("|", "\\|")


def library() -> str:
    """Return every public name with its signature and docstring."""
    parts = [
        MADE,
        "# The library\n",
        "Every public name. A box is in points, from the top left of the page.\n",
    ]
    for name, title in MODULES.items():
        module = importlib.import_module(name)
        parts.append(f"## {title}: `{name}`\n")
        for public in sorted(module.__all__, key=str.lower):
            parts += list(described(module, public))
    return "\n".join(parts)


def described(module: ModuleType, name: str) -> Iterator[str]:
    """Yield the lines that describe a public name, and the methods of a class."""
    thing = getattr(module, name)
    if not callable(thing):
        return
    text = inspect.getdoc(thing) or ""
    is_error = inspect.isclass(thing) and issubclass(thing, Exception)
    said = f"class {name}" if is_error else signature(name, thing)
    yield f"### {name}\n\n```python\n{said}\n```\n\n{flowed(text)}\n"
    if inspect.isclass(thing) and not is_error:
        for key, value in vars(thing).items():
            if key.startswith("_"):
                continue
            if isinstance(value, property):
                yield f"- `.{key}`: {flowing(value.__doc__ or '')}"
            elif inspect.isfunction(value):
                yield f"- `.{signature(key, value)}`: {flowing(value.__doc__ or '')}"
        yield ""


def flowed(text: str) -> str:
    """Return a docstring with its examples as code."""
    parts = []
    for part in text.split("\n\n"):
        is_code = part.lstrip().startswith(">>>")
        parts.append(f"```\n{inspect.cleandoc(part)}\n```" if is_code else " ".join(part.split()))
    return "\n\n".join(parts)


def signature(name: str, thing: object) -> str:
    """Return how something is called."""
    if inspect.isclass(thing) and dataclasses.is_dataclass(thing):
        fields = [f"{f.name}: {f.type}" for f in dataclasses.fields(thing) if not f.name.startswith("_")]
        return f"class {name}({', '.join(fields)})"
    if not callable(thing):
        return name
    # Annotations are texts, and would stand in quotes.
    said = re.sub(r"""(: |-> )(["'])(.*?)\2""", r"\1\3", str(inspect.signature(thing)))
    return name + re.sub(r"\(self(, )?", "(", said)


def rooms() -> str:
    """Return a drawing of the rooms in their layers, with a line for each import between two of them that is
    not also made by way of a third.
    """
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["tool"]["importlinter"]
    layers = [
        [name.strip().removeprefix("wennak.") for name in layer.split("|")]
        for layer in project["contracts"][0]["layers"]
    ]
    at: dict[str, tuple[float, float]] = {}
    for y, layer in enumerate(layers):
        left = (WIDE - len(layer) * BOX - (len(layer) - 1) * GAP) / 2
        for x, name in enumerate(layer):
            at[name] = (left + x * (BOX + GAP), 10 + y * HIGH)
    graph = grimp.build_graph("wennak")
    lines: set[tuple[str, str]] = {
        (a, b)
        for module in graph.modules
        for other in graph.find_modules_directly_imported_by(module)
        if (a := room(module)) in at and (b := room(other)) in at and at[a][1] < at[b][1]
    }
    lines = {(a, b) for a, b in lines if not any((a, c) in lines and led(c, b, lines) for c in at if c != b)}
    high = 20 + len(layers) * HIGH
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE} {high}" font-family="sans-serif">',
        f'<rect width="{WIDE}" height="{high}" fill="#ffffff"/>',
    ]
    for a, b in sorted(lines):
        x0, x1 = at[a][0] + BOX / 2, at[b][0] + BOX / 2
        upper, lower = at[a][1] + 34, at[b][1]
        curve = f"M {x0:g} {upper:g} C {x0:g} {upper + 26:g}, {x1:g} {lower - 26:g}, {x1:g} {lower:g}"
        out.append(f'<path d="{curve}" fill="none" stroke="#9db4cc"/>')
    for name, (left, top) in at.items():
        out.append(
            f'<rect x="{left:g}" y="{top:g}" width="{BOX}" height="34" rx="4" fill="#eef3f8" stroke="#468"/>'
        )
        out.append(
            f'<text x="{left + BOX / 2:g}" y="{top + 22:g}" text-anchor="middle" fill="#1c2430">{name}</text>'
        )
    return "\n".join([*out, "</svg>\n"])


def led(a: str, b: str, lines: set[tuple[str, str]]) -> bool:
    """Return whether imports lead from one room to another, by way of others too."""
    return (a, b) in lines or any(led(c, b, lines) for start, c in lines if start == a)


def room(module: str) -> str:
    """Return the room of a module."""
    return module.split(".")[1] if "." in module else ""


if __name__ == "__main__":
    assert wennak.__all__
    main()
