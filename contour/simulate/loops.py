"""Random closed profiles of lines and arcs as a section of a scan would show them: corners rounded off, and noise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["SoftLoop", "softened_loop"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class SoftLoop:
    """points (n, 2) mm, closed without repeating the first; kinds of the true pieces in order; facet side; sigma; of (n,): the piece of each
    point."""

    points: Array
    kinds: tuple[str, ...]
    edge_mm: float
    noise_mm: float
    of: NDArray[np.int64]


def _corners(rng: np.random.Generator, count: int, *, even: bool = False) -> Array:
    """A simple polygon with sides of at least 6 mm and turns of at least 25 degrees."""
    while True:
        # Many corners thrown at random hardly ever leave room for every side: those are spread first, then moved.
        thrown = (np.arange(count) + rng.uniform(-0.3, 0.3, count)) * 2 * np.pi / count if even else None
        angles = np.sort(rng.uniform(0, 2 * np.pi, count)) if thrown is None else thrown
        radii = rng.uniform(18, 45, count) * max(1.0, count / 11)  # more corners need a longer way round
        p = np.column_stack([radii * np.cos(angles), radii * np.sin(angles) * rng.uniform(0.6, 1)])
        side = np.roll(p, -1, axis=0) - p
        length = np.linalg.norm(side, axis=1)
        heading = np.arctan2(side[:, 1], side[:, 0])
        turn = np.abs((heading - np.roll(heading, 1) + np.pi) % (2 * np.pi) - np.pi)
        spread = np.diff(np.append(angles, angles[0] + 2 * np.pi))
        if length.min() > 6 and turn.min() > np.radians(25) and turn.max() < np.radians(140) and spread.max() < 2.6:
            return p


def softened_loop(seed: int, *, most: int = 20, noise_mm: float | None = None) -> SoftLoop:
    """A loop of 6 to `most` pieces: sharp corners, fillets of 3 facet sides and more, and sides bowed into arcs."""
    rng = np.random.default_rng(seed)
    edge, noise = float(rng.uniform(0.5, 1.0)), float(rng.uniform(0.01, 0.035))
    noise = noise if noise_mm is None else noise_mm
    wanted = int(rng.integers(6, most + 1))
    for attempt in range(100_000):
        wanted = max(
            6, wanted - (attempt > 0 and attempt % (200 if most <= 20 else 40) == 0)
        )  # many fillets on short sides rarely fit
        count = int(rng.integers(max(4, wanted // 2), min(wanted, most * 13 // 20) + 1))
        p = _corners(rng, count, even=most > 20)
        fillets = rng.permutation(count)[: wanted - count]
        if len(fillets) < wanted - count:
            continue
        made = _trace(rng, p, set(fillets.tolist()), max(2.2, 3 * edge))
        if made is not None:
            break
    assert made is not None
    dense, kinds, piece = made
    # Scanner: average over about a facet, sample where facets are crossed, add noise across.
    length = np.linalg.norm(np.diff(dense, axis=0, append=dense[:1]), axis=1)
    step = length.sum() / len(dense)
    reach = int(np.ceil(3 * 0.6 * edge / step))
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) * step / (0.6 * edge)) ** 2)
    kernel /= kernel.sum()
    wrapped = np.vstack([dense[-reach:], dense, dense[:reach]])
    soft = np.column_stack([np.convolve(wrapped[:, d], kernel, mode="valid") for d in range(2)])
    stride = 0.5 * edge / step
    at = np.cumsum(rng.uniform(0.3, 1.7, int(1.4 * len(dense) / stride) + 20) * stride)
    taken = at[at < len(soft)].astype(int)
    points, of = soft[taken], piece[taken]
    ahead = np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)
    across = np.column_stack([-ahead[:, 1], ahead[:, 0]]) / np.linalg.norm(ahead, axis=1, keepdims=True)
    points = points + across * rng.normal(0, noise, (len(points), 1))
    shift = int(rng.integers(len(points)))
    return SoftLoop(np.roll(points, shift, axis=0), kinds, edge, noise, np.roll(of, shift))


def _trace(
    rng: np.random.Generator, p: Array, fillets: set[int], smallest: float
) -> tuple[Array, tuple[str, ...], NDArray[np.int64]] | None:
    count = len(p)
    cut = np.zeros(count)
    arcs: dict[int, Array] = {}
    for i in fillets:
        a, b = p[i - 1] - p[i], p[(i + 1) % count] - p[i]
        la, lb = np.linalg.norm(a), np.linalg.norm(b)
        a, b = a / la, b / lb
        half = np.arccos(np.clip(a @ b, -1, 1)) / 2
        most = min(0.3 * min(la, lb) * np.tan(half), 9.0)
        if most < smallest or np.pi - 2 * half < np.radians(50):
            return None
        r = rng.uniform(smallest, most)
        cut[i] = r / np.tan(half)
        centre = p[i] + (a + b) / np.linalg.norm(a + b) * r / np.sin(half)
        t0, t1 = p[i] + a * cut[i] - centre, p[i] + b * cut[i] - centre
        turn = np.arctan2(t0[0] * t1[1] - t0[1] * t1[0], t0 @ t1)
        angle = np.arctan2(t0[1], t0[0]) + np.linspace(0, turn, max(8, int(abs(turn) * r / 0.02)))
        arcs[i] = centre + r * np.column_stack([np.cos(angle), np.sin(angle)])
    out: list[Array] = []
    kinds: list[str] = []
    for i in range(count):
        j = (i + 1) % count
        if i in arcs:
            out.append(arcs[i][:-1])
            kinds.append("arc")
        u = (p[j] - p[i]) / np.linalg.norm(p[j] - p[i])
        a, b = p[i] + u * cut[i], p[j] - u * cut[j]
        length = float(np.linalg.norm(b - a))
        n = max(8, int(length / 0.02))
        t = np.linspace(0, 1, n)[:-1, None]
        line = a + t * (b - a)
        if i not in fillets and j not in fillets and length > 12 and rng.random() < 0.3:
            bow = rng.uniform(0.06, 0.15) * length * rng.choice([-1, 1])
            r = (length**2 / 4 + bow**2) / (2 * abs(bow))
            h = np.sqrt(r**2 - ((t - 0.5) * length) ** 2) - (r - abs(bow))
            line = line + np.sign(bow) * h * np.array([-u[1], u[0]])
            kinds.append("arc")
        else:
            kinds.append("line")
        out.append(line)
    return np.vstack(out), tuple(kinds), np.repeat(np.arange(len(out)), [len(part) for part in out])
