"""The state of a rig, derived in one place from what it reports and what it should be on.

In this order, the first that holds: *silent* (has not reported for a while), *strayed* (differs from the release it
believes it is on), *waiting* (needs a person's file or step), *behind* (an older release, unaltered), *in step*.
"""

import enum
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from .model import Inventory, Release
from .sync import FileDifference, Kind, differences, left_out

SILENT_AFTER = timedelta(days=14)


class State(enum.StrEnum):
    """How a rig stands to its target."""

    IN_STEP = "in step"
    BEHIND = "behind"
    STRAYED = "strayed"
    WAITING = "waiting"
    SILENT = "silent"


@dataclass(frozen=True, kw_only=True)
class Comparison:
    """What an inventory shows against the release it believes it is on. Immutable, so it may be kept."""

    release: str | None
    strayed: tuple[FileDifference, ...]
    awaited: tuple[FileDifference, ...]
    open_steps: tuple[str, ...]


def compare_inventory(inventory: Inventory, release: Release | None) -> Comparison:
    """Compares an inventory with the release it names; None where it is on no known release."""
    if release is None:
        return Comparison(release=None, strayed=(), awaited=(), open_steps=())
    found: Sequence[FileDifference] = list(
        differences(
            release,
            inventory.side,
            {file.path: file for file in inventory.files},
            frozenset(inventory.keepsakes),
            left_out(release, inventory),
        )
    )
    done = set(inventory.steps_done)
    return Comparison(
        release=release.digest,
        strayed=tuple(difference for difference in found if difference.kind is not Kind.AWAITED),
        awaited=tuple(difference for difference in found if difference.kind is Kind.AWAITED),
        open_steps=tuple(step.id for step in release.steps if inventory.side in step.sides and step.id not in done),
    )


def state_of(comparison: Comparison, target: str | None, reported: datetime | None, now: datetime) -> State:
    """The state of a rig whose target is the release with the digest ``target``."""
    if reported is not None and now - reported > SILENT_AFTER:
        return State.SILENT
    if comparison.strayed:
        return State.STRAYED
    if comparison.awaited or comparison.open_steps:
        return State.WAITING
    return State.IN_STEP if comparison.release == target and target is not None else State.BEHIND
