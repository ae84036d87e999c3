"""Every stored reading's figures, as the checks know them, and what was found; always worked out anew."""

import math
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

from rulvek.core.electrical.supply import exponent_for
from rulvek.core.judgement.checks import Figures, Finding, Severity, check
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.judgement.uncertainty import Budget, reading_budget
from rulvek.core.measure.steps import End, Mode
from rulvek.core.planning.equipment import SupplyPolicy
from rulvek.services.before_power import Item, was_skipped
from rulvek.services.gear import instruments_of, overdue
from rulvek.services.records import Cause, all_driven, attempt_view, chosen_attempt, policy_of, said_of
from rulvek.services.second import second_readings
from rulvek.services.views.attempt import AttemptView, FindingView
from rulvek.services.views.evidence import BudgetView, ComponentView
from rulvek.services.voltage import fit_of
from rulvek.store import tables


def findings(attempt: tables.Attempt, method: MethodProfile) -> list[Finding]:
    """What the checks find in an attempt that has ended; nothing while it runs."""
    return [] if attempt.ending is None else check(_figures(attempt, attempt.ending), method)


def finding_views(attempt: tables.Attempt, method: MethodProfile) -> list[FindingView]:
    """Findings as people see them, overruled ones with who did so and why."""
    overruled = {row.code: row for row in attempt.overrulings}
    return [
        FindingView(
            code=finding.code,
            severity=finding.severity,
            message=finding.message,
            advice=finding.advice,
            overruled_by=overruled[finding.code].by if finding.code in overruled else None,
            overruled_because=overruled[finding.code].reason if finding.code in overruled else "",
        )
        for finding in findings(attempt, method)
    ]


def standing(attempt: tables.Attempt, method: MethodProfile, severity: Severity) -> list[Finding]:
    """Findings of one severity that nobody overruled."""
    overruled = {row.code for row in attempt.overrulings}
    return [f for f in findings(attempt, method) if f.severity is severity and f.code not in overruled]


def _figures(attempt: tables.Attempt, ending: tables.AttemptEnding) -> Figures:
    run, readings = attempt.run, attempt.readings
    campaign, mode = run.campaign, Mode(run.mode)
    worst = max((100 * r.thd_n for r in readings if r.thd_n is not None), default=None)
    weakest = min(readings, key=lambda r: r.watts, default=None)
    furthest = max(readings, key=lambda r: abs(r.load_measured / r.load_nominal - 1), default=None)
    watts = tuple(reading.watts for reading in readings)
    floating = policy_of(campaign) is SupplyPolicy.BANK
    measured = Figures(
        mode=mode,
        topology=campaign.unit.model.topology,
        end=End(ending.end),
        thd_n_percent=worst,
        load_nominal=furthest.load_nominal if furthest else run.load_ohms,
        load_measured=furthest.load_measured if furthest else None,
        watts=weakest.watts if weakest else None,
        channel_watts=watts,
        output_watts=sum(watts) + (ending.companion_watts or 0.0) if watts else None,
        set_volts=None if floating else run.supply_volts,
        floating=floating,
        start_volts=ending.start_volts,
        supply_volts=ending.supply_volts,
        amps=ending.supply_amps,
        clamp_zeroed=not was_skipped(attempt.skipped, Item.CLAMP),
        sink_start_c=ending.start_sink_c,
        exploratory=run.exploratory,
        controls_in_position=not was_skipped(attempt.skipped, Item.CONTROLS),
        all_loaded=all_driven(run),
        tripped_watts=ending.tripped_watts,
        beside=_beside(run),
        attempts=_comparable(attempt, run.attempts),
        start_watts=ending.start_watts,
        seconds=second_readings(attempt),
        overdue=overdue(attempt),
    )
    return replace(measured, **_said_figures(attempt))


def _said_figures(attempt: tables.Attempt) -> dict[str, Any]:
    """What the checks take from a reading from outside in place of what the bench would know; empty for others."""
    said = said_of(attempt)
    if not said:
        return {}
    conditions = {name: said[name] for name in ("clamp_zeroed", "controls_in_position", "all_loaded")}
    return conditions | _typed_figures(attempt)


