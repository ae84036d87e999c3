"""The desk: small calculators on the core's own functions, each with its formula and where that comes from."""

import math
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from rulvek.core.electrical.cables import Cable
from rulvek.core.electrical.fuses import opens_between
from rulvek.core.electrical.loads import LoadBox, bridged_equivalent
from rulvek.core.electrical.networks import LoadNetwork, networks
from rulvek.core.electrical.supply import fit_voltage, supply_amps
from rulvek.core.errors import BadInput, NotFound
from rulvek.core.planning.equipment import Equipment
from rulvek.core.readings.burst_point import headroom_db
from rulvek.core.signals.power import input_for_full_output, ratio_db, rms_watts, unclipped_sine_watts, volts_of
from rulvek.services.views.desk import CalculatorView, ComposedView, FieldView, NetworkView, ResultView

Values = Mapping[str, float]
Line = tuple[str, str]


@dataclass(frozen=True, slots=True)
class _Field:
    """A number to be typed; ``most`` bounds it, and it must be above 0."""

    name: str
    words: str
    example: float
    most: float = 1e6


@dataclass(frozen=True, slots=True)
class _Calculator:
    name: str
    title: str
    formula: str
    source: str
    fields: tuple[_Field, ...]
    work: Callable[[Values], Sequence[Line]]
    caution: str = ""


COMPOSED_PIECES = 4
BEST = 6


def network_view(network: LoadNetwork, watts: float) -> NetworkView:
    """A network as a tree to be drawn, each part with what it takes of so many watts."""
    parts = zip(network.parts, network.part_watts(watts), strict=True)
    return NetworkView(
        kind=network.kind,
        how=network.how,
        ohms=network.ohms,
        most_watts=network.watts,
        watts=watts,
        parts=[network_view(part, share) for part, share in parts],
    )


def _power(v: Values) -> list[Line]:
    watts = rms_watts(v["volts_rms"], v["ohms"])
    return [
        ("Power", f"{watts:.4g} W"),
        ("Current", f"{v['volts_rms'] / v['ohms']:.4g} A rms"),
        ("Peak of an unclipped sine", f"{v['volts_rms'] * math.sqrt(2):.4g} V"),
        ("The same watts in half the load", f"{watts:.4g} W at {math.sqrt(watts * v['ohms'] / 2):.4g} V rms"),
    ]


def _peak(v: Values) -> list[Line]:
    watts = unclipped_sine_watts(v["volts_peak"], v["ohms"])
    return [
        ("Power, if the sine is not clipped", f"{watts:.4g} W"),
        ("Volts rms, then", f"{v['volts_peak'] / math.sqrt(2):.4g} V"),
    ]


def _bridged(v: Values) -> list[Line]:
    watts, ohms = bridged_equivalent(v["pair_watts"], v["ohms"])
    return [("Stands for", f"2 × {watts:.4g} W at {ohms:g} Ω per channel")]


def _cable(v: Values) -> list[Line]:
    cable = Cable(f"{v['gauge']:.0f}" if v["gauge"] >= 1 else "1/0", v["metres"], v["celsius"])
    return [
        ("Resistance of the loop", f"{1000 * cable.ohms:.3g} mΩ"),
        ("Volts lost", f"{cable.drop(v['amps']):.3g} V"),
        ("Heat in the cable", f"{cable.loss(v['amps']):.3g} W"),
    ]


def _current(v: Values) -> list[Line]:
    amps = supply_amps(v["watts"], v["volts"], v["efficiency"] / 100)
    return [("Supply current", f"{amps:.4g} A"), ("Input power", f"{amps * v['volts']:.4g} W")]


def _fuse(v: Values) -> list[Line]:
    ratio = v["amps"] / v["rating"]
    earliest, latest = opens_between(ratio)
    times = "does not open" if math.isinf(latest) else f"{earliest:.2g} s to {latest:.2g} s"
    return [
        ("Times its rating", f"{ratio:.2f}"),
        ("Opens after", times),
        ("“Fuse × volts” would claim", f"{v['rating'] * 14.4:.0f} W from 14.4 V; it says nothing of power"),
    ]


def _headroom(v: Values) -> list[Line]:
    return [("Headroom", f"{headroom_db(v['burst_watts'], v['certified_watts']):+.2f} dB".replace("-", "−"))]


def _gain(v: Values) -> list[Line]:
    full, level = volts_of(v["watts"], v["ohms"]), input_for_full_output(v["source_volts"], v["overlap_db"])
    return [
        ("Input level for full output", f"{level:.4g} V rms"),
        ("Output at full power", f"{full:.4g} V rms"),
        ("Gain from one to the other", f"{ratio_db(full**2, level**2):.1f} dB".replace("-", "−")),
    ]


