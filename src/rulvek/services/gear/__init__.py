"""The gear: what benches have to offer, and the register of what they are read with."""

from rulvek.services.gear.methods import Methods
from rulvek.services.gear.register import Gear

__all__ = ["Gear", "Methods"]
