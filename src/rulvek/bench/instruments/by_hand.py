"""Roles that a person fills: the bench asks, the person does what it says, or types what a meter reads.

A person is described as an instrument is, in sentences in place of messages. One question stands at a time. Off waits
for nobody: it ends the question, and what is to be switched off by hand then stands there until somebody says it is.
"""

import math
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from rulvek.bench.instruments.description import Description
from rulvek.core.electrical.loads import Connection
from rulvek.core.errors import BadInput, BenchFault, Conflict

BY_HAND = "by hand"
ANSWER_SECONDS = 900.0
"""How long a question stands before the run is given up: somebody went away."""
HOLDS_SECONDS = 60.0
"""For how long a typed reading need not be read again."""


@dataclass(frozen=True, slots=True)
class Question:
    """What a person is asked: to do something, or with a ``unit`` to type what is read, within limits.

    What is ``urgent`` makes something safe.
    """

    id: int
    words: str
    unit: str = ""
    low: float = -math.inf
    high: float = math.inf
    urgent: bool = False


class Asking:
    """What one bench asks of whoever stands at it."""

    def __init__(self, told: Callable[[], None] = lambda: None) -> None:
        """``told`` hears that there is another question, or none."""
        self._told = told
        self._change = threading.Condition()
        self._question: Question | None = None
        self._notice: Question | None = None
        self._answer: float | None = None
        self._given_up = False
        self._count = 0

    @property
    def question(self) -> Question | None:
        """What is asked now; what makes something safe goes before everything else."""
        return self._notice or self._question

    def ask(self, words: str, unit: str = "", low: float = -math.inf, high: float = math.inf) -> float:
        """Ask, and wait for the answer; 0 where only something was to be done.

        Raises:
            BenchFault: it was switched off meanwhile, or nobody answered.
        """
        until = time.monotonic() + ANSWER_SECONDS
        with self._change:
            self._count += 1
            mine = Question(self._count, words, unit, low, high)
            self._question, self._answer = mine, None
            self._told()
            try:
                while self._answer is None or self._notice is not None:
                    if self._given_up:
                        raise BenchFault("The bench was switched off.")
                    if not self._change.wait(until - time.monotonic()):
                        raise BenchFault(
                            f"Nobody answered: {words}.", todo="Start the run again once somebody is there."
                        )
                return self._answer
            finally:
                self._question = None
                self._told()

    def notice(self, words: str) -> None:
        """Have something made safe by hand; comes back at once, and stands there until somebody says that it is."""
        with self._change:
            self._count += 1
            self._notice = Question(self._count, words, urgent=True)
        self._told()

    def answer(self, question: int, value: float | None) -> None:
        """What somebody says to a question.

        Raises:
            Conflict: another question is asked by now.
            BadInput: no number where one is asked for, or one out of its limits.
        """
        with self._change:
            asked = self.question
            if asked is None or asked.id != question:
                raise Conflict("That is not asked any more.")
            if asked.urgent:
                self._notice = None
            else:
                self._answer, self._question = _fit(asked, value), None
            self._change.notify_all()
        self._told()

    def begin(self) -> None:
        """Another piece of work begins: it may ask again."""
        self._given_up = False

    def give_up(self) -> None:
        """Let nobody wait for an answer any more, nor ask, until other work begins."""
        with self._change:
            self._given_up = True
            self._change.notify_all()


def _fit(asked: Question, value: float | None) -> float:
    if not asked.unit:
        return 0.0
    if value is None or not math.isfinite(value):
        raise BadInput(f"Type a number: {asked.words}.", field="value")
    if not asked.low <= value <= asked.high:
        what = f"{value:g} {asked.unit} is outside of {asked.low:g} to {asked.high:g} {asked.unit}."
        raise BadInput(what, field="value")
    return value


class HandLink:
    """A role that a person fills, to be worked as a connection to an instrument is."""

    identity = BY_HAND

    def __init__(self, description: Description, asking: Asking) -> None:
        self.description, self._asking = description, asking
        self._done: dict[str, str] = {}
        self._read: dict[str, tuple[float, float]] = {}
        self._wired: tuple[Connection, ...] | None = None
        self._on = False

    def open(self) -> str:
        """Somebody is there, or a question will stand until somebody is."""
        return self.identity

    def close(self) -> None:
        """Nothing to hang up."""

    def act(self, name: str, **given: float) -> None:
        """Have something done; what was done last and stands need not be done again.

        Raises:
            BadInput: a value out of its range: nothing was asked.
            BenchFault: nobody did it.
        """
        (words,) = self.description.messages(name, **given)
        powers = name == "switch_on"
        if self._done.get(name) == words and not powers:
            return
        if powers:
            self._on = True  # from the moment that somebody may do it
        self._asking.ask(words)
        self._done[name] = words

    def wire(self, connections: Sequence[Connection]) -> None:
        """Have loads wired; asked once for each wiring.

        Raises:
            BenchFault: nobody did it.
        """
        wanted = tuple(connections)
        if wanted == self._wired:
            return
        pieces = [
            self.description.messages(
                "connect",
                channel=one.number,
                other=one.channels[1] if len(one.channels) == 2 else 0,
                ohms=one.nominal_ohms,
            )[0]
            for one in wanted
        ]
        self._asking.ask(f"Amplifier off: wire {'; '.join(pieces)}; nothing else")
        self._wired = wanted
        self._read.clear()  # other loads have other ohms

    def number(self, name: str, **given: float) -> float:
        """Have a meter read; what was read a moment ago is not asked again.

        Raises:
            BenchFault: nobody read it.
        """
        (words,) = self.description.messages(name, **given)
        value, at = self._read.get(words, (0.0, -math.inf))
        if time.monotonic() - at > HOLDS_SECONDS:
            within = self.description.ranges[name]
            value = self._asking.ask(words, within.unit, within.low, within.high)
            self._read[words] = value, time.monotonic()
        return value

    def last(self, name: str) -> float | None:
        """What was read last; None where nobody read it yet. Asks nobody: it is for the middle of a run."""
        (words,) = self.description.messages(name)
        return self._read[words][0] if words in self._read else None

    def make_safe(self) -> None:
        """Have it switched off, where somebody may have switched it on; waits for nobody."""
        self._done.pop("switch_on", None)
        if self._on:
            self._on = False
            self._asking.notice(self.description.safe[0])
