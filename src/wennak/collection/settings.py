"""How the documents of a collection are converted."""

from __future__ import annotations

import hashlib
import json
import re
import time
from dataclasses import asdict, dataclass, field, replace
from typing import TYPE_CHECKING

from ..emit import FORMATS, PLAIN, EmitOptions, check_format
from ..errors import StoppedSource, UsageError
from ..methods import DEFAULT_METHOD, check_method
from ..pages import check_pages
from ..scan import AS_NEEDED, Recognition
from .files import check_together

if TYPE_CHECKING:
    from ..remote import Asking, Service
    from .data import Recipes


@dataclass(frozen=True, slots=True)
class Settings:
    """What every document of a run is converted with.

    `formats` are written for each document, `together` for the whole collection; `pages`, `method`,
    `password` and `recognition` are those of `wennak.read`; `pictures` saves figures as PNG files; `recipes`
    are what documents are put to; `fields` is a JSON Schema, as JSON, that is filled from each; `service` is
    the address that is asked as `wennak.read` says, for `budget` seconds of the whole run at most (`until` is
    then when that is over, in seconds since 1970), about `crops`, with `keep_ungrounded` texts.
    Raises UsageError for what does not exist.
    """

    formats: tuple[str, ...] = ("md",)
    together: tuple[str, ...] = ()
    method: str = DEFAULT_METHOD
    pages: str | None = None
    password: str = field(default="", repr=False)
    options: EmitOptions = PLAIN
    pictures: bool = False
    recognition: Recognition = AS_NEEDED
    recipes: Recipes | None = None
    fields: str = ""
    service: str = ""
    budget: float | None = None
    crops: bool = False
    keep_ungrounded: bool = False
    until: float | None = None

    def __post_init__(self) -> None:
        for name in self.formats:
            check_format(name)
        for name in self.together:
            check_together(name)
        check_method(self.method, self.service)
        if self.service:
            self.asked()
        if self.pages is not None:
            check_pages(self.pages)
        if self.fields:
            from ..filling import check_schema

            check_schema(json.loads(self.fields))
        if not (self.formats or self.together or self.recipes or self.fields):
            raise UsageError(f"No format is named; choose from {', '.join(FORMATS)}.")

    def asked(self) -> tuple[Service | None, Asking | None]:
        """Return the service that is asked, and how. Raises UsageError where it has no address, and
        StoppedSource where the time for asking is over.
        """
        budget = self.budget if self.until is None else self.until - time.time()
        if budget is not None and budget <= 0:
            said = "The time for asking the service was over before this document; go on with --retry failed."
            raise StoppedSource(said)
        if not self.service:
            return None, None
        # Most documents are converted without one.
        from ..pipeline import service_at

        return service_at(self.service, budget, self.crops, self.keep_ungrounded)

    def begun(self) -> Settings:
        """Return the same for a run that begins now."""
        return self if self.budget is None else replace(self, until=time.time() + self.budget)

    def said(self) -> str:
        """Return all that outputs depend on, as JSON: a document is converted again where it has changed.

        The password is left out: what it opens is the same with any that opens it; so is what an address may
        hold of a user, and how long the service may take.
        """
        from importlib.metadata import version

        told = asdict(self) | {"version": version("wennak")}
        told["service"] = re.sub("//[^/@]*@", "//", self.service)
        told["recipes"] = self.recipes.said() if self.recipes else None
        for name in ("password", "budget", "until"):
            del told[name]
        return json.dumps(told, sort_keys=True)

    def fingerprint(self) -> str:
        """Return a short form of `said`."""
        return hashlib.sha256(self.said().encode()).hexdigest()[:16]
