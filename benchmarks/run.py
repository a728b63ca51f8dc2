"""Measures what README.md in this folder lists, as ratios to yardsticks in the same run."""

import argparse
import hashlib
import os
import platform
import random
import shutil
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, date, datetime
from pathlib import Path

import msgspec
from rich.console import Console

from true_convoy.agent.apply import bring_to, take_in_files, take_stock
from true_convoy.agent.folder import RigFolder
from true_convoy.agent.store import Store
from true_convoy.core import documents
from true_convoy.core.model import Build, BuildFile, Catalogue, Entry, Game, GameVersion, LoaderChoice, Mod, Pack, Side
from true_convoy.core.release import freeze
from true_convoy.core.resolve import Resolved, resolve
from true_convoy.core.sync import wanted_files

ROOT = Path(__file__).resolve().parent.parent
RUNS = 7
Figures = list[tuple[str, list[float], list[float]]]
QUIET = Console(stderr=True, quiet=True)


def timed(work: Callable[[], object], runs: int = RUNS, before: Callable[[], object] = lambda: None) -> list[float]:
    """Seconds of each of several runs; ``before`` prepares each and is not counted."""
    taken = []
    for _ in range(runs):
        before()
        begun = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begun)
    return taken


def solver() -> Figures:
    data = (ROOT / "var" / "standin" / "catalogue.json").read_bytes()
    catalogue = documents.read(Catalogue, data).value
    loader = LoaderChoice(slug="keel", version="0.9.3")
    slugs, chosen = sorted(mod.slug for mod in catalogue.mods), []

    def pack(mods: list[str]) -> Pack:
        entries = tuple(Entry(mod=mod) for mod in mods)
        return Pack(slug="p", name="P", game="tidewrack", game_version="2.4.1", loader=loader, entries=entries)

    for slug in slugs:
        if isinstance(resolve(pack([*chosen, slug]), catalogue), Resolved):
            chosen.append(slug)
    largest = pack(chosen)
    read = timed(lambda: documents.read(Catalogue, data))
    return [
        (f"solver, calm, {len(chosen)} roots of the demo", timed(lambda: resolve(largest, catalogue)), read),
        ("solver, newest, the same", timed(lambda: resolve(largest, catalogue, newest=True)), read),
    ]


def _forty_mods(folder: Path) -> tuple[Catalogue, Pack]:
    """Forty mods of 12.5 MB each, their files in ``folder``."""
    chance, mods = random.Random(5), []
    for number in range(40):
        data = chance.randbytes(12_500_000)
        (folder / f"{number}.zip").write_bytes(data)
        file = BuildFile(name=f"{number}.zip", size=len(data), sha256=hashlib.sha256(data).hexdigest(), url="http://x/")
        mods.append(Mod(slug=f"m{number}", game="g", name=f"M{number}", builds=(Build(version="1.0.0", file=file),)))
    game = Game(slug="g", name="G", versions=(GameVersion(label="1"),))
    entries = tuple(Entry(mod=mod.slug) for mod in mods)
    pack = Pack(slug="p", name="P", game="g", game_version="1", entries=entries)
    return Catalogue(games=(game,), mods=tuple(mods)), pack


def place() -> Figures:
    with tempfile.TemporaryDirectory(dir=ROOT / "var") as name:
        top = Path(name)
        source, full, rig = top / "source", Store(top / "full"), top / "rig"
        source.mkdir()
        catalogue, pack = _forty_mods(source)
        release = freeze(pack, catalogue, version="1.0.0", published=datetime(2026, 1, 1, tzinfo=UTC))
        document = documents.write(release)
        wanted = list(wanted_files(release, Side.CLIENT).values())

        def fresh() -> None:
            shutil.rmtree(rig, ignore_errors=True)
            shutil.rmtree(top / "empty", ignore_errors=True)
            rig.mkdir()
            os.sync()

        def copy() -> None:
            for file in sorted(source.iterdir()):
                shutil.copyfile(file, rig / file.name)
                with (rig / file.name).open("rb") as opened:
                    hashlib.file_digest(opened, "sha256")

        def bring(store: Store) -> None:
            folder = RigFolder(rig)
            with folder.opened():
                take_in_files(source, wanted, store)
                bring_to(folder, release, document, take_stock(folder, release, Side.CLIENT, (), ()), store, QUIET)

        yardstick = timed(copy, 5, fresh)
        fresh()
        bring(full)
        placed = timed(lambda: bring(full), 5, fresh)
        first = timed(lambda: bring(Store(top / "empty")), 5, fresh)
        fresh()
        bring(full)
        # Files changed within the last two seconds are read again, because a later change might not show.
        time.sleep(2.1)
        bring(full)
        again = timed(lambda: bring(full), 5)
        return [
            ("place 40 mods (500 MB), store full", placed, yardstick),
            ("place 40 mods (500 MB), store empty, files at hand", first, yardstick),
            ("second sync, nothing to do", again, yardstick),
        ]


def search() -> Figures:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "true_convoy.server.settings")
    os.environ.setdefault("CONVOY_DB_HOST", str(ROOT / "var" / "run" / "pg"))
    import django

    django.setup()
    from true_convoy.server.catalogue import queries
    from true_convoy.server.catalogue.models import Mod as ModRow

    texts = ["buoy", "bouy", "deep chart", "light", "rope", "sail", "pell aristide", "weather", "crew", "zzz"] * 10
    first = ModRow.objects.values_list("pk", flat=True)[0]

    def percentile(taken: list[float]) -> list[float]:
        return [statistics.quantiles(taken, n=20)[-1]]

    found, looked_up = [], []
    for _ in range(RUNS):
        found += percentile(
            [s for text in texts for s in timed(lambda t=text: list(queries.search("tidewrack", t)[:30]), 1)]
        )
        looked_up += percentile(timed(lambda: ModRow.objects.get(pk=first), len(texts)))
    return [("catalogue search on the demo, 95th percentile", found, looked_up)]


ALL = {"solver": solver, "place": place, "search": search}


def table(figures: Figures) -> str:
    lines = ["| what | ratio to the yardstick | median | spread | yardstick |", "| --- | ---: | ---: | ---: | ---: |"]
    for what, taken, yardstick in figures:
        ratio = statistics.median(taken) / statistics.median(yardstick)
        spread = f"{min(taken) * 1000:.1f} to {max(taken) * 1000:.1f} ms"
        middle = f"{statistics.median(taken) * 1000:.1f} ms"
        lines.append(f"| {what} | {ratio:.3f} | {middle} | {spread} | {statistics.median(yardstick) * 1000:.1f} ms |")
    return "\n".join(lines)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*", help=", ".join(ALL))
    parser.add_argument("--write", action="store_true", help="write docs/benchmarks.md")
    given = parser.parse_args()
    figures = [figure for name in given.names or ALL for figure in ALL[name]()]
    cores = os.cpu_count()
    machine = f"{platform.machine()}, {cores} cores, {platform.system()}, Python {platform.python_version()}"
    text = (
        f"# Benchmarks\n\nMeasured on {date.today()}: {machine}, msgspec {msgspec.__version__}. "
        "What each line means stands in `benchmarks/README.md`; the ratio is what counts, the times are this "
        f"machine's.\n\n{table(figures)}\n"
    )
    if given.write:
        (ROOT / "docs" / "benchmarks.md").write_text(text)
    sys.stdout.write(text)


if __name__ == "__main__":
    main()
