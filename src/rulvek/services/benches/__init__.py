"""Benches: who has one, what is seen to before power, and the runs that are conducted on it."""

from rulvek.services.benches.assembling import Assembling
from rulvek.services.benches.preparations import Preparations
from rulvek.services.benches.rooms import Arrival, Benches
from rulvek.services.benches.sound_levels import SoundLevels
from rulvek.services.benches.unattended import conduct_all

__all__ = ["Arrival", "Assembling", "Benches", "Preparations", "SoundLevels", "conduct_all"]