def _exponent(v: Values) -> list[Line]:
    fit = fit_voltage([(v[f"volts_{i}"], v[f"watts_{i}"]) for i in (1, 2, 3)])
    estimate, low, high = fit.estimate(v["at"])
    told = f"{fit.exponent:.2f} (95 %: {fit.low:.2f} to {fit.high:.2f})" if fit.exponent is not None else "0 to 2.3"
    return [
        ("Exponent", told.replace("-", "−")),
        (f"Estimated at {v['at']:g} V", f"{estimate:.4g} W ({low:.4g} to {high:.4g} W)"),
    ]


def _loads(v: Values) -> list[Line]:
    return [("Power in the wanted load", f"{v['watts']:.4g} W, {volts_of(v['watts'], v['ohms']):.4g} V rms")]


_THREE_RUNS = ((12.5, 301.0), (13.8, 352.0), (14.4, 380.0))
_EXPONENT_FIELDS = (
    *(_Field(f"volts_{i}", f"Volts {i}", volts, 100) for i, (volts, _) in enumerate(_THREE_RUNS, 1)),
    *(_Field(f"watts_{i}", f"Watts {i}", watts) for i, (_, watts) in enumerate(_THREE_RUNS, 1)),
    _Field("at", "Estimate at, V", 14.4, 100),
)
_OHMS = _Field("ohms", "Load, Ω", 4.0, 1000)
_CALCULATORS = (
    _Calculator(
        "power",
        "Volts, watts, ohms",
        "P = V² / R",
        "Ohm's law",
        (_Field("volts_rms", "Volts rms", 17.0, 1000), _OHMS),
        _power,
    ),
    _Calculator(
        "peak",
        "From an oscilloscope's peak",
        "P = Vpk² / (2 R)",
        "Ohm's law for a sine",
        (_Field("volts_peak", "Volts peak", 41.6, 1000), _Field("ohms", "Load, Ω", 8.0, 1000)),
        _peak,
        "Of a clipped wave the peak tells no power.",
    ),
    _Calculator(
        "bridged",
        "Bridged equivalent",
        "P/2 into R/2 per channel",
        "circuit theory",
        (_Field("pair_watts", "Power of the pair, W", 400.0), _Field("ohms", "Across the pair, Ω", 8.0, 1000)),
        _bridged,
    ),
    _Calculator(
        "current",
        "Supply current",
        "I = P / (V · η)",
        "definition of efficiency; class AB 45 to 65 %, class D 75 to 90 % (common practice)",
        (
            _Field("watts", "Output of all channels, W", 3000.0),
            _Field("volts", "Supply, V", 14.4, 100),
            _Field("efficiency", "Efficiency, %", 82.0, 100),
        ),
        _current,
    ),
    _Calculator(
        "cable",
        "Cable",
        "d = 0.127 mm · 92^((36 − n)/39), there and back",
        "ASTM B258; copper of IEC 60028",
        (
            _Field("gauge", "AWG (below 1: 1/0)", 4.0, 40),
            _Field("metres", "Length one way, m", 2.0, 1000),
            _Field("amps", "Current, A", 120.0, 5000),
            _Field("celsius", "At, °C", 40.0, 200),
        ),
        _cable,
        "Cable and lugs are sized by local codes and qualified people.",
    ),
    _Calculator(
        "fuse",
        "Fuse stress",
        "time to open at k times the rating",
        "limits of ISO 8820-3 for blade fuses, from memory",
        (_Field("amps", "Current, A", 120.0, 5000), _Field("rating", "Sum of the fuses, A", 80.0, 5000)),
        _fuse,
        "Never fit a larger fuse than the maker's.",
    ),
    _Calculator(
        "headroom",
        "Headroom",
        "10 · log10(burst / certified)",
        "definition, burst at the onset of clipping",
        (_Field("burst_watts", "Burst, W", 141.0), _Field("certified_watts", "Certified, W", 133.0)),
        _headroom,
    ),
    _Calculator(
        "gain",
        "Gain match",
        "input for full output = source's full scale · 10^(−overlap/20)",
        "common practice, no source",
        (
            _Field("source_volts", "Source at full scale, V rms", 4.0, 100),
            _Field("overlap_db", "Overlap, dB", 5.0, 40),
            _Field("watts", "Full power, W", 72.0),
            _OHMS,
        ),
        _gain,
    ),
    _Calculator(
        "exponent",
        "Voltage exponent",
        "ln P = n · ln V + c, least squares",
        "Student's t at 95 %",
        _EXPONENT_FIELDS,
        _exponent,
        "An estimate, never evidence.",
    ),
    _Calculator(
        "loads",
        "Load composer",
        "series: R = ΣR; parallel: 1/R = Σ1/R; each takes its share of the power",
        "circuit theory; every network of up to four resistors of the shelf is tried",
        (
            _Field("ohms", "Wanted, Ω", 2.67, 1000),
            _Field("watts", "To stand, W", 300.0, 100_000),
            _Field("tolerance", "Off by at most, %", 2.0, 50),
        ),
        _loads,
        "Dummy loads reach burn temperature: clear space, airflow, nothing near that burns.",
    ),
)


