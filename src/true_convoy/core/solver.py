"""A conflict-driven version solver in the manner of the published PubGrub algorithm, with a narrow door.

The engine knows names and candidates, nothing of packages. A caller implements ``Provider``; the answer is a
``Solution`` or a ``Contradiction`` that carries the rules that cannot all hold.

What a name may still be is its *domain*, a bit set: bit 0 says "absent", bit ``i + 1`` is candidate ``i``, best first.
A *term* is a name with a bit set; it holds when the domain lies inside the set. A *rule* is an incompatibility: its
terms must never all hold. The search:

1. Unit propagation: where all terms of a rule but one hold, the domain of that one loses its bits.
2. When nothing propagates, decide a name that must be present: its best remaining candidate. When all are decided,
   decide an option of a need that is still open.
3. When all terms of a rule hold, resolve it with the causes of the latest assignments until only one term belongs
   to the current decision level; learn the result, take back one level (more only where the result asks for it, since
   what lies between mostly has nothing to do with it), go on.
4. A conflict without any decision is a contradiction; the original rules it was derived from are its causes, reduced
   to a set from which none can be left out.
5. A solution is polished: what nothing needs goes, and each name takes the best candidate that the rest allows.
"""

import gc
from collections.abc import Collection, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Generic, Protocol, TypeVar

ABSENT = 1
Term = tuple[str, int]
Reason = TypeVar("Reason")


@dataclass(frozen=True, eq=False)
class Rule(Generic[Reason]):
    """Terms that must never all hold. A need also says which term calls for it (None: always), and what meets it."""

    terms: tuple[Term, ...]
    reason: Reason
    when: Term | None = None
    options: tuple[Term, ...] = ()


def bit(index: int) -> int:
    """The bit of candidate ``index``."""
    return 1 << (index + 1)


def need(when: Term | None, options: Sequence[Term], reason: Reason) -> Rule[Reason]:
    """When a term holds (or always), one of the options must: present, at one of its candidates."""
    if len(options) == 1 and when is not None and options[0][0] != when[0]:
        return Rule((when, (options[0][0], ~options[0][1])), reason, when, tuple(options))
    meant: dict[str, int] = {}
    for name, allowed in options:
        meant[name] = meant.get(name, 0) | allowed
    terms = {name: ~allowed for name, allowed in meant.items()}
    if when is not None:
        terms[when[0]] = when[1] & terms.get(when[0], -1)
    return Rule(terms=tuple(terms.items()), reason=reason, when=when, options=tuple(options))


def avoid(one: Term, other: Term, reason: Reason) -> Rule[Reason]:
    """Two terms that must not both hold."""
    return Rule(terms=(one, other), reason=reason)


class Provider(Protocol[Reason]):
    """All that a caller implements."""

    def count(self, name: str) -> int:
        """How many candidates a name has; they are numbered from 0, best first."""

    def roots(self) -> Iterable[Rule[Reason]]:
        """The rules that hold from the start."""

    def rules(self, name: str, index: int) -> Iterable[Rule[Reason]]:
        """The rules that matter once a candidate is chosen. One that several candidates share is the same object."""


@dataclass(frozen=True)
class Solution:
    """The candidate number of each name that is present."""

    chosen: dict[str, int]


@dataclass(frozen=True)
class Contradiction(Generic[Reason]):
    """Rules that cannot all hold, none of which can be left out."""

    rules: tuple[Rule[Reason], ...]


@dataclass(eq=False)
class _Step(Generic[Reason]):
    """One assignment on the trail; a decision has no cause."""

    name: str
    before: int
    after: int
    level: int
    position: int
    cause: "_Clause[Reason] | None"


@dataclass(eq=False)
class _Clause(Generic[Reason]):
    """A rule in the search: an original one, or one learned from two others."""

    terms: dict[str, int]
    origin: Rule[Reason] | None = None
    parents: tuple["_Clause[Reason]", ...] = ()


@dataclass(eq=False)
class _UnsatisfiableError(Exception, Generic[Reason]):
    clause: _Clause[Reason]


