"""A draft's list as something to print or send: CSV (RFC 4180) and CommonMark."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from .model import Entry, Mod, Pack, Side

_HEAD = ("name", "mod", "version", "side", "licence", "size in bytes", "sha256", "page", "pin", "note")
# What a spreadsheet would take for a formula.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True, kw_only=True)
class Row:
    """One entry of a list."""

    name: str
    mod: str
    version: str
    side: str
    licence: str
    size: int
    sha256: str
    page: str
    pin: str
    note: str

    @staticmethod
    def of(entry: Entry, mod: Mod | None) -> "Row":
        """The row of an entry; a mod that the catalogue does not have is called by its slug."""
        build = mod.build(entry.version) if mod else None
        file = build.file if build else None
        sides = entry.sides or (mod.sides if mod else None)
        on = [side for side in Side if sides is None or sides.on(side)]
        return Row(
            name=mod.name if mod else entry.mod,
            mod=entry.mod,
            version=entry.version or "any",
            side="both" if len(on) == 2 else "".join(on),
            licence=(mod.licence if mod else None) or "",
            size=file.size if file else 0,
            sha256=(file.sha256 if file else None) or "",
            page=(mod.page if mod else None) or "",
            pin=entry.pin.reason if entry.pin else "",
            note=entry.note,
        )


def as_csv(rows: Sequence[Row]) -> str:
    """The list as CSV with a heading; texts that a spreadsheet would run are made harmless."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(_HEAD)
    for row in rows:
        cells = (
            row.name,
            row.mod,
            row.version,
            row.side,
            row.licence,
            row.size,
            row.sha256,
            row.page,
            row.pin,
            row.note,
        )
        writer.writerow([_harmless(cell) for cell in cells])
    return out.getvalue()


def _harmless(cell: str | int) -> str | int:
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(_FORMULA) else cell


def as_markdown(pack: Pack, rows: Sequence[Row]) -> str:
    """The list as CommonMark: one line for each entry, so that it can be pasted into any message."""
    loader = f", {pack.loader.slug} {pack.loader.version or ''}".rstrip() if pack.loader else ""
    lines = [f"# {_plain(pack.name)}", "", f"{pack.game} {pack.game_version}{loader}, {len(rows)} entries", ""]
    for row in rows:
        name = f"[{_plain(row.name)}]({row.page})" if row.page.startswith(("http://", "https://")) else _plain(row.name)
        lines.append(f"- {name} {row.version}")
    return "\n".join(lines) + "\n"


def _plain(text: str) -> str:
    """A text in which nothing is read as markup."""
    return "".join(f"\\{c}" if c in "\\`*_[]<>#|" else c for c in text).replace("\n", " ")
