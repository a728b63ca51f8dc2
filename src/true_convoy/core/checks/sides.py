"""Which half of the game gets what, and how far mods are felt."""

from collections.abc import Iterator

from ..edits import SetFair, SetSides
from ..model import Need, Reach, Side
from . import mends
from .finding import Found, Grade
from .situation import Situation


def about_entry(situation: Situation, slug: str) -> Iterator[Found]:
    """Whether an entry goes to the sides its mod supports and needs."""
    entry, mod = situation.entries.get(slug), situation.mods.get(slug)
    if entry is None or mod is None or entry.sides is None:
        return
    as_the_mod_says = [SetSides(mod=slug, sides=None)]
    for side in Side:
        asked = mod.sides.client if side is Side.CLIENT else mod.sides.server
        if entry.sides.on(side) and asked is Need.UNSUPPORTED:
            yield Found(
                code="client-only-on-server" if side is Side.SERVER else "server-only-on-client",
                grade=Grade.STOP,
                mods=(slug,),
                message=f"{mod.name} cannot run on a {side}, and the draft puts it there.",
                effect=f"The {side} does not start.",
                facts=(str(entry.sides),),
                mends=lambda: [mends.fix(f"Put {mod.name} where its author says", as_the_mod_says, safe=True)],
            )
        if not entry.sides.on(side) and asked is Need.REQUIRED:
            yield Found(
                code="server-half-missing" if side is Side.SERVER else "client-half-missing",
                grade=Grade.STOP,
                mods=(slug,),
                message=f"{mod.name} must be on the {side} too, and the draft leaves it away there.",
                effect="Players cannot join, or do not see what others do.",
                facts=(str(entry.sides),),
                mends=lambda: [mends.fix(f"Put {mod.name} where its author says", as_the_mod_says, safe=True)],
            )


def reach(situation: Situation) -> Iterator[Found]:
    """Mods that change progression in a pack that says it plays fair."""
    for slug in situation.entries if situation.pack.fair else ():
        mod = situation.mods.get(slug)
        if mod is not None and mod.reach is Reach.PROGRESS:
            yield Found(
                code="progress-reach",
                grade=Grade.CAUTION,
                mods=(slug,),
                message=f"{mod.name} changes progression, and the pack says that it plays fair.",
                effect="Worlds played with it do not compare with others.",
                mends=lambda slug=slug: [  # type: ignore[misc]
                    mends.turn_off(situation, slug),
                    mends.fix("No longer say that the pack plays fair", [SetFair(fair=False)]),
                ],
            )
