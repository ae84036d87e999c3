"""How a unit's power follows its supply, from its own runs: the one fit that budgets, estimates and charts go by."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from rulvek.core.electrical.supply import VoltageFit, fit_voltage
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import Place, place_key

FitKey = tuple[str, str, bool, Mode]


@dataclass(frozen=True, slots=True)
class FitPoint:
    """Weakest watts of a standing reading at its loaded volts; ``doubt`` is its own relative standard uncertainty."""

    place: Place
    mode: Mode
    volts: float
    watts: float
    attempt_id: int
    doubt: float = 0.0


def fit_key(place: Place, mode: Mode) -> FitKey:
    """Runs of the same key follow the supply alike."""
    return (*place_key(place), mode)


def voltage_fits(points: Iterable[FitPoint]) -> Mapping[FitKey, VoltageFit]:
    """A fit for every load and mode that a unit has points at; its exponent is None where they cannot tell it."""
    by_key: dict[FitKey, list[FitPoint]] = {}
    for point in points:
        by_key.setdefault(fit_key(point.place, point.mode), []).append(point)
    return {
        key: fit_voltage([(one.volts, one.watts) for one in mine], max(one.doubt for one in mine))
        for key, mine in by_key.items()
    }


def known_fit(fits: Mapping[FitKey, VoltageFit], place: Place, mode: Mode) -> VoltageFit | None:
    """The fit at a load, if its exponent is known."""
    fit = fits.get(fit_key(place, mode))
    return fit if fit is not None and fit.exponent is not None else None
