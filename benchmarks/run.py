"""Measures what README.md in this folder lists, as ratios to yardsticks in the same run."""

import argparse
import hashlib
import os
import platform
import random
import shutil
import signal
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, date, datetime
from multiprocessing import get_context
from pathlib import Path

import msgspec
from rich.console import Console

from true_convoy.agent.apply import bring_to, take_in_files, take_stock
from true_convoy.agent.folder import RigFolder
from true_convoy.agent.store import Store
from true_convoy.core import documents
from true_convoy.core.checks import check
from true_convoy.core.fit_table import fit_table
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


def rival() -> Figures:
    """Against resolvelib on the same universes; a run that takes longer than the limit counts as the limit."""
    import rival as other
    import universe

    limit, found = 10, []
    for make in (universe.chains, universe.fans, universe.cores):
        for roots in (100, 400, 1000):
            made = make(roots)
            mine = timed(lambda u=made: resolve(u.pack, u.catalogue, newest=True), 3)
            theirs, within = _limited(lambda u=made: other.answer(u.pack, u.catalogue), limit)
            note = "" if within else f" (yardstick stopped after {limit} s)"
            found.append((f"resolve, {made.name}, {len(made.catalogue.mods)} mods{note}", mine, [theirs]))
    return found


def _limited(work: Callable[[], object], seconds: int) -> tuple[float, bool]:
    """Seconds that some work takes, and whether it came to its end within the limit."""

    def stop(*_: object) -> None:
        raise TimeoutError

    signal.signal(signal.SIGALRM, stop)
    signal.alarm(seconds)
    begun = time.perf_counter()
    try:
        work()
        return time.perf_counter() - begun, True
    except TimeoutError:
        return float(seconds), False
    finally:
        signal.alarm(0)


def checks() -> Figures:
    """Findings, fit table and a move for 400 entries of a generated universe, in memory."""
    import universe

    made = universe.fans(400)
    answer = resolve(made.pack, made.catalogue, newest=True)
    assert isinstance(answer, Resolved)
    entries = tuple(Entry(mod=slug, version=version, chosen=False) for slug, version in answer.builds.items())
    roots = {entry.mod for entry in made.pack.entries}
    entries = tuple(msgspec.structs.replace(entry, chosen=entry.mod in roots) for entry in entries)
    draft = msgspec.structs.replace(made.pack, entries=entries)
    broken = msgspec.structs.replace(draft, entries=tuple(e for e in entries if e.mod != "l1-0"))
    read = timed(lambda: resolve(draft, made.catalogue))
    return [
        (f"check, {len(entries)} entries, nothing wrong", timed(lambda: check(draft, made.catalogue)), read),
        ("check, the same with a library missing", timed(lambda: check(broken, made.catalogue)), read),
        ("fit table, the same", timed(lambda: fit_table(draft, made.catalogue)), read),
    ]