@dataclass
class _Search(Generic[Reason]):
    provider: Provider[Reason]
    only: Collection[Rule[Reason]] | None = None
    domains: dict[str, int] = field(default_factory=dict)
    steps: dict[str, list[_Step[Reason]]] = field(default_factory=dict)
    trail: list[_Step[Reason]] = field(default_factory=list)
    by_name: dict[str, list[_Clause[Reason]]] = field(default_factory=dict)
    originals: dict[str, list[Rule[Reason]]] = field(default_factory=dict)
    known: set[Rule[Reason]] = field(default_factory=set)
    loaded: set[Term] = field(default_factory=set)
    open_needs: list[Rule[Reason]] = field(default_factory=list)
    # Names that have had to be present, in the order they were met; those before the cursor need no decision now.
    order: list[str] = field(default_factory=list)
    met: dict[str, int] = field(default_factory=dict)
    cursor: int = 0
    changed: list[str] = field(default_factory=list)
    level: int = 0

    # --- state -------------------------------------------------------------------------------------------------

    def domain(self, name: str) -> int:
        found = self.domains.get(name)
        if found is None:
            found = self.domains[name] = (1 << (self.provider.count(name) + 1)) - 1
        return found

    def assign(self, name: str, after: int, cause: _Clause[Reason] | None) -> None:
        step = _Step(name, self.domain(name), after, self.level, len(self.trail), cause)
        self.domains[name] = after
        self.revisit(name)
        self.steps.setdefault(name, []).append(step)
        self.trail.append(step)
        self.changed.append(name)

    def revisit(self, name: str) -> None:
        self.cursor = min(self.cursor, self.met.get(name, self.cursor))

    def add(self, clause: _Clause[Reason]) -> None:
        for name in clause.terms:
            self.by_name.setdefault(name, []).append(clause)

    def add_rules(self, rules: Iterable[Rule[Reason]]) -> None:
        for rule in rules:
            if rule in self.known:
                continue
            self.known.add(rule)
            clause = _Clause(terms=dict(rule.terms), origin=rule)
            self.add(clause)
            for name in clause.terms:
                self.originals.setdefault(name, []).append(rule)
            if len(rule.options) > 1:
                self.open_needs.append(rule)
            self.consider(clause)

    def meet(self, name: str, domain: int) -> None:
        """Notes a name that must be present; once its candidate is settled, brings in the candidate's rules.

        They stay, whatever is taken back.
        """
        if name not in self.met:
            self.met[name] = len(self.order)
            self.order.append(name)
        if not domain & (domain - 1):
            self.load(name, domain)

    def load(self, name: str, candidate: int) -> None:
        if (name, candidate) not in self.loaded and candidate:
            self.loaded.add((name, candidate))
            if self.only is None:
                self.add_rules(self.provider.rules(name, candidate.bit_length() - 2))

    # --- search ------------------------------------------------------------------------------------------------

    def run(self) -> None:
        self.add_rules(self.provider.roots() if self.only is None else self.only)
        self.propagate()
        while (decision := self.next_decision()) is not None:
            self.level += 1
            self.assign(*decision, None)
            self.propagate()

    def next_decision(self) -> Term | None:
        while self.cursor < len(self.order):
            name = self.order[self.cursor]
            domain = self.domains[name]
            if not domain & ABSENT and domain & (domain - 1):
                return name, domain & -domain
            self.cursor += 1
        for rule in self.open_needs:
            if any(self.domain(name) & mask == 0 for name, mask in rule.terms):
                continue
            if rule.when is not None and self.domain(rule.when[0]) & ~rule.when[1]:
                continue
            for name, allowed in rule.options:
                if left := self.domain(name) & allowed & ~ABSENT:
                    return name, left & -left
        return None

    def propagate(self) -> None:
        while self.changed:
            name = self.changed.pop()
            domain = self.domain(name)
            if not domain & ABSENT:
                self.meet(name, domain)
            for clause in tuple(self.by_name.get(name, ())):
                self.consider(clause)

    def consider(self, clause: _Clause[Reason]) -> None:
        """Unit propagation of one clause; resolves the conflict if all its terms hold."""
        open_term = None
        known = self.domains
        for name, mask in clause.terms.items():
            domain = known[name] if name in known else self.domain(name)
            common = domain & mask
            if common == domain:
                continue
            if common == 0 or open_term is not None:
                return
            open_term = name
        if open_term is None:
            self.resolve(clause)
        else:
            self.assign(open_term, self.domains[open_term] & ~clause.terms[open_term], clause)

    def resolve(self, clause: _Clause[Reason]) -> None:
        """Learns from a clause whose terms all hold, jumps back to where the lesson bites, and applies it."""
        known = clause
        while True:
            latest, others = None, 0
            for name, mask in clause.terms.items():
                step = self.satisfier(name, mask)
                if step is None:
                    continue
                if latest is None or step.position > latest.position:
                    latest, others = step, max(others, latest.level if latest else 0)
                else:
                    others = max(others, step.level)
            if latest is None:
                raise _UnsatisfiableError(clause)
            cause = latest.cause
            if cause is None or (others < latest.level and latest.level > 0):
                break
            clause = self.resolvent(clause, cause, latest.name)
        # The lesson bites from level ``others`` on, but what lies between has mostly nothing to do with it.
        self.jump_back(max(others, latest.level - 1))
        if clause is not known:
            self.add(clause)
        self.consider(clause)

    def satisfier(self, name: str, mask: int) -> _Step[Reason] | None:
        """The earliest step after which a term holds; None if it held before any."""
        for step in self.steps.get(name, ()):
            if step.before & ~mask == 0:
                return None
            if step.after & ~mask == 0:
                return step
        return None

    def resolvent(self, clause: _Clause[Reason], cause: _Clause[Reason], about: str) -> _Clause[Reason]:
        """What follows from two clauses that disagree about one name."""
        terms = dict(clause.terms)
        for name, mask in cause.terms.items():
            if name == about:
                terms[name] |= mask
            else:
                terms[name] = terms[name] & mask if name in terms else mask
        whole = (1 << (self.provider.count(about) + 1)) - 1
        if whole & ~terms[about] == 0:
            del terms[about]
        return _Clause(terms=terms, parents=(clause, cause))

    def jump_back(self, level: int) -> None:
        while self.trail and self.trail[-1].level > level:
            step = self.trail.pop()
            self.steps[step.name].pop()
            self.domains[step.name] = step.before
            self.revisit(step.name)
        self.level = level
        self.changed.clear()

    # --- answer ------------------------------------------------------------------------------------------------

    def polished(self) -> dict[str, int]:
        """The present names with their bit, lean and each at the best candidate the others allow."""
        chosen = {name: self.domains[name] for name in self.order if not self.domains[name] & ABSENT}
        while True:
            before = dict(chosen)
            self.drop_unneeded(chosen)
            self.take_better(chosen)
            if chosen == before:
                return chosen

    def broken(self, chosen: dict[str, int], name: str) -> bool:
        rules = self.originals.get(name, ())
        return any(all(chosen.get(n, ABSENT) & ~mask == 0 for n, mask in rule.terms) for rule in rules)

    def drop_unneeded(self, chosen: dict[str, int]) -> None:
        """First what no chain of needs reaches, then, one by one, what the others can do without."""
        by_caller: dict[str | None, list[Rule[Reason]]] = {}
        for rule in {id(rule): rule for name in chosen for rule in self.originals.get(name, ())}.values():
            if rule.options:
                by_caller.setdefault(rule.when[0] if rule.when else None, []).append(rule)
        reached: set[str] = set()
        queue: list[str | None] = [None]
        while queue:
            caller = queue.pop()
            for rule in by_caller.get(caller, ()):
                if rule.when is not None and not rule.when[1] & chosen[rule.when[0]]:
                    continue
                for name, allowed in rule.options:
                    if chosen.get(name, ABSENT) & allowed and name not in reached:
                        reached.add(name)
                        queue.append(name)
        for name in sorted(set(chosen) - reached):
            del chosen[name]
        for name in sorted(chosen, reverse=True):
            kept = chosen.pop(name)
            if self.broken(chosen, name):
                chosen[name] = kept

    def take_better(self, chosen: dict[str, int]) -> None:
        for name in sorted(chosen):
            now = chosen[name]
            for index in range(now.bit_length() - 2):
                chosen[name] = bit(index)
                if not self.broken(chosen, name):
                    # Its own rules may not have been looked at yet, as it was never settled on.
                    self.load(name, bit(index))
                    if not self.broken(chosen, name):
                        break
            else:
                chosen[name] = now


