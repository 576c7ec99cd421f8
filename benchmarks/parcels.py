"""The cheapest way to get forty things out of two hundred offers, with its bound, as a multiple of a greedy choice.

.venv/bin/python -m benchmarks.parcels
"""

import random
import time
from decimal import Decimal

from core.stock.cheapest import Basket, Offer, Postage, Want, cheapest


def market(wants: int = 40, offers: int = 200, sellers: int = 25, seed: int = 4):
    """Invented wants, offers and what a parcel costs."""
    dice = random.Random(seed)
    wanted = [Want(f"want {n}", dice.randint(1, 4)) for n in range(wants)]
    base = {want.name: dice.uniform(1, 30) for want in wanted}
    offered = []
    for n in range(offers):
        name = wanted[n % wants].name
        price = Decimal(round(base[name] * dice.uniform(0.7, 1.5), 2)).quantize(Decimal("0.01"))
        offered.append(Offer(name, f"seller {dice.randrange(sellers)}", price, dice.choice([None, 2, 4])))
    asks = {
        f"seller {n}": Postage(Decimal(dice.randint(3, 12)), dice.choice([None, Decimal(60)])) for n in range(sellers)
    }
    return wanted, offered, asks


def main() -> None:
    wanted, offered, asks = market()
    begun = time.perf_counter()
    basket: Basket = cheapest(wanted, offered, asks)
    took = time.perf_counter() - begun
    begun = time.perf_counter()
    for want in wanted:
        min((offer for offer in offered if offer.want == want.name), key=lambda offer: offer.each)
    plain = time.perf_counter() - begun
    print(f"40 wants, 200 offers: {took:.2f} s (wanted: within 2), {took / plain:.0f} × the cheapest of each alone")
    print(f"{basket.total} delivered, proven within {basket.within:.1%}; one by one {basket.one_by_one}")


if __name__ == "__main__":
    main()
