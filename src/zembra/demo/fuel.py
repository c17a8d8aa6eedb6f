"""fuel_contract.csv: the contract price of fuel; a price holds until the next one is agreed.

Everything in it is listed in docs/demo-data.md.
"""

from __future__ import annotations

from datetime import date

PRICES = (
    (date(2024, 1, 9), 0.912), (date(2024, 2, 27), 0.934), (date(2024, 5, 3), 0.889), (date(2024, 8, 19), 0.901),
    (date(2024, 9, 2), 0.958), (date(2024, 12, 16), 0.941), (date(2025, 2, 4), 0.977), (date(2025, 6, 24), 0.953),
    (date(2025, 7, 8), 1.148), (date(2025, 10, 30), 1.121), (date(2026, 1, 20), 1.094), (date(2026, 4, 14), 1.112),
    (date(2026, 7, 1), 1.076), (date(2026, 9, 22), 1.089),
)  # fmt: skip


def fuel_csv() -> bytes:
    """Columns: agreed, price per litre."""
    return ("agreed,price per litre\n" + "".join(f"{day},{price}\n" for day, price in PRICES)).encode()
