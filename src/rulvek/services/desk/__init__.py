"""The desk: small calculators on the core's own functions, test tones, captures read without records."""

from rulvek.services.desk.calculators import Desk
from rulvek.services.desk.tones import ToneSpec, analyse_wav, write_tone

__all__ = ["Desk", "ToneSpec", "analyse_wav", "write_tone"]
