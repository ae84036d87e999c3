"""What the checks find in the attempts of a campaign, and what somebody set aside of it."""

from collections.abc import Mapping
from dataclasses import dataclass

from rulvek.core.judgement.checks import Finding, Severity, check
from rulvek.core.judgement.figures import Compared, figures_of
from rulvek.core.judgement.uncertainty import Meters, meters_of, reading_budget
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.attempts import Attempt, SecondReading, SetAside
from rulvek.core.records.campaigns import Campaign
from rulvek.core.records.instruments import Specification
from rulvek.core.records.product import Product
from rulvek.core.records.standing import beside, comparable_watts


@dataclass(frozen=True, slots=True)
class Question:
    """A finding in an attempt with who set it aside, if anybody did; for each, in the checks' order."""

    findings: tuple[tuple[Finding, SetAside | None], ...] = ()


def questions(campaign: Campaign, product: Product) -> Mapping[int, Question]:
    """By attempt: what the checks find under the method that is stored with the campaign; nothing while it runs."""
    others = beside(campaign)
    found: dict[int, Question] = {}
    for run in campaign.runs:
        comparable = comparable_watts(run)
        for attempt in run.attempts:
            found[attempt.id] = Question()
            if attempt.ending is not None:
                pairs = compared(attempt, campaign.method)
                known = figures_of(attempt, run, campaign, product, others[run.id], comparable[attempt.id], pairs)
                aside = {one.code: one for one in attempt.set_aside}
                findings = check(known, campaign.method)
                found[attempt.id] = Question(tuple((finding, aside.get(finding.code)) for finding in findings))
    return found


def standing_findings(question: Question, severity: Severity) -> list[Finding]:
    """Findings of one severity that nobody set aside."""
    return [finding for finding, aside in question.findings if finding.severity is severity and aside is None]


def compared(attempt: Attempt, method: MethodProfile) -> tuple[Compared, ...]:
    """Both instruments' watts of a second reading, with what belongs to each of them alone.

    They read the same terminals at the same moment: load, level bracket and supply are shared, and no part of either
    uncertainty when the two are compared. A second reading of a channel that read nothing is left out.
    """
    return tuple(pair for _, pair in second_pairs(attempt, method))


def second_pairs(attempt: Attempt, method: MethodProfile) -> list[tuple[SecondReading, Compared]]:
    """Second readings, each with what it is compared with."""
    first = {reading.channel: reading for reading in attempt.readings}
    own = Meters(volts=meters_of(attempt.instruments, method).volts)
    pairs = []
    for second in attempt.seconds:
        reading = first.get(second.channel)
        if reading is None or reading.watts <= 0 or second.watts <= 0:
            continue
        other = Meters(volts=Specification(second.instrument, percent_of_reading=second.percent_of_reading))
        ohms = reading.load.measured_ohms
        pair = Compared(
            channel=second.channel,
            instrument=second.instrument,
            watts=reading.watts,
            expanded=reading_budget(reading.watts, ohms, 0.0, own).expanded,
            other_watts=second.watts,
            other_expanded=reading_budget(second.watts, ohms, 0.0, other).expanded,
        )
        pairs.append((second, pair))
    return pairs