def _typed_figures(attempt: tables.Attempt) -> dict[str, Any]:
    """The volts that were typed for the weakest channel; empty where nothing was typed."""
    kept = attempt.typed
    if not kept:
        return {}
    weakest = min(attempt.readings, key=lambda r: r.watts, default=None)
    places = [reading.channel for reading in attempt.readings]
    read = kept["channels"][places.index(weakest.channel)] if weakest else {}
    peak_only = read.get("watts") is None and read.get("volts_rms") is None
    return {
        "charger_amps": kept.get("charger_amps"),
        "volts_rms": read.get("volts_rms"),
        "volts_peak": read.get("volts_peak") if peak_only else None,
    }


def _beside(run: tables.Run) -> dict[Mode, float]:
    """Weakest watts of the other modes' chosen attempts, under the same conditions in the same campaign."""
    found = {}
    for other in run.campaign.runs:
        alike = (other.group, other.load_ohms, other.bridged, other.supply_volts) == (
            run.group,
            run.load_ohms,
            run.bridged,
            run.supply_volts,
        )
        chosen = chosen_attempt(other) if alike and other.id != run.id else None
        if chosen is not None and chosen.readings:
            found[Mode(other.mode)] = min(reading.watts for reading in chosen.readings)
    return found


def comparable_watts(attempt: tables.Attempt) -> tuple[float, ...]:
    """Weakest watts of an attempt and of those that it can be compared with, for its repeatability."""
    if not attempt.readings:
        return ()
    own = min(reading.watts for reading in attempt.readings)
    return (own, *_comparable(attempt, attempt.run.attempts))


def reading_uncertainty(attempt: tables.Attempt, reading: tables.Reading) -> Budget:
    """The budget of one channel's reading; the attempts' spread counts in proportion to the channel's own watts."""
    ending, compared = attempt.ending, comparable_watts(attempt)
    scale = reading.watts / compared[0] if compared and compared[0] > 0 else 1.0
    return reading_budget(
        reading.watts,
        reading.load_measured,
        reading.load_tolerance,
        instruments_of(attempt),
        ending.bracket_db if ending else None,
        ending.supply_volts if ending else None,
        exponent_for(fit_of(attempt.run)),
        tuple(watts * scale for watts in compared),
    )


def budget_view(attempt: tables.Attempt) -> BudgetView | None:
    """The budget of the weakest channel, as a table; None where nothing was read."""
    if not attempt.readings:
        return None
    weakest = min(attempt.readings, key=lambda reading: reading.watts)
    if weakest.watts <= 0:
        return None
    budget = reading_uncertainty(attempt, weakest)
    return BudgetView(
        channel=weakest.channel,
        watts=budget.estimate,
        standard_watts=budget.standard,
        freedom=None if math.isinf(budget.freedom) else budget.freedom,
        coverage_factor=budget.coverage_factor,
        expanded_watts=budget.expanded,
        components=[
            ComponentView(
                name=c.name,
                value=c.value,
                unit=c.unit,
                distribution=c.distribution,
                half_width=c.half_width,
                divisor=c.divisor,
                sensitivity=c.sensitivity,
                watts=c.watts,
                freedom=None if math.isinf(c.freedom) else c.freedom,
            )
            for c in budget.components
        ],
    )


def _comparable(attempt: tables.Attempt, attempts: Sequence[tables.Attempt]) -> tuple[float, ...]:
    """Weakest watts of other attempts that ended alike and were not repeated for a cause that explains them."""
    known_bad = {
        before.id for before, after in pairwise(attempts) if after.cause and Cause(after.cause) is not Cause.OTHER
    }
    if attempt.id in known_bad or attempt.ending is None:
        return ()
    return tuple(
        min(reading.watts for reading in other.readings)
        for other in attempts
        if other.id != attempt.id
        and other.id not in known_bad
        and other.readings
        and other.ending is not None
        and other.ending.end == attempt.ending.end
    )


def questioned_view(attempt: tables.Attempt, method: MethodProfile) -> AttemptView:
    """The figures of an attempt with their uncertainty and with what the checks found."""
    return attempt_view(attempt, lambda a, r: reading_uncertainty(a, r).expanded, finding_views(attempt, method))