_RESISTOR = re.compile(
    r"(?:(\d{1,3})\s*[x×*]\s*)?(\d+(?:\.\d+)?)\s*(?:Ω|ohms?)\s*,?\s*(\d+(?:\.\d+)?)\s*W", re.IGNORECASE
)
MOST_KINDS = 6
EXAMPLE = "4 × 4 Ω 500 W; 2 × 8 Ω 300 W"


def shelf_of(text: str) -> list[LoadBox]:
    """Resistors on a shelf, as "4 × 4 Ω 500 W; 8 ohm 300 W", separated by semicolons or lines.

    Raises:
        BadInput: an entry that cannot be read, or more kinds than can be searched.
    """
    entries = [entry.strip() for entry in re.split(r"[;\n]", text) if entry.strip()]
    if not entries or len(entries) > MOST_KINDS:
        raise BadInput(f"Name one to {MOST_KINDS} kinds of resistors, as {EXAMPLE}.", field="shelf")
    boxes = []
    for entry in entries:
        match = _RESISTOR.fullmatch(entry)
        if match is None or not (float(match[2]) > 0 and float(match[3]) > 0 and int(match[1] or 1) > 0):
            raise BadInput(f"“{entry[:40]}” is no resistor; write it as 4 × 4 Ω 500 W.", field="shelf")
        boxes.append(LoadBox(float(match[2]), float(match[3]), int(match[1] or 1)))
    return boxes


def shelf_words(boxes: Iterable[LoadBox]) -> str:
    """Resistors as they are typed."""
    return "; ".join(f"{box.count} × {box.ohms:g} Ω {box.watts:g} W" for box in boxes)


class Desk:
    """Lists the calculators and works one out; keeps nothing. The bench's own boxes are the shelf, if none is typed."""

    def __init__(self, equipment_of: Callable[[str | None], Equipment]) -> None:
        self._equipment_of = equipment_of

    def compose(
        self, shelf: str, ohms: float, watts: float, tolerance_percent: float, bench: str | None = None
    ) -> ComposedView:
        """The best networks of a shelf for a wanted load: fewest pieces first, then the nearest to its value.

        ``bench`` is whose boxes are taken where no shelf is typed; the first one's where None.

        Raises:
            BadInput: a shelf that cannot be read.
            NotFound: no such bench.
        """
        boxes = shelf_of(shelf) if shelf.strip() else self._equipment_of(bench).boxes
        made = networks(boxes, ohms, COMPOSED_PIECES, tolerance_percent / 100)
        strong = sorted(
            (network for network in made if network.watts >= watts),
            key=lambda network: (network.pieces, round(abs(network.ohms / ohms - 1), 3), -network.watts),
        )
        return ComposedView(
            networks=[network_view(network, watts) for network in strong[:BEST]],
            too_weak=len(made) - len(strong),
            shelf=shelf_words(boxes),
        )

    def calculators(self) -> list[CalculatorView]:
        """All of them, with examples for their fields."""
        return [
            CalculatorView(
                name=c.name,
                title=c.title,
                formula=c.formula,
                source=c.source,
                caution=c.caution,
                fields=[FieldView(name=f.name, words=f.words, example=f.example) for f in c.fields],
            )
            for c in _CALCULATORS
        ]

    def work(self, name: str, values: Values) -> list[ResultView]:
        """Work a calculator out.

        Raises:
            NotFound: there is no such calculator.
            BadInput: a field that is missing, unknown, not above 0, or beyond what makes sense.
        """
        calculator = next((c for c in _CALCULATORS if c.name == name), None)
        if calculator is None:
            raise NotFound(f"There is no calculator “{name}”.")
        known = {field.name for field in calculator.fields}
        for given in values:
            if given not in known:
                raise BadInput(f"There is no field “{given}” here.", field=given)
        for field in calculator.fields:
            value = values.get(field.name)
            if value is None or not 0 < value <= field.most:
                raise BadInput(f"{field.words}: a number above 0 and up to {field.most:g} is needed.", field=field.name)
        return [ResultView(words=words, value=value) for words, value in calculator.work(values)]
