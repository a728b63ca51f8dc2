"""Version order: ``semver`` and ``generic``, both total and stable.

* ``semver`` follows Semantic Versioning 2.0.0, section 11, with missing parts read as 0. Text that is not SemVer at
  all sorts below everything that is, in generic order, so that the order stays total.
* ``generic`` splits at ``. - _ +`` and between digits and letters; numbers compare as numbers, words as words, a number
  comes after a word, and ``alpha < beta < pre < rc < (nothing) < any other word``.

Equal keys fall back to the publication time, then the text (see ``build_order``).
"""

import enum
import re
from datetime import datetime
from functools import lru_cache

Key = tuple[object, ...]


class Scheme(enum.StrEnum):
    """How the versions of a mod or game are ordered."""

    SEMVER = "semver"
    GENERIC = "generic"


_SEMVER = re.compile(
    r"v?(?P<core>[0-9]+(?:\.[0-9]+)*)(?:-(?P<pre>[0-9A-Za-z-]+(?:\.[0-9A-Za-z-]+)*))?(?:\+[0-9A-Za-z.-]*)?"
)
_PARTS = re.compile(r"[0-9]+|[^0-9.\-_+]+")
_BEFORE_NOTHING = {"alpha": 0, "beta": 1, "pre": 2, "rc": 3}
_NOTHING, _WORD, _NUMBER = 4, 5, 6


def _number(digits: str) -> tuple[int, str]:
    """A key that orders digit strings of any length as numbers, without the limits of ``int``."""
    stripped = digits.lstrip("0")
    return len(stripped), stripped


def _generic_key(text: str) -> Key:
    key: list[object] = []
    for part in _PARTS.findall(text.lower()):
        if part[0] in "0123456789":
            key.append((_NUMBER, *_number(part)))
        else:
            key.append((_BEFORE_NOTHING[part], 0, "") if part in _BEFORE_NOTHING else (_WORD, 0, part))
    key.append((_NOTHING, 0, ""))
    return tuple(key)


def _semver_key(text: str) -> Key:
    match = _SEMVER.fullmatch(text.strip())
    if match is None:
        return (0, _generic_key(text))
    numbers = [_number(part) for part in match["core"].split(".")]
    numbers += [(0, "")] * (3 - len(numbers))
    while len(numbers) > 3 and numbers[-1] == (0, ""):
        numbers.pop()
    if match["pre"] is None:
        return (1, tuple(numbers), (1,))
    fields = tuple(
        (0, *_number(part)) if part.isascii() and part.isdigit() else (1, 0, part) for part in match["pre"].split(".")
    )
    return (1, tuple(numbers), (0, fields))


@lru_cache(maxsize=65536)
def sort_key(scheme: Scheme, text: str) -> Key:
    """The key of a version under a scheme; keys of one scheme compare with each other, never across schemes."""
    return _semver_key(text) if scheme is Scheme.SEMVER else _generic_key(text)


def build_order(scheme: Scheme, version: str, published: datetime | None) -> Key:
    """The total order of builds: version key, then publication time in seconds, then the text."""
    return (sort_key(scheme, version), published.timestamp() if published else 0.0, version)


def is_semver(text: str) -> bool:
    """Whether a text is a version with up to three numbers, as SemVer or with missing parts."""
    match = _SEMVER.fullmatch(text)
    return match is not None and match["core"].count(".") <= 2


def guess_scheme(*texts: str) -> Scheme:
    """The scheme to compare versions by where no document names one: SemVer if all of them are."""
    return Scheme.SEMVER if all(is_semver(text) for text in texts) else Scheme.GENERIC


def semver_numbers(text: str) -> tuple[int, int, int] | None:
    """Major, minor and patch number of a SemVer text, or None where it is none."""
    match = _SEMVER.fullmatch(text)
    if match is None or len(text) > 100:
        return None
    numbers = [int(part) for part in match["core"].split(".")][:3]
    numbers += [0] * (3 - len(numbers))
    return numbers[0], numbers[1], numbers[2]
