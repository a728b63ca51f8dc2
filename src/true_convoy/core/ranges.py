"""Version ranges in VERS notation (``vers:semver/>=1.2.0|<2.0.0``), read into disjoint intervals and said in words.

Source: the VERS specification of the Package-URL project (ECMA-427 companion), with its containment rule: versions
named with ``=`` or ``!=`` decide first, then the remaining bounds are read as consecutive intervals.
"""

import re
from dataclasses import dataclass
from functools import cached_property, lru_cache
from urllib.parse import unquote

from .errors import RangeError
from .versions import Key, Scheme, sort_key

_CONSTRAINT = re.compile(r"(>=|<=|!=|=|<|>)?(.*)", re.DOTALL)
_MAX_LENGTH = 2000


@dataclass(frozen=True, kw_only=True)
class Interval:
    """Versions between two bounds; a bound of None is open-ended. The texts are as written."""

    low: str | None
    low_included: bool
    high: str | None
    high_included: bool


@dataclass(frozen=True, kw_only=True)
class Range:
    """A set of versions of one scheme: the named ones and intervals, less the excluded ones."""

    scheme: Scheme
    everything: bool
    named: tuple[str, ...]
    excluded: tuple[str, ...]
    intervals: tuple[Interval, ...]

    def __contains__(self, version: str) -> bool:
        return self.holds(sort_key(self.scheme, version))

    def holds(self, key: Key) -> bool:
        """Whether a version with this key under the range's scheme lies in it."""
        if key in self._excluded:
            return False
        if self.everything or key in self._named:
            return True
        for low, low_included, high, high_included in self._bounds:
            above = low is None or low < key or (low_included and low == key)
            if above and (high is None or key < high or (high_included and key == high)):
                return True
        return False

    @cached_property
    def _named(self) -> frozenset[Key]:
        return frozenset(sort_key(self.scheme, text) for text in self.named)

    @cached_property
    def _excluded(self) -> frozenset[Key]:
        return frozenset(sort_key(self.scheme, text) for text in self.excluded)

    @cached_property
    def _bounds(self) -> tuple[tuple[Key | None, bool, Key | None, bool], ...]:
        def key(text: str | None) -> Key | None:
            return None if text is None else sort_key(self.scheme, text)

        return tuple((key(i.low), i.low_included, key(i.high), i.high_included) for i in self.intervals)


def _intervals(scheme: Scheme, bounds: list[tuple[str, str]]) -> tuple[Interval, ...]:
    """Pairs sorted bounds up; of two bounds in the same direction the wider one holds, as VERS simplifies them."""
    bounds = sorted(bounds, key=lambda bound: sort_key(scheme, bound[1]))
    kept: list[tuple[str, str]] = []
    for bound in bounds:
        same_direction = bool(kept) and kept[-1][0][0] == bound[0][0]
        if same_direction and bound[0][0] == "<":
            kept.pop()
        if not same_direction or bound[0][0] == "<":
            kept.append(bound)
    found: list[Interval] = []
    low: tuple[str, str] | None = None
    for comparator, text in kept:
        if comparator[0] == ">":
            low = (comparator, text)
            continue
        found.append(
            Interval(
                low=low[1] if low else None,
                low_included=low is not None and low[0] == ">=",
                high=text,
                high_included=comparator == "<=",
            )
        )
        low = None
    if low:
        found.append(Interval(low=low[1], low_included=low[0] == ">=", high=None, high_included=False))
    return tuple(found)


@lru_cache(maxsize=16384)
def parse_range(text: str) -> Range:
    """Reads VERS text. Raises RangeError with a sentence if it is not valid."""
    if len(text) > _MAX_LENGTH:
        raise RangeError("A version range is too long to be one.")
    head, slash, body = text.replace(" ", "").partition("/")
    if not head.startswith("vers:") or not slash or not body:
        raise RangeError(f'"{text}" is not a version range; one looks like vers:semver/>=1.2.0|<2.0.0.')
    try:
        scheme = Scheme(head.removeprefix("vers:"))
    except ValueError:
        raise RangeError(f'"{text}" names an unknown version scheme; known are semver and generic.') from None
    if body == "*":
        return Range(scheme=scheme, everything=True, named=(), excluded=(), intervals=())
    named, excluded, bounds = [], [], []
    for constraint in body.split("|"):
        match = _CONSTRAINT.fullmatch(constraint)
        comparator, version = (match[1] or "=", unquote(match[2])) if match else ("=", "")
        if not version or version == "*":
            raise RangeError(f'"{text}" has a bound without a version.')
        if comparator == "=":
            named.append(version)
        elif comparator == "!=":
            excluded.append(version)
        else:
            bounds.append((comparator, version))
    return Range(
        scheme=scheme,
        everything=bool(excluded) and not named and not bounds,
        named=tuple(named),
        excluded=tuple(excluded),
        intervals=_intervals(scheme, bounds),
    )


@lru_cache(maxsize=131072)
def in_range(text: str | None, version: str) -> bool:
    """Whether a version lies in a VERS range; a missing range means any version."""
    return text is None or version in parse_range(text)


def in_words(text: str | None) -> str:
    """A range as people say it: ``2.0 or newer, below 3``. Never shows range syntax."""
    if text is None:
        return "any version"
    parsed = parse_range(text)
    parts = [_interval_in_words(interval) for interval in parsed.intervals]
    if parsed.named:
        parts.append("exactly " + " or ".join(parsed.named))
    if parsed.everything:
        parts.append("any version")
    said = ", or ".join(part for part in parts if part) or "no version at all"
    return said + (f", but not {' or '.join(parsed.excluded)}" if parsed.excluded else "")


def _interval_in_words(interval: Interval) -> str:
    low = high = ""
    if interval.low is not None:
        low = f"{interval.low} or newer" if interval.low_included else f"newer than {interval.low}"
    if interval.high is not None:
        high = f"{interval.high} or older" if interval.high_included else f"below {interval.high}"
    return ", ".join(part for part in (low, high) if part)
