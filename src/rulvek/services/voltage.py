"""How a unit's power follows its supply, from its own runs: what budgets and estimates go by."""

from rulvek.core.electrical.supply import VoltageFit, fit_voltage
from rulvek.core.measure.steps import End, Mode, reached
from rulvek.services.records import chosen_attempt
from rulvek.store import queries, tables


def fit_of(run: tables.Run) -> VoltageFit | None:
    """The fit over all the unit's runs like this one at any voltage; None while the exponent cannot be told.

    Only readings from waveforms count, and only those that reached the end of their mode.
    """
    unit = run.campaign.unit
    key = ("voltage fit", unit.id, *_place(run))
    known = queries.remembered(run)
    if key not in known:
        known[key] = _fit(unit, run)
    found: VoltageFit | None = known[key]
    return found


def _place(run: tables.Run) -> tuple[str, float, bool, str]:
    return run.group, run.load_ohms, run.bridged, run.mode


def _fit(unit: tables.Unit, like: tables.Run) -> VoltageFit | None:
    points = []
    for campaign in unit.campaigns:
        for run in campaign.runs:
            if (run.group, run.load_ohms, run.bridged, run.mode) != (
                like.group,
                like.load_ohms,
                like.bridged,
                like.mode,
            ):
                continue
            attempt = chosen_attempt(run)
            if attempt is None or attempt.ending is None or attempt.typed or not attempt.readings:
                continue
            volts, watts = attempt.ending.supply_volts, min(reading.watts for reading in attempt.readings)
            if volts and watts > 0 and reached(Mode(run.mode), End(attempt.ending.end)):
                points.append((volts, watts))
    if not points:
        return None
    fit = fit_voltage(points)
    return fit if fit.exponent is not None else None
