"""The tables, by place. Nothing outside of the store imports them: records are what it gives and takes."""

from rulvek.store.tables.answers import GivenAnswer
from rulvek.store.tables.attempts import (
    Attempt,
    AttemptEnding,
    CaptureFile,
    Overruling,
    Reading,
    ReadingWithdrawal,
    Remark,
    SecondReading,
    Step,
)
from rulvek.store.tables.audit import AuditEntry
from rulvek.store.tables.base import Base
from rulvek.store.tables.campaigns import AttemptChoice, Campaign, Preparation, Run, Waiting
from rulvek.store.tables.conclusions import ModelConclusion, UnitConclusion
from rulvek.store.tables.gear import Bench, BenchLease, Instrument, SelfTest
from rulvek.store.tables.kept import BroughtFile, KeptEntry
from rulvek.store.tables.line import ChannelGroup, Claim, ClaimWithdrawal, Model, Series, Unit
from rulvek.store.tables.methods import MethodVersion
from rulvek.store.tables.people import Person, PersonSession, ScriptToken, SignInWait
from rulvek.store.tables.practice import PracticeExam, PracticeJob
from rulvek.store.tables.ratings import Rating, RatingLink, RatingSample, RatingStep
from rulvek.store.tables.versions import EntryVersion

__all__ = [
    "Attempt",
    "AttemptChoice",
    "AttemptEnding",
    "AuditEntry",
    "Base",
    "Bench",
    "BenchLease",
    "BroughtFile",
    "Campaign",
    "CaptureFile",
    "ChannelGroup",
    "Claim",
    "ClaimWithdrawal",
    "EntryVersion",
    "GivenAnswer",
    "Instrument",
    "KeptEntry",
    "MethodVersion",
    "Model",
    "ModelConclusion",
    "Overruling",
    "Person",
    "PersonSession",
    "PracticeExam",
    "PracticeJob",
    "Preparation",
    "Rating",
    "RatingLink",
    "RatingSample",
    "RatingStep",
    "Reading",
    "ReadingWithdrawal",
    "Remark",
    "Run",
    "ScriptToken",
    "SecondReading",
    "SelfTest",
    "Series",
    "SignInWait",
    "Step",
    "Unit",
    "UnitConclusion",
    "Waiting",
]
