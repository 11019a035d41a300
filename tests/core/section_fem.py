"""Heat conduction in an elliptical section by finite elements: independent of the core's polynomials.

Linear triangles on a quarter of the section, mass and film as they are, time by backward differences
of the second order; knows nothing of modes, disks or symmetry functions.
"""

import math
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_matrix, csc_matrix
from scipy.sparse.linalg import splu

Floats = npt.NDArray[np.float64]
RINGS, STEPS_ROUND = 36, 32


@lru_cache(maxsize=64)
def mesh(aspect: float) -> tuple[Floats, npt.NDArray[np.int_], npt.NDArray[np.int_]]:
    """Points of a quarter ellipse with half axes 1 and `aspect`, its triangles and its rim's edges."""
    # rings close together at the surface, where the cold comes from
    radii = np.sin(np.linspace(0, math.pi / 2, RINGS + 1))[1:]
    angles = np.linspace(0, math.pi / 2, STEPS_ROUND + 1)
    points = [(0.0, 0.0)]
    points += [(r * math.cos(a), aspect * r * math.sin(a)) for r in radii for a in angles]
    across = STEPS_ROUND + 1
    triangles = [(0, 1 + k, 2 + k) for k in range(STEPS_ROUND)]
    for ring in range(RINGS - 1):
        for k in range(STEPS_ROUND):
            one = 1 + ring * across + k
            triangles += [(one, one + across, one + across + 1), (one, one + across + 1, one + 1)]
    last = 1 + (RINGS - 1) * across
    rim = [(last + k, last + k + 1) for k in range(STEPS_ROUND)]
    return np.array(points), np.array(triangles), np.array(rim)


@lru_cache(maxsize=64)
def matrices(aspect: float) -> tuple[csc_matrix, csc_matrix, csc_matrix]:
    """Conduction, mass and film of the mesh."""
    points, triangles, rim = mesh(aspect)
    count = len(points)
    p = points[triangles]
    area = 0.5 * abs(
        (p[:, 1, 0] - p[:, 0, 0]) * (p[:, 2, 1] - p[:, 0, 1])
        - (p[:, 2, 0] - p[:, 0, 0]) * (p[:, 1, 1] - p[:, 0, 1])
    )
    b = np.stack([p[:, (k + 1) % 3, 1] - p[:, (k + 2) % 3, 1] for k in range(3)], axis=1)
    c = np.stack([p[:, (k + 2) % 3, 0] - p[:, (k + 1) % 3, 0] for k in range(3)], axis=1)
    stiff = (b[:, :, None] * b[:, None, :] + c[:, :, None] * c[:, None, :]) / (4 * area)[
        :, None, None
    ]
    mass = area[:, None, None] / 12 * (np.ones((3, 3)) + np.eye(3))
    rows = np.repeat(triangles, 3, axis=1).ravel()
    columns = np.tile(triangles, (1, 3)).ravel()
    length = np.linalg.norm(points[rim[:, 0]] - points[rim[:, 1]], axis=1)
    film = length[:, None, None] / 6 * (np.ones((2, 2)) + np.eye(2))
    rim_rows, rim_columns = np.repeat(rim, 2, axis=1).ravel(), np.tile(rim, (1, 2)).ravel()
    shape = (count, count)
    return (
        coo_matrix((stiff.ravel(), (rows, columns)), shape).tocsc(),
        coo_matrix((mass.ravel(), (rows, columns)), shape).tocsc(),
        coo_matrix((film.ravel(), (rim_rows, rim_columns)), shape).tocsc(),
    )


def cooled(
    aspect: float, stays: list[tuple[float, float, float]], start: float, steps: int = 300
) -> tuple[Floats, Floats, Floats]:
    """Times, core and mean through stays of (Fourier number, Biot number, temperature around)."""
    conduction, mass, film = matrices(aspect)
    temperature = np.full(mass.shape[0], start)
    weight = np.asarray(mass.sum(axis=0)).ravel()
    times, cores, means, now = [0.0], [start], [start], 0.0
    for fourier, biot, around in stays:
        step = fourier / steps
        whole = conduction + film * biot
        drive = np.asarray((film * biot).sum(axis=1)).ravel() * around
        first = splu((mass / step + whole).tocsc())
        later = splu((mass * (1.5 / step) + whole).tocsc())
        before = temperature
        for n in range(steps):
            if n == 0:
                after = first.solve(mass @ temperature / step + drive)
            else:
                after = later.solve(mass @ (2 * temperature - 0.5 * before) / step + drive)
            before, temperature = temperature, after
            now += step
            times.append(now)
            cores.append(float(after[0]))
            means.append(float(weight @ after / weight.sum()))
    return np.array(times), np.array(cores), np.array(means)


def time_to_ratio(aspect: float, biot: float, ratio: float, about: float) -> float:
    """The Fourier number at which the core's difference is this part of the start's."""
    times, cores, _ = cooled(aspect, [(2.5 * about, biot, 0.0)], 1.0, 700)
    return float(np.interp(-ratio, -cores, times))
