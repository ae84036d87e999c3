"""What changed from one proposal to the next: what whoever signs has to see first."""

from rulvek.core.ratings.basis import Basis


def changes(before: Basis, after: Basis) -> tuple[str, ...]:
    """Sentences on what is other than the last time, the figure first; empty where nothing is.

    >>> from dataclasses import replace
    >>> from rulvek.core.ratings.basis import _example
    >>> old = _example()
    >>> changes(old, replace(old, terms=replace(old.terms, watts=95.0)))
    ('The figure is 95 W, not 100 W.',)
    """
    found = [
        _other("The figure is {} W, not {} W.", before.terms.watts, after.terms.watts),
        _other("These units bear {} W, not {} W.", before.bound.proposal_watts, after.bound.proposal_watts),
        _other("Of all units {} % are to reach it, not {} %.", 100 * before.terms.share, 100 * after.terms.share),
        _other("The confidence is {} %, not {} %.", 100 * before.terms.confidence, 100 * after.terms.confidence),
        _other("It is valid for {} months, not for {}.", before.terms.valid_months, after.terms.valid_months),
        _other("The bound is worked out as “{}”, not as “{}”.", before.bound.method, after.bound.method),
        _other("The rule or program is {}, not {}.", before.program, after.program),
    ]
    if before.terms.at.revisions != after.terms.at.revisions:
        names = ", ".join(after.terms.at.revisions) or "all"
        found.append(f"It covers revisions: {names}.")
    return (*(one for one in found if one), *_units(before, after))


def _units(before: Basis, after: Basis) -> list[str]:
    then, now = ({row.unit_id: row for row in basis.rows if row.counts} for basis in (before, after))
    left_out = {row.unit_id: row.left_out for row in after.rows if row.left_out}
    found = []
    came = [row.serial for one, row in now.items() if one not in then]
    if came:
        found.append(f"Units that came in: {', '.join(came)}.")
    for one, row in then.items():
        if one not in now:
            found.append(f"Unit {row.serial} does not count any more: {left_out.get(one, 'it is not on record.')}")
        elif now[one].attempt_id != row.attempt_id:
            found.append(
                f"Unit {row.serial} counts with another reading, {now[one].watts:.4g} W, not {row.watts:.4g} W."
            )
    return found


def _other(words: str, before: object, after: object) -> str:
    if before == after:
        return ""
    shown = [f"{one:g}" if isinstance(one, float) else "no" if one is None else str(one) for one in (after, before)]
    return words.format(*shown)
