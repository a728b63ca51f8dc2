"""Everything the core can refuse, with a common root. Each carries one sentence for the person who caused it."""


class ConvoyError(Exception):
    """Root of all errors a person can cause; ``str(error)`` is a sentence to show to that person."""


class DocumentError(ConvoyError):
    """A document cannot be read. ``path`` is the JSON path of the place, such as ``$.mods[3].slug``."""

    def __init__(self, path: str, problem: str) -> None:
        super().__init__(f"{path}: {problem}.")
        self.path = path
        self.problem = problem


class RangeError(ConvoyError):
    """A version range is not valid VERS."""


class UnsafePath(ConvoyError):
    """A path that would leave the rig's folder, or that some system cannot hold."""


class EditRefused(ConvoyError):
    """An edit does not apply to the pack it was made for."""


class FreezeRefused(ConvoyError):
    """A draft cannot become a release as it stands."""
