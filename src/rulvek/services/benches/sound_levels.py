"""An audio interface looked at and calibrated beside a meter, step by step with whoever stands at it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock, Thread
from typing import Annotated, Any, ClassVar, Literal

import structlog
from annotated_types import Ge, Le, Len

from rulvek import clock
from rulvek.bench.instruments.by_hand import Asking
from rulvek.bench.sound.calibration import calibrated
from rulvek.bench.sound.devices import SOUND
from rulvek.bench.sound.duplex import Duplex
from rulvek.bench.sound.levels import Levels
from rulvek.bench.sound.loopback import look_at
from rulvek.core.errors import BadInput, Conflict, RulvekError
from rulvek.core.quantities import ENTERED, Title, refuse_out_of_bounds
from rulvek.core.records.actor import Actor
from rulvek.core.records.benches import Looked
from rulvek.services.benches.made import looked_view, question_view
from rulvek.services.benches.rooms import Benches
from rulvek.services.views.base import View, view
from rulvek.services.views.benches import LookedView
from rulvek.services.views.campaign import HandQuestionView

log = structlog.get_logger()
SLIP_SECONDS = 2.0
MOST_VOLTS = 1000.0
HIGHEST_SHARE = 0.45
"""Of the rate, up to which a response can be found."""
State = Literal["none", "looking", "asking", "done", "failed", "stopped"]


@dataclass(frozen=True, slots=True)
class LevelsEntry:
    """What is to be calibrated, and beside what.

    Attributes:
        address: Of the interface, as a bench's station has it.
        channels: How many outputs are cabled to the inputs of their numbers.
        rate: Samples a second.
        meter: Beside which meter, true rms.
        u_percent: Its expanded uncertainty (k = 2) for these sines.
        response_hz: Where the response is wanted as well.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    address: Annotated[Title, Len(1)]
    meter: Title
    channels: Annotated[int, Ge(1), Le(64)] = 2
    rate: Annotated[int, Ge(8_000), Le(768_000)] = 48_000
    u_percent: Annotated[float, Ge(0), Le(20)] = 1.0
    response_hz: Annotated[tuple[Annotated[float, Ge(5), Le(200_000)], ...], Len(0, 40)] = ()


@view
class CalibratingView(View):
    """How a calibration stands: what was found of cables and slips, what is asked, and the levels once it is done."""

    state: State
    address: str
    person: str
    looked: list[LookedView]
    question: HandQuestionView | None
    answered: int
    questions: int
    problem: str
    levels: Levels | None


@dataclass(slots=True)
class _Asked:
    """A calibration, from when it was begun until the next one is."""

    entry: LevelsEntry
    person: str
    asking: Asking
    state: State = "looking"
    looked: list[Looked] = field(default_factory=list)
    answered: int = 0
    problem: str = ""
    levels: Levels | None = None
    stopped: bool = False

    @property
    def over(self) -> bool:
        return self.state in ("done", "failed", "stopped")

    @property
    def questions(self) -> int:
        """A meter is read once an output, and once for each frequency of the response."""
        return self.entry.channels + len({*self.entry.response_hz} - {1000.0})


class SoundLevels:
    """One calibration at a time, of an interface of the machine that serves. Nothing on record changes by it."""

    def __init__(self, benches: Benches, told: Callable[[], None] = lambda: None) -> None:
        """``told`` hears that there is something new."""
        self._benches, self._told = benches, told
        self._lock = Lock()
        self._asked: _Asked | None = None
        self._thread: Thread | None = None

    def view(self) -> CalibratingView:
        """How it stands."""
        with self._lock:
            asked = self._asked
        if asked is None:
            return CalibratingView(
                state="none",
                address="",
                person="",
                looked=[],
                question=None,
                answered=0,
                questions=0,
                problem="",
                levels=None,
            )
        return CalibratingView(
            state=asked.state,
            address=asked.entry.address,
            person=asked.person,
            looked=[looked_view(one) for one in asked.looked],
            question=None if asked.over else question_view(asked.asking.question),
            answered=asked.answered,
            questions=asked.questions,
            problem=asked.problem,
            levels=asked.levels,
        )

    def begin(self, entry: LevelsEntry, actor: Actor) -> CalibratingView:
        """Look at an interface, then read a meter with somebody.

        Raises:
            BadInput: a field by its name.
            Conflict: one is under way, or a bench works with the interface.
        """
        refuse_out_of_bounds(entry)
        if not entry.meter.strip():
            raise BadInput("Say beside which meter.", field="meter")
        if far := [hz for hz in entry.response_hz if hz >= HIGHEST_SHARE * entry.rate]:
            most = HIGHEST_SHARE * entry.rate
            raise BadInput(f"At {entry.rate} Hz a response is found up to {most:g} Hz.", field=_at(entry, far[0]))
        with self._lock:
            if self._asked is not None and not self._asked.over:
                raise Conflict("An interface is being calibrated already.", todo="Wait for it, or stop it.")
            self._benches.let_go_of(entry.address)
            asked = self._asked = _Asked(entry, actor.name, Asking(self._told))
            self._thread = Thread(target=self._calibrate, args=(asked,), name="sound-levels", daemon=True)
            self._thread.start()
        return self.view()

    def answer(self, question: int, value: float | None) -> CalibratingView:
        """What the meter reads.

        Raises:
            Conflict: that is not asked any more.
            BadInput: no number, or one out of its limits.
        """
        with self._lock:
            asked = self._asked
        if asked is None or asked.over:
            raise Conflict("That is not asked any more.")
        asked.asking.answer(question, value)
        asked.answered += 1
        return self.view()

    def stop(self) -> CalibratingView:
        """End it: every output falls silent, nothing is kept."""
        with self._lock:
            asked, thread = self._asked, self._thread
        if asked is not None and not asked.over:
            asked.stopped = True
            asked.asking.give_up()
            if thread is not None:
                thread.join(10.0)
        return self.view()

    def _calibrate(self, asked: _Asked) -> None:
        entry = asked.entry
        interface = Duplex(entry.address.removeprefix(SOUND), entry.channels, entry.channels)
        try:
            interface.open(entry.rate)
            for one in look_at(interface, SLIP_SECONDS):
                asked.looked = [*asked.looked, one]
                self._told()
                if asked.stopped:
                    return
            asked.state = "asking"
            asked.levels = calibrated(
                interface,
                lambda words: asked.asking.ask(words, "V", 0.0, MOST_VOLTS),
                entry.response_hz,
                clock.now().date(),
                entry.meter.strip(),
                entry.u_percent,
            )
        except RulvekError as error:
            asked.problem = " ".join(filter(None, (error.what, error.todo)))
        except Exception as error:
            log.exception("an audio interface could not be calibrated")
            asked.problem = f"{type(error).__name__}: {error}"
        finally:
            interface.close()
            asked.state = "stopped" if asked.stopped else "failed" if asked.problem else "done"
            if asked.stopped:
                asked.problem, asked.levels = "", None
            self._told()


def _at(entry: LevelsEntry, hz: float) -> str:
    return f"response_hz.{entry.response_hz.index(hz)}"
