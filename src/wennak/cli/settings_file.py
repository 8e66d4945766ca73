"""wennak.toml: options that are given once, beside the data, and not with every command."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..errors import UsageError, existing

NAME, VARIABLE = "wennak.toml", "WENNAK_SETTINGS"


@dataclass(frozen=True, slots=True)
class SettingsFile:
    """A file that was read. At its top stand options of every command that has them; below the name of a
    command ([convert], [bench.run]) stand those of this one only, and go before. One beside data elsewhere
    may come from anyone; one in the current folder, or named in the environment, is the user's `own`.
    """

    path: Path
    data: dict[str, Any]
    own: bool = True

    def options(self, command: Sequence[str]) -> dict[str, Any]:
        """Return the options of the file's own section for a command, such as ("bench", "run"); those at its
        top for none.
        """
        section: Any = self.data
        for name in command:
            section = section.get(name, {})
            if not isinstance(section, dict):
                raise UsageError(f"{self.path}: {name} has to be a section, [{'.'.join(command)}].")
        return {name: _said(value) for name, value in section.items() if not isinstance(value, dict)}


def find_settings(named: Sequence[str]) -> SettingsFile | None:
    """Return the settings that hold for what a command names: the file that WENNAK_SETTINGS names, or else
    wennak.toml in the folder of the first thing named that is here, or else in the current folder.

    Raises UsageError where the file is no TOML, and MissingSource where the variable names none.
    """
    if said := os.environ.get(VARIABLE):
        return _read(existing(said))
    for folder in places(named):
        if (folder / NAME).is_file():
            return _read(folder / NAME, folder.resolve() == Path().resolve())
    return None


def places(named: Sequence[str]) -> list[Path]:
    """Return the folders where settings are looked for."""
    # Of a name that can be no path (too long, with a null), this says that it does not exist.
    here = [Path(name) for name in named if name != "-" and os.path.exists(name)]  # noqa: PTH110
    beside = [path if path.is_dir() else path.parent for path in here[:1]]
    return list(dict.fromkeys([*beside, Path()]))


def _read(path: Path, own: bool = True) -> SettingsFile:
    # Loaded where there is a file: every command begins by looking for one.
    import tomllib

    try:
        return SettingsFile(path, tomllib.loads(path.read_text(encoding="utf-8")), own)
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise UsageError(f"{path} cannot be read as TOML ({error}); mend it, or move it away.") from error


def _said(value: Any) -> Any:
    """Return a value as it would be given on the command line: several with commas."""
    return ",".join(map(str, value)) if isinstance(value, list) else value
