"""`wennak settings`."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import click
from click.core import ParameterSource

from .commands import Command, defaults, name_variables, options_of, path_of
from .fail import fail, failing
from .settings_file import NAME, VARIABLE, SettingsFile, find_settings, places
from .voice import tell

# Values of these are not shown.
_SECRET = ("password",)


@click.command(cls=Command, example="wennak settings convert --beside papers/")
@click.argument("command", nargs=-1, metavar="[COMMAND]")
@click.option("--beside", metavar="FOLDER", help="The data whose settings are meant, if not here.")
@click.pass_context
def settings(ctx: click.Context, command: tuple[str, ...], beside: str | None) -> None:
    """Say which settings are in force, and where they come from.

    Options that are given with every command may stand in a file wennak.toml beside the data: at its top for
    all commands, below [convert], [bench.run] and so on for one. WENNAK_SETTINGS names another file. In the
    environment WENNAK_CONVERT_AS=md,json stands for --as, and so for every command and option. The command
    line goes before the environment, that before the file. Without COMMAND what is set is told, with it all
    its options.
    """
    root = ctx.find_root()
    with failing("The settings"):
        file = find_settings([beside] if beside else [])
        looked = " or ".join(str(p / NAME) for p in places([beside] if beside else []))
        tell(
            f"Settings from {file.path}." if file else f"There is no {looked}, nor is {VARIABLE} set.",
            err=False,
        )
        found = list(_commands(root.command, root))
        chosen = [c for c in found if path_of(c)[: len(command)] == command]
        if not chosen:
            fail(f"There is no command {' '.join(command)!r}; wennak --help lists them.", 2)
        if file:
            _check(file, found)
        shared = file.options(()) if file and not command else {}
        at = str(file and file.path)
        lines = [("all commands", f"--{name}", _shown(name, value), at) for name, value in shared.items()]
        own = [line for one in chosen for line in _lines(one, file, bool(command))]
        # What stands at the top is not told again for each command that goes by it.
        lines += [line for line in own if not any(line[1:] == top[1:] for top in lines[: len(shared)])]
    wide = [max(len(line[k]) for line in lines) for k in range(3)] if lines else []
    for line in lines:
        click.echo("  ".join([*(t.ljust(n) for t, n in zip(line[:3], wide, strict=True)), line[3]]))
    if not lines:
        click.echo("Nothing is set: every option has the value that --help tells.")


def _commands(group: click.Command, ctx: click.Context) -> Iterator[click.Context]:
    """Yield a context of each command, the groups left out."""
    if not isinstance(group, click.Group):
        yield ctx
        return
    for name in group.list_commands(ctx):
        command = group.get_command(ctx, name)
        if command is not None:
            yield from _commands(command, click.Context(command, info_name=name, parent=ctx))


def _check(file: SettingsFile, found: list[click.Context]) -> None:
    """Tell of what stands in a file and no command knows."""
    known = {name for ctx in found for name, _ in options_of(ctx.command)}
    for name in file.options(()):
        if name not in known:
            tell(f"No command has an option {name!r}, which is at the top of {file.path}.")
    sections = {path[:n] for ctx in found for path in [path_of(ctx)] for n in range(1, len(path) + 1)}
    for path in _sections(file.data):
        if path not in sections:
            tell(f"There is no command [{'.'.join(path)}], which is a section of {file.path}.")


def _sections(data: dict[str, Any], above: tuple[str, ...] = ()) -> Iterator[tuple[str, ...]]:
    for name, value in data.items():
        if isinstance(value, dict):
            yield (*above, name)
            yield from _sections(value, (*above, name))


def _lines(ctx: click.Context, file: SettingsFile | None, every: bool) -> Iterator[tuple[str, str, str, str]]:
    """Yield command, option, value and where it comes from; built-in ones only if asked for `every` one."""
    ctx.default_map = defaults(file, ctx.command, path_of(ctx)) if file else None
    name_variables(ctx)
    for name, option in options_of(ctx.command):
        value, source = option.consume_value(ctx, {})
        if source is ParameterSource.ENVIRONMENT:
            origin = str(option.envvar)
        elif source is ParameterSource.DEFAULT_MAP and file:
            origin = str(file.path)
        elif every:
            origin = "built in"
        else:
            continue
        yield "wennak " + " ".join(path_of(ctx)), f"--{name}", _shown(name, value), origin


def _shown(name: str, value: object) -> str:
    if name in _SECRET and value:
        return "(not shown)"
    if isinstance(value, bool):
        return "yes" if value else "no"
    # What has no value has a mark of the parser's own.
    return str(value) if isinstance(value, (str, int, float)) and value != "" else "(nothing)"
