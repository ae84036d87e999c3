"""What loads stand for: bridged equivalents and deviation from nominal."""


def bridged_equivalent(pair_watts: float, load_ohms: float) -> tuple[float, float]:
    """Return watts and ohms per channel that a bridged pair into ``load_ohms`` stands for.

    Each channel of the pair sees half the load and gives half the power (circuit theory: the load's midpoint
    stays at 0 V).

    >>> bridged_equivalent(400.0, 8.0)
    (200.0, 4.0)
    """
    return pair_watts / 2, load_ohms / 2


def off_nominal(nominal_ohms: float, measured_ohms: float) -> float:
    """Relative deviation of a warm load from its nominal value; positive when it reads high."""
    return measured_ohms / nominal_ohms - 1
