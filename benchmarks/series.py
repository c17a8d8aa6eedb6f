"""Seeded series that are not easy: level shifts, changing seasons, heavy tails, growth, zeros, short histories."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

Series = tuple[str, np.ndarray, int | None]


def hard_series(seed: int, count: int) -> Iterator[Series]:
    """(name, values, length of the season that is usual for them), `count` of each kind."""
    rng = np.random.default_rng(seed)
    for n in range(count):
        for name, season, make in KINDS:
            size = int(rng.integers(*SIZES[season]))
            yield f"{name} {n}", make(rng, size, season or 7), season


SIZES = {None: (24, 120), 4: (20, 60), 7: (40, 300), 12: (30, 160)}


def _wave(rng: np.random.Generator, size: int, season: int) -> np.ndarray:
    pattern = rng.normal(0, 1, season)
    return np.resize(pattern - pattern.mean(), size)


def _walk(rng: np.random.Generator, size: int, _: int) -> np.ndarray:
    return 200 + np.cumsum(rng.normal(0.1, 2, size))


def _noise(rng: np.random.Generator, size: int, _: int) -> np.ndarray:
    return rng.normal(50, 8, size)


def _trend_breaks(rng: np.random.Generator, size: int, _: int) -> np.ndarray:
    bend = int(size * rng.uniform(0.3, 0.8))
    slope = np.where(np.arange(size) < bend, rng.normal(0.5, 0.3), rng.normal(-0.2, 0.4))
    return 100 + np.cumsum(slope) + rng.normal(0, 4, size)


def _shifted(rng: np.random.Generator, size: int, season: int) -> np.ndarray:
    at = int(size * rng.uniform(0.2, 0.9))
    step = rng.normal(0, 60) * (np.arange(size) >= at)
    return np.asarray(300 + 25 * _wave(rng, size, season) + step + rng.normal(0, 12, size))


def _changing(rng: np.random.Generator, size: int, season: int) -> np.ndarray:
    share = np.linspace(0, 1, size)
    season_now = (1 - share) * _wave(rng, size, season) + share * _wave(rng, size, season)
    return np.asarray(500 + 40 * season_now + np.cumsum(rng.normal(0, 2, size)) + rng.normal(0, 15, size))


def _heavy(rng: np.random.Generator, size: int, season: int) -> np.ndarray:
    return 400 + 20 * _wave(rng, size, season) + 10 * rng.standard_t(3, size)


def _growing(rng: np.random.Generator, size: int, season: int) -> np.ndarray:
    level = np.exp(np.cumsum(rng.normal(0.008, 0.02, size)))
    return 80 * level * np.exp(0.15 * _wave(rng, size, season) + rng.normal(0, 0.05, size))


def _counts(rng: np.random.Generator, size: int, season: int) -> np.ndarray:
    rate = np.exp(0.4 * _wave(rng, size, season) + np.cumsum(rng.normal(0, 0.03, size)))
    return rng.poisson(6 * rate).astype(np.float64)


def _sparse(rng: np.random.Generator, size: int, _: int) -> np.ndarray:
    return np.where(rng.random(size) < 0.55, 0.0, rng.gamma(2, 6, size).round(1))


def _persistent(rng: np.random.Generator, size: int, _: int) -> np.ndarray:
    noise = rng.normal(0, 5, size)
    out = np.empty(size)
    last = 0.0
    for n in range(size):
        last = 0.8 * last + noise[n]
        out[n] = last
    return 120 + out


KINDS = (
    ("random walk", None, _walk),
    ("noise", 7, _noise),
    ("broken trend", None, _trend_breaks),
    ("weekly with a shift", 7, _shifted),
    ("monthly with a shift", 12, _shifted),
    ("changing week", 7, _changing),
    ("changing year", 12, _changing),
    ("heavy tails, weekly", 7, _heavy),
    ("heavy tails, quarterly", 4, _heavy),
    ("growth by month", 12, _growing),
    ("counts, weekly", 7, _counts),
    ("sparse", 7, _sparse),
    ("persistent", None, _persistent),
    ("noise by month", 12, _noise),
)
