"""What all commands share: an example, settings from a file and the environment, how much is said, Ctrl-C."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import click
from click.core import ParameterSource

from ..errors import UsageError, WennakError
from .fail import fail
from .settings_file import VARIABLE, SettingsFile, find_settings
from .voice import VERBOSE, set_voice, tell

# Words for files and folders in the usage of commands: a shell completes them.
_PATHS = ("SOURCE", "FOLDER", "FILE", "TRUTH", "RUN", "LIST", "PDF", "RECIPE")
# What a file beside data, which may come from anyone, must not say: what is read, sent or written where.
_REACHING = ("service", "cluster", "out", "journal", "into", "save", "from", "prune")
# Names that say what a command works on: settings are looked for beside the first of them.
_NAMED = ("sources", "source", "truths", "truth", "saved", "folder", "beside")


class Command(click.Command):
    """A command that has an example, and whose options may also come from the environment (WENNAK_CONVERT_AS)
    and from wennak.toml; what is given on the command line goes before both.
    """

    def __init__(self, name: str | None, *, example: str, **kwargs: Any) -> None:
        super().__init__(name, epilog=f"Example: {example}", **kwargs)
        self.example = example
        self.params += [
            click.Option(
                ["-q", "--quiet"], is_flag=True, expose_value=False, callback=_quiet, is_eager=True,
                help="Say only what is asked for and what went wrong.",
            ),
            click.Option(
                ["-v", "--verbose"], is_flag=True, expose_value=False, callback=_verbose, is_eager=True,
                help="Say what is done meanwhile, and what it took.",
            ),
        ]  # fmt: skip
        for param in self.params:
            if param.type is click.STRING and str(param.metavar or "").rstrip(".") in _PATHS:
                param.type = click.Path()

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Parse what is given; what is not given may stand in the settings."""
        name_variables(ctx)
        try:
            given = self.make_parser(ctx).parse_args(list(args))[0]
            file = find_settings(_named(given))
            ctx.default_map = defaults(file, self, path_of(ctx)) if file else None
        except WennakError as error:
            fail(str(error), 2)
        try:
            rest = super().parse_args(ctx, args)
            if any(_in_force(ctx)) and file and not file.own:
                tell(f"Settings from {file.path} are in force.")
            return rest
        except click.BadParameter as error:
            name = error.param.name if error.param else None
            origin = ctx.get_parameter_source(name) if name else None
            if origin is ParameterSource.DEFAULT_MAP and file:
                said = f"{error.message} It is set in {file.path}."
                raise click.BadParameter(said, ctx, error.param) from error
            raise

    def invoke(self, ctx: click.Context) -> Any:
        """Run the command; with --verbose, tell what it took."""
        begun = os.times()
        for said in _in_force(ctx):
            tell(said, VERBOSE)
        try:
            return super().invoke(ctx)
        finally:
            ended = os.times()
            worked = sum(ended[:4]) - sum(begun[:4])
            tell(f"It took {ended.elapsed - begun.elapsed:.1f} s, and {worked:.1f} s of processors.", VERBOSE)


class Group(click.Group):
    """Commands that belong together; Ctrl-C ends them with a sentence and the code 130."""

    command_class = Command

    def invoke(self, ctx: click.Context) -> Any:
        """Run a command of the group."""
        try:
            return super().invoke(ctx)
        except KeyboardInterrupt:
            fail("Stopped. Files that were written are whole; the same command does the rest.", 130)

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """Find the command that is named; where there is none such, ask whether a like one is meant."""
        name = args[0]
        known = self.list_commands(ctx)
        if not name.startswith("-") and name not in known:
            ctx.fail(f"There is no command {name!r}{near(name, known)}")
        return super().resolve_command(ctx, args)


def name_variables(ctx: click.Context) -> None:
    """Name the variable of each option of a command after the option, as it is written."""
    for name, option in options_of(ctx.command):
        option.envvar = f"{ctx.auto_envvar_prefix}_{name.replace('-', '_').upper()}"


def path_of(ctx: click.Context) -> tuple[str, ...]:
    """Return the names of a command from the outermost one on, without that of the program."""
    return (*path_of(ctx.parent), ctx.info_name or "") if ctx.parent else ()


def defaults(file: SettingsFile, command: click.Command, path: Sequence[str]) -> dict[str, Any]:
    """Return what settings say for a command, by the names of its parameters.

    Raises UsageError for an option of its own section that it does not have, and for one that a file beside
    the data must not set.
    """
    known = {name: str(option.name) for name, option in options_of(command)}
    own = file.options(path)
    for name in own:
        if name not in known:
            said = f"{file.path}: {' '.join(path)} has no option {name!r}{near(name, known)}"
            raise UsageError(said)
    found = {name: value for name, value in {**file.options(()), **own}.items() if name in known}
    for name in found:
        if name in _REACHING and not file.own:
            said = (
                f"{file.path} lies beside the data, and must not set --{name}; give it on the command line, "
                f"or name a file of yours in {VARIABLE}."
            )
            raise UsageError(said)
    return {known[name]: value for name, value in found.items()}


def near(name: str, known: Iterable[str]) -> str:
    """Return a question for the name that was meant, where one is written much like it."""
    # Few mistakes are made, and all commands begin here.
    import difflib

    close = difflib.get_close_matches(name, list(known), 1)
    return f"; is {close[0]!r} meant?" if close else "; --help lists those that there are."


def options_of(command: click.Command) -> Iterator[tuple[str, click.Option]]:
    """Yield the options of a command: as they are written, without dashes, and the option."""
    for param in command.params:
        if isinstance(param, click.Option):
            yield max(param.opts, key=len).lstrip("-"), param


def _named(given: dict[str, Any]) -> list[str]:
    found: list[object] = []
    for name in _NAMED:
        value = given.get(name)
        found += value if isinstance(value, (tuple, list)) else [value]
    return [value for value in found if isinstance(value, str)]


def _in_force(ctx: click.Context) -> Iterator[str]:
    for name, option in options_of(ctx.command):
        origin = ctx.get_parameter_source(str(option.name))
        if origin in (ParameterSource.DEFAULT_MAP, ParameterSource.ENVIRONMENT):
            where = "the settings" if origin is ParameterSource.DEFAULT_MAP else "the environment"
            yield f"--{name} is set by {where}; wennak settings shows how."


def _quiet(ctx: click.Context, _param: click.Parameter, value: bool) -> None:
    if value:
        set_voice(ctx, quiet=True)


def _verbose(ctx: click.Context, _param: click.Parameter, value: bool) -> None:
    if value:
        set_voice(ctx, quiet=False)