def large() -> Figures:
    """Extract and solve for 400 entries out of 50,000 mods and 1,000,000 builds in PostgreSQL."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "true_convoy.server.settings")
    os.environ.setdefault("CONVOY_DB_HOST", str(ROOT / "var" / "run" / "pg"))
    import large as catalogue

    catalogue.use()
    from true_convoy.server.catalogue import queries, readings
    from true_convoy.server.catalogue.models import Mod as ModRow

    slugs = [f"m{number}" for number in range(1000, 49_000, 120)]
    keel = LoaderChoice(slug="keel", version=None)
    entries = tuple(Entry(mod=slug) for slug in slugs)
    pack = Pack(slug="p", name="P", game="g", game_version="2.4", loader=keel, entries=entries)
    looked_up = timed(lambda: ModRow.objects.get(pk=40_000))

    def both() -> None:
        assert isinstance(resolve(pack, queries.extract("g", slugs)), Resolved)

    extracted = timed(lambda: queries.extract("g", slugs), before=readings._KEPT.clear)
    again = timed(both)
    name = f"{len(slugs)} entries from 1,000,000 builds"
    return [
        (f"extract, {name}", extracted, looked_up),
        (f"extract and resolve, {name}", timed(both, before=readings._KEPT.clear), looked_up),
        ("the same again, as while somebody works on the draft", again, looked_up),
        *_searches("g", pack, LARGE_TEXTS, "50,000 mods", looked_up),
    ]


TEXTS = ["buoy", "bouy", "deep chart", "light", "rope", "sail", "pell aristide", "weather", "crew", "zzz"]
LARGE_TEXTS = [
    "buoys",
    "bouys",
    "deep chart",
    "lantern",
    "quiet harbour bell",
    "libary",
    "author 77",
    "",
    "wint",
    "zzzz",
]


def _searches(game: str, pack: Pack, texts: list[str], among: str, yardstick: list[float]) -> Figures:
    """The 95th percentile of searches with all facets counted, and with each result held against a draft."""
    from true_convoy.server.catalogue import queries
    from true_convoy.server.catalogue.fitting import draft_clashes, fit_of
    from true_convoy.server.catalogue.memory import memory_of
    from true_convoy.server.catalogue.models import Game as GameRow
    from true_convoy.server.catalogue.models import Mod as ModRow
    from true_convoy.server.catalogue.search import Asked, search

    chosen = [{}, {"category": ["weather"]}, {"loader": ["keel"], "version": [pack.game_version]}, {"side": ["both"]}]
    asked = [Asked(game=game, text=text, chosen=one, pack=pack) for text in texts for one in chosen]
    definition, clashes = queries.game_value(game), draft_clashes(pack)

    def whole(one: Asked) -> None:
        rows = ModRow.objects.defer("search", "keys", "grounds").in_bulk(search(one).keys)
        values = queries.with_builds(game, [row.slug for row in rows.values()])
        for row in rows.values():
            fit_of(values[row.slug], pack, definition, clashes)

    search(asked[0])
    # Texts that were asked lately are remembered, which is not to be measured.
    forget = memory_of(GameRow.objects.get(slug=game).pk).texts.clear
    figures = []
    for what, work in (("search with facets", search), ("the same, with whether each result fits a draft", whole)):
        found = [
            statistics.quantiles([s for one in asked for s in timed(lambda o=one, w=work: w(o), 1, forget)], n=20)[-1]
            for _ in range(5)
        ]
        figures.append((f"{what}, {among}, 95th percentile", found, yardstick))
    return figures


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
    from true_convoy.core import recognise
    from true_convoy.server.catalogue.models import Mod as ModRow
    from true_convoy.server.catalogue.search import directory

    first = ModRow.objects.values_list("pk", flat=True)[0]
    looked_up = timed(lambda: ModRow.objects.get(pk=first), 50)
    keel = LoaderChoice(slug="keel", version="0.9.3")
    pack = Pack(slug="p", name="P", game="tidewrack", game_version="2.4.1", loader=keel, entries=())
    names = list(ModRow.objects.filter(game__slug="tidewrack").values_list("name", flat=True))
    text = "\n".join([*names, *(f"{name} thingy" for name in names), *(f"https://x.example/{n}" for n in names)][:200])

    def pasted() -> None:
        lines = recognise.read(text)
        recognise.recognise(lines, directory("tidewrack", lines, ()), pack)

    return [
        *_searches("tidewrack", pack, TEXTS, "the demo", looked_up),
        ("200 pasted lines recognised, a third of them unknown", timed(pasted), looked_up),
    ]


ALL = {"solver": solver, "rival": rival, "checks": checks, "place": place, "search": search}
ALONE = {"large": large}


def pace() -> float:
    """Seconds of ten million turns of an empty loop: how fast this machine is just now."""
    begun = time.perf_counter()
    for _ in range(10_000_000):
        pass
    return time.perf_counter() - begun


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
    parser.add_argument("names", nargs="*", help=", ".join(ALL | ALONE))
    parser.add_argument("--write", action="store_true", help="write docs/benchmarks.md")
    given = parser.parse_args()
    paces = [pace()]
    # Each in a process of its own: the large catalogue is in another database than the demo.
    with ProcessPoolExecutor(1, mp_context=get_context("spawn"), max_tasks_per_child=1) as processes:
        figures = []
        for name in given.names or ALL:
            figures += processes.submit((ALL | ALONE)[name]).result()
            paces.append(pace())
    cores = os.cpu_count()
    machine = f"{platform.machine()}, {cores} cores, {platform.system()}, Python {platform.python_version()}"
    text = (
        f"# Benchmarks\n\nMeasured on {date.today()}: {machine}, msgspec {msgspec.__version__}. "
        "What each line means stands in `benchmarks/README.md`; the ratio is what counts, the times are this "
        f"machine's, which took {min(paces):.2f} to {max(paces):.2f} s for an empty loop of ten million turns between "
        f"the measurements.\n\n{table(figures)}\n"
    )
    if given.write:
        (ROOT / "docs" / "benchmarks.md").write_text(text)
    sys.stdout.write(text)


if __name__ == "__main__":
    main()
