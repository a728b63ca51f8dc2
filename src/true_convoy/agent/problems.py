"""What can go wrong outside, said for the person at the keyboard."""

import errno
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from true_convoy.core.errors import ConvoyError


class Failed(ConvoyError):
    """Something outside kept the command from doing its work. Nothing half-done stays."""


class BadInput(ConvoyError):
    """What was given to the command cannot be used."""


_SAID = {
    errno.ENOSPC: "The disk is full. Nothing was changed in the folder; free some space and try again.",
    errno.EDQUOT: "The disk quota is used up. Nothing was changed in the folder; free some space and try again.",
    errno.EROFS: "The disk may not be written to. Nothing was changed.",
}


@contextmanager
def said(about: Path) -> Iterator[None]:
    """Turns errors of the operating system into sentences about a folder or file."""
    try:
        yield
    except PermissionError:
        raise Failed(f"{about} may not be written to. Nothing was changed; check who owns it.") from None
    except OSError as error:
        known = _SAID.get(error.errno or 0)
        raise Failed(known or f"{about} cannot be used ({error.strerror or error}). Nothing was changed.") from None


def megabytes(size: int) -> str:
    """A size in bytes as people read it."""
    if size < 1_000_000:
        return f"{max(size, 1) / 1000:.0f} kB"
    return f"{size / 1_000_000:.1f} MB" if size < 1_000_000_000 else f"{size / 1_000_000_000:.2f} GB"
