"""Transient conduction in an endless body of elliptical section with convection at its surface.

Ritz–Galerkin: the temperature is a sum of polynomials on the unit disk (Zernike's, those symmetric
to both axes), stretched to the ellipse; the eigenproblem of heat conduction with Robin's condition
then has small symmetric matrices (Carslaw & Jaeger, *Conduction of Heat in Solids*, chapter 1, for
the equation; Born & Wolf, *Principles of Optics*, section 9.2, for the polynomials; from memory).
"""

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import eval_jacobi

from lepidos.core.errors import require

Floats = NDArray[np.float64]

# Polynomials up to degree 16: the core is within 0.002 of the whole change for axes up to 1 : 12,
# and within 1e-6 for a circle; a test holds both.
DEGREE = 16
# Below this Fourier number the surface's cold has not reached the middle: the change there is under
# 1e-5 (erfc(3.5) for a slab), less than what the last polynomials leave.
UNCHANGED_BELOW = 0.02
MAX_ASPECT = 20.0  # of the longer axis in the shorter one's


class Modes(NamedTuple):
    """The section's own modes at a Biot number, each `COUNT` long but the matrix.

    `squares`: eigenvalues [1/(shorter half axis)²]; `start`: what an even start of 1 has of each;
    `core`: its value at the middle; `share`: its mean over the section; `matrix`: its polynomials,
    a column a mode, by which a temperature is carried over to the modes of another Biot number.
    """

    squares: Floats
    start: Floats
    core: Floats
    share: Floats
    matrix: Floats


class _Disk(NamedTuple):
    """What does not depend on axes and Biot number: the polynomials' products on the unit disk."""

    along: Floats  # ∫ ∂ψi/∂x ∂ψj/∂x, the shorter axis
    across: Floats  # ∫ ∂ψi/∂y ∂ψj/∂y, the longer axis
    edge: Floats  # values on the rim, a row a polynomial
    angles: Floats
    core: Floats  # values in the middle


@lru_cache(maxsize=4096)
def modes(aspect: float, biot: float) -> Modes:
    """The modes of a section whose longer axis is `aspect` times the shorter one.

    Args:
        aspect: 1 to 20. biot: h · (shorter half axis) / k, 1e-4 to 1e5.
    Raises: OutOfRange.
    Example (a circle at Bi = 1; Incropera & DeWitt, table 5.1: ζ₁ 1.2558, C₁ 1.2071):
        >>> m = modes(1.0, 1.0)
        >>> round(float(m.squares[0]) ** 0.5, 4), round(float(m.start[0] * m.core[0]), 4)
        (1.2558, 1.2071)
    """
    require("axes", aspect, 1, MAX_ASPECT, "")
    require("Biot number", biot, 1e-4, 1e5, "")
    disk = _disk()
    rim = np.sqrt(np.sin(disk.angles) ** 2 + (aspect * np.cos(disk.angles)) ** 2)
    film = (disk.edge * rim * (2 * math.pi / len(rim))) @ disk.edge.T
    squares, matrix = np.linalg.eigh(disk.along + disk.across / aspect**2 + film * biot / aspect)
    # the first polynomial is the even one, 1/√π
    share = matrix[0] / math.sqrt(math.pi)
    return Modes(squares, math.pi * share, disk.core @ matrix, share, matrix)


@lru_cache(maxsize=1)
def _disk() -> _Disk:
    """By Gauss's rule along the radius and even steps around, exact for these polynomials."""
    nodes, weights = np.polynomial.legendre.leggauss(DEGREE + 6)
    radius, weights = (nodes + 1) / 2, weights / 2
    angles = (np.arange(4 * DEGREE + 16) + 0.5) * 2 * math.pi / (4 * DEGREE + 16)
    cosine, sine = np.cos(angles), np.sin(angles)
    along, across, edge, core = [], [], [], []
    for n in range(0, DEGREE + 1, 2):
        for m in range(0, n + 1, 2):
            scale = math.sqrt(2 * (n + 1) / (math.pi if m else 2 * math.pi))
            value, slope = (scale * part for part in _radial(n, m, radius))
            outward = slope[:, np.newaxis] * np.cos(m * angles)
            around = (value / radius)[:, np.newaxis] * -m * np.sin(m * angles)
            along.append((cosine * outward - sine * around).ravel())
            across.append((sine * outward + cosine * around).ravel())
            edge.append(scale * np.cos(m * angles))
            core.append(0.0 if m else scale * (-1) ** (n // 2))
    area = np.repeat(weights * radius * 2 * math.pi / len(angles), len(angles))
    x, y = np.array(along), np.array(across)
    return _Disk((x * area) @ x.T, (y * area) @ y.T, np.array(edge), angles, np.array(core))


def _radial(n: int, m: int, radius: Floats) -> tuple[Floats, Floats]:
    """Zernike's radial polynomial, 1 at the rim, and its slope, by Jacobi's polynomials."""
    k, z = (n - m) // 2, 2 * radius**2 - 1
    jacobi = eval_jacobi(k, 0, m, z)
    slope = m * radius ** (m - 1) * jacobi if m else np.zeros_like(radius)
    if k:
        slope = slope + radius**m * 2 * radius * (k + m + 1) * eval_jacobi(k - 1, 1, m + 1, z)
    return radius**m * jacobi, slope
