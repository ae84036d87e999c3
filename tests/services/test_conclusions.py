"""Conclusions that were kept are those that would be drawn afresh, whatever happened in between."""

from collections.abc import Callable
from random import Random

import pytest
from hypothesis import HealthCheck, given
from hypothesis import strategies as st
from tools.grow import forget_conclusions

from rulvek.composition import Services
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.outside import HandChannel, HandReading, OtherReading
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.outside import Table
from rulvek.services.ratings.samples import Shown, UnitsSeen, shown_units
from rulvek.store import load
from rulvek.store.queries import line as line_queries
from tests.conftest import CERTIFIED, JOREN, TAMSIN, add_unit, put_attempt, services_in, write_line
from tests.examples import TIMES, examples

Step = Callable[["Archive"], None]


class Archive:
    """Records on which things happen one after the other; what is random comes from a seed."""

    def __init__(self, services: Services, seed: int) -> None:
        self.services, self.random = services, Random(seed)
        self.units = [write_line(services), add_unit(services, "T2-0002")]
        self.campaigns: list[int] = []
        self.attempts: list[int] = []
        self.claims = 1
        self.seen = UnitsSeen()

    def watts(self) -> tuple[float, float]:
        return self.random.uniform(60, 90), self.random.uniform(60, 90)

    def plan(self) -> None:
        made = self.services.campaigns.create(self.random.choice(self.units), TAMSIN, CERTIFIED)
        self.campaigns.append(made.id)

    def run(self) -> None:
        if not self.campaigns:
            self.plan()
        end = self.random.choice((End.LIMIT, End.LIMIT, End.OPERATOR, End.PROTECTED))
        campaign = self.random.choice(self.campaigns)
        volts = self.random.choice((14.38, 14.4, 12.5))
        self.attempts.append(put_attempt(self.services, campaign, self.watts(), volts=volts, end=end))

    def choose(self) -> None:
        runs = [run for one in self.campaigns for run in self.services.campaigns.get(one).runs if len(run.attempts) > 1]
        if runs:
            run = self.random.choice(runs)
            attempt = self.random.choice(run.attempts)
            self.services.campaigns.choose(run.id, attempt.id, JOREN, "The other was disturbed.")

    def set_aside(self) -> None:
        for one in self.attempts[::-1]:
            found = [f for f in self.services.evidence.attempt(one).attempt.findings if not f.overruled_by]
            if found:
                self.services.campaigns.set_aside(one, found[0].code, JOREN, "Seen to.")
                return

    def claim(self) -> None:
        self.claims += 1
        terms = ClaimTerms(f"Paper {self.claims}", "main", round(self.random.uniform(50, 90), 1), 4.0)
        self.services.catalogue.add_claim(1, terms, TAMSIN)

    def withdraw(self) -> None:
        claims = [one for one in self.services.catalogue.model(1).claims if one.withdrawn is None]
        if claims:
            self.services.catalogue.withdraw_claim(self.random.choice(claims).id, "A misprint.", TAMSIN)

    def by_hand(self) -> None:
        spec = RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4)
        channels = tuple(HandChannel(watts=watts) for watts in self.watts())
        unit = self.random.choice(self.units)
        reading = HandReading(spec, channels, "Meter 4", loaded_volts=14.4, end=End.LIMIT)
        self.attempts.append(self.services.by_hand.keep(unit, reading, JOREN))

    def table(self) -> None:
        rows = "".join(f"T2-000{1 + row % 2},certified,4,{70 + row},{71 + row}\n" for row in range(3))
        mapping = {0: "serial", 1: "mode", 2: "load_ohms", 3: "watts", 4: "watts"}
        table = Table("old.csv", "Serial,Mode,Load,Watts,Watts 2\n" + rows, mapping, "Meter 4")  # type: ignore[arg-type]
        self.services.earlier_results.keep(table, TAMSIN)

    def second(self) -> None:
        if self.attempts:
            rows = [OtherReading(1, watts=self.random.uniform(60, 90))]
            name = f"Meter {self.random.randrange(10_000)}"
            self.services.second.add(self.random.choice(self.attempts), name, 0.5, rows, TAMSIN)

    def take_back(self) -> None:
        for one in self.attempts[::-1]:
            attempt = self.services.evidence.attempt(one).attempt
            if attempt.readings and attempt.withdrawn is None:
                self.services.campaigns.withdraw(one, TAMSIN, "The lead was off.")
                return

    def sample(self) -> tuple[Shown, Shown]:
        """What units showed, as it is kept for ratings and as it is on record."""
        with self.services.database.reading() as session:
            product = load.model(session, 1).product
            return self.seen.of(session, 1, product), shown_units(session, 1, product)

    def another_unit(self) -> None:
        self.units.append(add_unit(self.services, f"T2-{len(self.units) + 1:04d}"))

    def shown(self) -> object:
        """Everything that is drawn from conclusions."""
        self.sample()
        with self.services.database.reading() as session:
            units = line_queries.unit_ids(session, 1)
        return (
            [
                page
                for rule in DecisionRule
                for page in (
                    self.services.catalogue.line(rule),
                    self.services.catalogue.model(1, rule),
                    [self.services.catalogue.unit(one, rule) for one in units],
                )
            ],
            [self.services.planner.plan(one, Wishes()) for one in units],
            [self.services.evidence.attempt(one).attempt for one in self.attempts],
        )


STEPS = (
    "run",
    "run",
    "run",
    "plan",
    "choose",
    "set_aside",
    "claim",
    "withdraw",
    "by_hand",
    "table",
    "second",
    "another_unit",
    "take_back",
)


def kept_as_drawn(archive: Archive, names: list[str]) -> None:
    for name in ["run", *names]:
        getattr(archive, name)()
        if archive.random.random() < 0.5:
            archive.shown()  # so that later steps find conclusions to make stale
    held, fresh = archive.sample()
    assert held.units == fresh.units
    assert held.taken_back == {unit: back for unit, back in fresh.taken_back.items() if back}
    kept = archive.shown()
    forget_conclusions(archive.services.database)
    assert archive.shown() == kept


@given(names=st.lists(st.sampled_from(STEPS), min_size=2, max_size=8), seed=st.integers(0, 10_000))
@examples(4, derandomize=TIMES == 1, suppress_health_check=list(HealthCheck))
def test_what_was_kept_is_what_would_be_drawn_afresh(
    names: list[str], seed: int, tmp_path_factory: pytest.TempPathFactory
) -> None:
    services = services_in(tmp_path_factory.mktemp("archive"))
    kept_as_drawn(Archive(services, seed), names)
    services.close()
