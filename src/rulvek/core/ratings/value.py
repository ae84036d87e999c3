"""What a rated watt costs, at a stated basis."""

from dataclasses import dataclass
from enum import StrEnum

from rulvek.core.ratings.sample import RatedAt
from rulvek.core.records.facts import ModelFacts, Price
from rulvek.core.records.product import Product


class PriceBasis(StrEnum):
    """Which of a model's prices."""

    LIST = "list"
    STREET = "street"


@dataclass(frozen=True, slots=True)
class Value:
    """Money a watt of all channels together; nothing is converted from one currency to another."""

    per_watt: float
    currency: str
    basis: PriceBasis


def value_of(facts: ModelFacts, product: Product, at: RatedAt, watts: float, basis: PriceBasis) -> Value | None:
    """What a watt costs; None where that price is not known, or where other groups of channels are paid for as well.

    >>> from rulvek.core.records.product import ChannelGroup
    >>> product = Product((ChannelGroup("main", (1, 2), (4.0,)),))
    >>> facts = ModelFacts(list_price=Price(320.0, "EUR"))
    >>> value_of(facts, product, RatedAt("main", 4.0), 80.0, PriceBasis.LIST)
    Value(per_watt=2.0, currency='EUR', basis=<PriceBasis.LIST: 'list'>)
    """
    price: Price | None = facts.list_price if basis is PriceBasis.LIST else facts.street_price
    group = product.group(at.group)
    if price is None or frozenset(group.channels) != product.channels:
        return None
    return Value(price.amount / (watts * len(group.read(at.bridged))), price.currency, basis)
