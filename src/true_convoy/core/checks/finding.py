"""What a check says: findings, their grades and fixes."""

import enum
import hashlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ..edits import Edit
from ..model import Record


class Grade(enum.StrEnum):
    """How bad a finding is: the game will not do with it, somebody must decide, or it is good to know."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"


class Fix(Record, frozen=True, kw_only=True):
    """One way to mend a finding, as an edit. A ``safe`` one takes nothing away that somebody chose."""

    label: str
    edit: Edit
    safe: bool = False


class Finding(Record, frozen=True, kw_only=True):
    """One thing that is wrong: what (``message``), what follows (``effect``), and what may be done.

    ``facts`` is a digest of what the finding rests on; ``accepted`` is the curator's reason to live with it.
    """

    code: str
    grade: Grade
    mods: tuple[str, ...]
    paths: tuple[str, ...]
    message: str
    effect: str
    fixes: tuple[Fix, ...]
    facts: str
    accepted: str | None = None


Mend = Fix | Iterable[Fix | None] | None
"""A fix that may work, or several of one sort, best first, of which only the first that works is offered."""


@dataclass(frozen=True, kw_only=True)
class Found:
    """A finding before its fixes are worked out and tried; ``facts`` are what it rests on besides its mods."""

    code: str
    grade: Grade
    mods: tuple[str, ...]
    message: str
    effect: str
    paths: tuple[str, ...] = ()
    facts: tuple[str, ...] = ()
    mends: Callable[[], Iterable[Mend]] = tuple

    @property
    def identity(self) -> tuple[str, tuple[str, ...], tuple[str, ...]]:
        """What makes it the same finding after a change."""
        return self.code, self.mods, self.paths if len(self.paths) == 1 else ()

    @property
    def digest(self) -> str:
        """Of all facts: as long as it stays, the finding is the same as when it was accepted."""
        text = "\n".join((self.code, *self.mods, *self.paths, *self.facts))
        return hashlib.sha256(text.encode()).hexdigest()[:16]
