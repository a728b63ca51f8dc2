"""Following a pack: join, sync, status, keep and leave."""

import os
import platform
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from msgspec.structs import replace
from rich.console import Console

from true_convoy.core.model import Inventory, Machine, Release, Side
from true_convoy.core.paths import safe_path
from true_convoy.core.state import Comparison, State, compare_inventory, state_of
from true_convoy.core.sync import left_out

from .apply import Outcome, bring_to, take_stock
from .folder import RigFolder
from .problems import Failed
from .remote import Remote
from .store import Store


@dataclass(frozen=True, kw_only=True)
class Status:
    """How a rig stands: its state, what it is on, what it should be on (None: the server could not be asked)."""

    state: State
    on: Release | None
    target: str | None
    comparison: Comparison


class Rig:
    """A folder that follows a pack. ``facts`` is its record: server, token, side, keepsakes, what it goes without."""

    def __init__(self, folder: RigFolder, store: Store, console: Console) -> None:
        self.folder, self.store, self.console = folder, store, console
        facts = folder.record("rig")
        if facts is None:
            raise Failed(f"{folder.root} does not follow a pack. Join one with its boarding code first.")
        self.facts: dict[str, Any] = facts
        self.side = Side(facts["side"])
        self.remote = Remote(facts["server"], facts["token"])

    @staticmethod
    def join(folder: RigFolder, server: str, code: str, name: str, side: Side) -> dict[str, Any]:
        """Boards with a code and writes the rig's record. Raises Failed if the folder follows a pack already."""
        known = folder.record("rig")
        if known is not None:
            raise Failed(f"{folder.root} follows {known['pack_name']} already. Leave it first, or use another folder.")
        aboard = Remote(server).board(code, name, side)
        facts = {
            "server": server,
            "token": aboard["token"],
            "pack": aboard["pack"],
            "pack_name": aboard["name"],
            "side": side,
            "keepsakes": [],
            "without": [],
        }
        folder.write_record("rig", facts, mode=0o600)
        return aboard

    def sync(self) -> tuple[Release, Outcome, Status]:
        """Brings the folder to the pack's release and reports. A report that fails does not undo the sync."""
        on = self.folder.release()
        fresh = self.remote.release(on.digest if on else None)
        if fresh is not None:
            release, document = fresh
        elif on is not None:
            release, document = on, (self.folder.own / "release.json").read_bytes()
        else:
            raise Failed("The server has nothing for this rig. Nothing was changed.")
        inventory = self._stock(release)
        outcome = bring_to(self.folder, release, document, inventory, self.store, self.console)
        after = self.inventory(release)
        self._report(after)
        comparison = compare_inventory(after, release)
        state = state_of(comparison, release.digest, None, datetime.now(UTC))
        return release, outcome, Status(state=state, on=release, target=release.digest, comparison=comparison)

    def status(self) -> Status:
        """How the rig stands now; also reported. Without the server, against the release it knows."""
        on = self.folder.release()
        target: str | None = None
        try:
            target = self.remote.about()["target"]
        except Failed as problem:
            self.console.print(f"[yellow]{problem}[/] This is how the folder stands to the release it knows.")
        comparison = Comparison(release=None, strayed=(), awaited=(), open_steps=())
        if on is not None:
            inventory = self.inventory(on)
            comparison = compare_inventory(inventory, on)
            if target is not None:
                self._report(inventory)
        wanted = target or (on.digest if on else None)
        state = state_of(comparison, wanted, None, datetime.now(UTC))
        return Status(state=state, on=on, target=target, comparison=comparison)

    def inventory(self, release: Release) -> Inventory:
        """What the folder has of the release it is on, with facts of the machine."""
        inventory = self._stock(release)
        out = left_out(release, inventory)
        optional = tuple(e.mod for e in release.entries if e.optional and e.mod not in out)
        return replace(
            inventory,
            release=release.digest,
            taken=datetime.now(UTC).replace(microsecond=0),
            optional=optional,
            machine=Machine(system=platform.system(), memory_mib=_memory_mib()),
        )

    def _stock(self, release: Release) -> Inventory:
        facts = self.facts
        said = (facts["keepsakes"], facts["without"], facts.get("taking", ()))
        return take_stock(self.folder, release, self.side, *said)

    def keep(self, path: str, *, kept: bool) -> None:
        """Makes a file a keepsake, or lets it go. Raises UnsafePath if it is not inside the folder."""
        keepsakes = set(self.facts["keepsakes"])
        (keepsakes.add if kept else keepsakes.discard)(safe_path(path))
        self.facts["keepsakes"] = sorted(keepsakes)
        self.folder.write_record("rig", self.facts, mode=0o600)

    def go_without(self, mod: str, *, without: bool) -> None:
        """Leaves an optional entry out from the next sync on, or takes it again."""
        chosen = set(self.facts["without"])
        (chosen.add if without else chosen.discard)(mod)
        self.facts["without"] = sorted(chosen)
        others = [other for other in self.facts.get("taking", ()) if other != mod]
        self.facts["taking"] = others if without else [mod, *others]
        self.folder.write_record("rig", self.facts, mode=0o600)

    def leave(self, *, keep_files: bool) -> str:
        """Signs off and, unless they are to stay, sets aside what convoy placed. Gives the folder that holds it."""
        self.remote.leave()
        aside = ""
        if not keep_files:
            unaltered = self.folder.placed().items() & {f.path: f.sha256 for f in self.folder.stocktake()}.items()
            aside = self.folder.change([path for path, _ in sorted(unaltered)], {}, {}, b"{}")
        for name in ("rig", "release", "placed", "hashes"):
            (self.folder.own / f"{name}.json").unlink(missing_ok=True)
        return aside

    def _report(self, inventory: Inventory) -> None:
        try:
            self.remote.report(inventory)
        except Failed as problem:
            self.console.print(f"[yellow]The folder is as it should be, but the report failed: {problem}[/]")


def _memory_mib() -> int | None:
    try:
        return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // (1024 * 1024)
    except (ValueError, OSError, AttributeError):
        return None
