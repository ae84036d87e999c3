"""What the columns of a table are, from their headings as people type them."""

import re
from collections.abc import Mapping, Sequence
from typing import Literal

Field = Literal[
    "serial",
    "mode",
    "group",
    "load_ohms",
    "bridged",
    "tone_hz",
    "burst",
    "channel",
    "watts",
    "volts_rms",
    "volts_peak",
    "thd_n_percent",
    "load_measured",
    "supply_volts",
    "start_volts",
    "loaded_volts",
    "amps",
    "idle_amps",
    "charger_amps",
    "tripped_watts",
    "end",
    "supply",
    "reason",
    "others_unread",
    "instrument",
    "date",
    "remark",
]

_BEFORE = r"before|at rest|idle|unloaded|no load|start"
_LOADED = r"loaded|under load|at reading|at the reading|at limit|during|sag"
_SUPPLY = r"supply|battery|batt|input|dc|b\+|terminal"
_AMPS = r"amps?|amperes?|current|clamp"
_MEASURED, _LOAD = r"measured|actual|real|warm|hot", r"load|ohms?|Ω|impedance"
_VOLTS = r"v|volts?|voltage|vdc"
_RULES: Sequence[tuple[Field, str]] = (
    # The first rule that fits a heading says what the column is; the more particular come first.
    ("reason", r"\breason\b|\bwhy\b|\bcause\b|because|(read|run|test\w*) again|repeat|re ?test"),
    ("others_unread", r"(not|un) ?(read|measured)\b|(read|measured) (channels )?only|only (one|some) read"),
    (
        "supply",
        rf"({_SUPPLY}) (kind|type|mode|policy|source)|(kind|type) of supply|fed (by|from)|\bpowered (by|from)\b|"
        r"\bengine\b|\bvehicle\b|\bpower source\b|^source$|supply policy",
    ),
    ("tripped_watts", r"(trip|protect|shut ?down).*(w|watts?|power)\b|(w|watts?|power)\b.*(trip|shut ?down)"),
    ("charger_amps", rf"(charger|alternator).*({_AMPS}|a)\b|^({_AMPS}).*(charger|alternator)"),
    ("idle_amps", rf"(idle|zero|quiescent|offset).*({_AMPS}|a)\b|({_AMPS}).*(idle|zero|quiescent|offset)"),
    ("load_measured", rf"({_MEASURED}).*({_LOAD}|r\b)|({_LOAD}).*({_MEASURED})"),
    ("thd_n_percent", r"\bthd|\bt h d\b|distortion|^dist\b"),
    ("volts_peak", r"(v|volts?|output|out).*\b(peak|pk)\b|\bv ?(pk|peak)\b|peak v"),
    ("start_volts", rf"({_SUPPLY}|{_VOLTS}).*\b({_BEFORE})\b|\b({_BEFORE})\b.*({_VOLTS})\b"),
    ("loaded_volts", rf"({_SUPPLY}|{_VOLTS}).*\b({_LOADED})\b|\b({_LOADED})\b.*({_VOLTS})\b"),
    (
        "volts_rms",
        r"(output|out|load|speaker|ch\w*).*\b(v|volts?|vrms|vac)\b|\bv ?(rms|ac|out)\b|rms v|ac v|volts? rms",
    ),
    ("amps", rf"\b({_AMPS})\b|\bamperage\b|^a$|\bi ?(dc|in|supply)\b"),
    ("supply_volts", rf"\b({_SUPPLY})\b|^({_VOLTS}) in$|^vin$|^({_VOLTS})$|held at|set (v|volts?|to)"),
    ("serial", r"serial|\bs ?/? ?n\b|\bunit\b|sample|\bdut\b"),
    ("bridged", r"bridge|\bbtl\b|\bpair"),
    ("burst", r"burst (profile|name|type|kind)|profile|cycles"),
    ("mode", r"\bmode\b|\btest\b|kind of (test|run)|run type|^(type|kind|run)$|^(un)?cert(ified)?\b"),
    ("tone_hz", r"tone|freq|\bhz\b"),
    ("watts", r"\b(w|watts?|wattage|power|pout|output)\b|^[pw] ?\d+$"),
    ("load_ohms", r"\b(load|ohms?|impedance|nominal|z|r)\b|Ω"),
    ("channel", r"\b(channel|ch|output no)\b"),
    ("group", r"group|section|amp block"),
    ("end", r"\bend(ed)?\b|stopped|result|outcome|limit(ed)? by"),
    ("instrument", r"instrument|meter|read with|measured with|scope|analy[sz]er|equipment"),
    ("date", r"\b(date|day|tested on|when)\b"),
    ("remark", r"remark|note|comment|observation"),
)
_DECIBELS = re.compile(r"\bdb[a-z]?\b")
"""Levels: no column is in them, and what stands there is not watts or volts."""
_CHANNEL = re.compile(r"\b(ch|channel) ?\d+\b|\b(left|right|front|rear|l|r|fl|fr|rl|rr|sub)\b")
_UNIT: Mapping[str, Field] = {"w": "watts", "vrms": "volts_rms", "v rms": "volts_rms", "v": "supply_volts", "a": "amps"}


def recognised(headings: Sequence[str]) -> list[Field | None]:
    """What each column is most likely to be; None where nothing tells.

    Several columns may be watts (or volts at the load): one a channel. Of anything else only the first counts.

    >>> recognised(["S/N", "Mode", "Load (Ω)", "Ch 1 (W)", "Ch 2 (W)", "Batt. loaded, V"])
    ['serial', 'mode', 'load_ohms', 'watts', 'watts', 'loaded_volts']
    """
    found: list[Field | None] = []
    for heading in headings:
        likely = _likely(heading)
        many = likely in ("watts", "volts_rms", "volts_peak")
        found.append(None if likely in found and not many else likely)
    return found


def _likely(heading: str) -> Field | None:
    words = re.sub(r"[_()\[\],.:;%/\\-]+", " ", heading.replace("Ω", " Ω ").replace("+N", " "))
    words = re.sub(r"\s+", " ", words).strip().lower().replace("ω", "Ω")
    if _DECIBELS.search(words):
        return None
    if (channel := _CHANNEL.search(words)) is not None:
        rest = _CHANNEL.sub(" ", words).strip()
        if channel.group().strip() != words or not rest:
            unit = next((field for unit, field in _UNIT.items() if re.fullmatch(rf".*\b{unit}", rest)), None)
            if rest == "" or unit in ("watts", "volts_rms"):
                return unit or "watts"
            if unit == "supply_volts" and not re.search(_SUPPLY, rest):
                return "volts_rms"
    return next((field for field, rule in _RULES if re.search(rule, words)), None)