def solve(provider: Provider[Reason]) -> Solution | Contradiction[Reason]:
    """Solution or Contradiction; the same for the same provider, whatever the order of its dictionaries."""
    search = _Search(provider=provider)
    with _keeping_all():
        try:
            search.run()
        except _UnsatisfiableError as failure:
            return Contradiction(rules=_smallest(provider, _causes(failure.clause)))
        return Solution(chosen={name: mask.bit_length() - 2 for name, mask in search.polished().items()})


@contextmanager
def _keeping_all() -> Iterator[None]:
    """Spares the search the looking for circles to throw away: all it makes is kept to its end, and that is soon."""
    collecting = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if collecting:
            gc.enable()


def _causes(clause: _Clause[Reason]) -> list[Rule[Reason]]:
    """The original rules a clause was derived from, in order of discovery."""
    found: dict[int, Rule[Reason]] = {}
    seen, queue = {id(clause)}, [clause]
    while queue:
        one = queue.pop(0)
        if one.origin is not None:
            found[id(one.origin)] = one.origin
        for parent in one.parents:
            if id(parent) not in seen:
                seen.add(id(parent))
                queue.append(parent)
    return list(found.values())


def _impossible(provider: Provider[Reason], rules: list[Rule[Reason]]) -> list[Rule[Reason]] | None:
    try:
        _Search(provider=provider, only=rules).run()
    except _UnsatisfiableError as failure:
        return _causes(failure.clause)
    return None


def _smallest(provider: Provider[Reason], rules: list[Rule[Reason]]) -> tuple[Rule[Reason], ...]:
    """Leaves out, one after the other, every rule without which the rest is still impossible."""
    needed = list(rules)
    for rule in rules:
        if rule in needed:
            less = _impossible(provider, [other for other in needed if other is not rule])
            needed = less if less is not None else needed
    return tuple(needed)
