"""Practice: what is drawn, and how answers are marked."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.practice.faults import LESSONS, REMEDY_WORDS, Fault, Remedy, SheetPart
from rulvek.core.practice.marking import Answer, OfClaim, marked, of_claim, result
from rulvek.core.practice.sayings import SAYINGS, Saying
from rulvek.core.practice.scenarios import APART, JOBS, Level, Scenario, drawn, jobs_for

SEEDS = st.integers(0, 999_999)
LEVELS = st.sampled_from(list(Level))


def right(scenario: Scenario) -> Answer:
    return Answer(
        {one: LESSONS[one].remedy for one in scenario.faults}, of_claim(scenario), SAYINGS[scenario.saying].holds
    )


def test_every_fault_has_a_lesson_and_a_job_and_every_remedy_its_words() -> None:
    assert set(LESSONS) == set(Fault)
    assert set(REMEDY_WORDS) == set(Remedy) == {one.remedy for one in LESSONS.values()}
    assert all(jobs_for((one,)) for one in Fault)
    assert {one.part for one in LESSONS.values()} == set(SheetPart)
    assert {one.holds for one in SAYINGS.values()} == {True, False}  # whoever always says no is caught


def test_each_level_draws_what_it_says() -> None:
    first, second, third = ([drawn(level, seed) for seed in range(400)] for level in Level)
    assert {one for job in first for one in job.faults} == {one for one in Fault if LESSONS[one].easy}
    assert all(len(job.faults) == 1 for job in first)
    assert {one for job in second for one in job.faults} == set(Fault)
    assert {len(job.faults) for job in second} == {0, 1}
    assert {len(job.faults) for job in third} == {0, 2}
    assert {job.saying for job in second} == set(Saying)
    assert {name for name, job in JOBS.items() if any(one.job is job for one in (*second, *third))} == set(JOBS)


@given(LEVELS, SEEDS)
def test_a_seed_draws_the_same_job_each_time_and_never_two_faults_that_hide_each_other(level: Level, seed: int) -> None:
    scenario = drawn(level, seed)
    assert drawn(level, seed) == scenario
    assert not any(both <= set(scenario.faults) for both in APART)
    assert abs(scenario.claim_share - 1) > 0.1  # a claim is well above or below: no fault of a few percent decides it


@given(LEVELS, SEEDS)
def test_whoever_finds_all_gets_all(level: Level, seed: int) -> None:
    scenario = drawn(level, seed)
    marks = marked(scenario, right(scenario))
    assert (marks.percent, marks.passed, marks.missed, marks.accused) == (100, True, (), ())


@given(LEVELS, SEEDS, st.sets(st.sampled_from(list(Fault)), min_size=1))
def test_a_wrong_accusation_never_pays(level: Level, seed: int, more: set[Fault]) -> None:
    scenario = drawn(level, seed)
    answer = right(scenario)
    extra = {one: LESSONS[one].remedy for one in more if one not in scenario.faults}
    marks = marked(scenario, Answer({**answer.faults, **extra}, answer.claim, answer.saying_holds))
    assert set(marks.accused) == set(extra)
    if extra:
        assert marks.points < marked(scenario, answer).points
        assert not marks.passed


@pytest.mark.parametrize("level", Level)
def test_ticking_everything_or_nothing_does_not_pass(level: Level) -> None:
    everything = {one: LESSONS[one].remedy for one in Fault}
    for seed in range(100):
        scenario = drawn(level, seed)
        right_words = (of_claim(scenario), SAYINGS[scenario.saying].holds)
        assert not marked(scenario, Answer(everything, *right_words)).passed
        if scenario.faults:
            assert not marked(scenario, Answer({}, *right_words)).passed


def test_a_spoiled_reading_says_nothing_of_the_claim_yet() -> None:
    one = Scenario(Level.FIRST, 1, JOBS["four"], (Fault.WRONG_LOAD,), 0.8, Saying.FUSES_TELL)
    other = Scenario(Level.FIRST, 1, JOBS["four"], (Fault.CLAMP_NOT_ZEROED,), 0.8, Saying.FUSES_TELL)
    above = Scenario(Level.FIRST, 1, JOBS["four"], (Fault.CLAMP_NOT_ZEROED,), 1.3, Saying.FUSES_TELL)
    assert [of_claim(each) for each in (one, other, above)] == [
        OfClaim.NOTHING_YET,
        OfClaim.BACKED,
        OfClaim.NOT_BACKED,
    ]


def test_found_with_the_wrong_remedy_is_less_than_found() -> None:
    scenario = Scenario(Level.FIRST, 1, JOBS["four"], (Fault.WRONG_LOAD,), 0.8, Saying.FUSES_TELL)
    answer = Answer({Fault.WRONG_LOAD: Remedy.COOL}, OfClaim.NOTHING_YET, False)
    marks = marked(scenario, answer)
    assert (marks.found, marks.remedies) == ((Fault.WRONG_LOAD,), ())
    assert 0 < marks.points < marks.of


def test_an_exam_is_all_its_jobs_together() -> None:
    assert result([(7, 7), (5, 7), (6, 7), (4, 7), (6, 7)]).percent == pytest.approx(80)
    assert result([(7, 7), (5, 7), (6, 7), (4, 7), (6, 7)]).passed
    assert not result([(7, 7), (4, 7)]).passed
