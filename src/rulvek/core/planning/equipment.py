"""What a bench has to offer: inputs, supplies, cables, dummy loads; and the ways a supply can be used."""

from dataclasses import dataclass

from rulvek.core.electrical.cables import Cable
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import BadInput

REWIRE_MINUTES = 6.0
"""What moving the loads takes, where a bench says nothing else; ours."""
SETUP_MINUTES = 10.0
"""What it takes to put a unit on, and what is seen to before power; ours."""


@dataclass(frozen=True, slots=True)
class Equipment:
    """One bench.

    A bank is described by its open-circuit volts when charged, 0 where there is none, and its resistance, cables not
    included.
    """

    name: str
    inputs: int
    supply_limit_amps: float
    bank_volts: float
    bank_ohms: float
    bank_limit_amps: float
    cable: Cable
    boxes: tuple[LoadBox, ...]
    ambient_c: float = 23.0
    setup_minutes: float = SETUP_MINUTES
    rewire_minutes: float = REWIRE_MINUTES
    bank_recovery_seconds: float = 30.0

    def refuse_lacking(self, policy: SupplyPolicy) -> None:
        """Hold a way to use the supply to what there is.

        Raises:
            BadInput: a bank that the bench does not have.
        """
        if policy is SupplyPolicy.BANK and not self.bank_volts:
            raise BadInput(f"{self.name} has no bank that floats.", field="policy")

    def limit_amps(self, policy: SupplyPolicy) -> float:
        """The most current that the supply in use gives."""
        return self.bank_limit_amps if policy is SupplyPolicy.BANK else self.supply_limit_amps

    def loaded_volts(self, policy: SupplyPolicy, set_volts: float, amps: float) -> float:
        """Volts at the terminals: held by remote sense, or what the bank and the cable leave."""
        if policy is SupplyPolicy.BANK:
            return set_volts - amps * self.bank_ohms - self.cable.drop(amps)
        return set_volts
