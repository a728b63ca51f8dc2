"""Which paths may be written below a rig's folder. Every path from an archive or document goes through here.

A path is refused if any common system would read it as leading elsewhere or as a device, or could not hold it:
absolute, drive letters, ``..``, backslashes, control and direction-changing characters, Windows device names
(also with an extension), parts that end in a dot or space, parts over 255 bytes, and our own ``.convoy`` folder.
"""

import fnmatch
import re
import unicodedata
from collections.abc import Iterable
from functools import lru_cache

from .errors import UnsafePath

OWN_FOLDER = ".convoy"
MAX_PATH = 1000
_DEVICES = re.compile(r"(?:con|prn|aux|nul|clock\$|conin\$|conout\$|com[0-9¹²³]|lpt[0-9¹²³])(?:\..*)?", re.IGNORECASE)
_FORBIDDEN = set('<>:"|?*\\')


def safe_path(text: str) -> str:
    """The path as given, with ``/`` between parts, if it is safe. Raises UnsafePath with the reason if not."""
    if not text or len(text) > MAX_PATH:
        raise UnsafePath("A file path is empty or far too long.")
    shown = text.encode("unicode_escape").decode()[:120]
    if any(unicodedata.category(character) in ("Cc", "Cf", "Cs") for character in text):
        raise UnsafePath(f'The path "{shown}" holds invisible or direction-changing characters.')
    if bad := sorted(_FORBIDDEN & set(text)):
        raise UnsafePath(f'The path "{shown}" holds "{bad[0]}", which some systems read as something else.')
    if text.startswith("/"):
        raise UnsafePath(f'The path "{shown}" does not start inside the folder.')
    for part in text.split("/"):
        if part in ("", ".", ".."):
            raise UnsafePath(f'The path "{shown}" leads out of the folder or has an empty part.')
        if part[-1] in ". " or part[0] == " ":
            raise UnsafePath(f'The path "{shown}" has a part that begins with a space or ends in a dot or space.')
        if _DEVICES.fullmatch(part):
            raise UnsafePath(f'The path "{shown}" uses the device name "{part}".')
        if len(part.encode()) > 255:
            raise UnsafePath(f'The path "{shown}" has a part that is too long.')
    if text.split("/")[0].casefold() == OWN_FOLDER:
        raise UnsafePath(f'The path "{shown}" is in the folder that True Convoy keeps for itself.')
    return text


@lru_cache(maxsize=1024)
def _glob(pattern: str) -> re.Pattern[str]:
    """A glob where ``*`` stays inside one part and ``**`` crosses parts; a trailing ``/`` means all below."""
    if pattern.endswith("/"):
        pattern += "**"
    out, i = "", 0
    while i < len(pattern):
        if pattern.startswith("**/", i):
            out, i = out + "(?:.*/)?", i + 3
        elif pattern.startswith("**", i):
            out, i = out + ".*", i + 2
        elif pattern[i] == "*":
            out, i = out + "[^/]*", i + 1
        elif pattern[i] == "?":
            out, i = out + "[^/]", i + 1
        elif pattern[i] == "[" and (end := pattern.find("]", i + 1)) > 0:
            out, i = out + fnmatch.translate(pattern[i : end + 1])[4:-3], end + 1
        else:
            out, i = out + re.escape(pattern[i]), i + 1
    return re.compile(out, re.DOTALL)


def glob_matches(path: str, patterns: Iterable[str]) -> bool:
    """Whether a path is meant by one of some globs."""
    return any(_glob(pattern).fullmatch(path) for pattern in patterns)


def rules_keep(path: str, keep: tuple[str, ...], drop: tuple[str, ...]) -> bool:
    """Whether path rules let a file through: kept by some ``keep`` glob (none means all) and dropped by no ``drop``."""
    return (not keep or glob_matches(path, keep)) and not glob_matches(path, drop)
