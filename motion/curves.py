"""Polynomials through a handful of points: what the reading of motion needs over and over, and fast."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import mean

Values = NDArray[np.float64]
DAMPED = 1e-10
"""How much the unknowns of many systems at once are held back, beside columns of length 1."""


def fit(times: Values, values: Values, degree: int, weights: Values | None = None) -> Values:
    """Least-squares coefficients, highest power first, of ``values`` (n,) or (n, k) over ``times`` (n,).

    ``weights`` (n,) are squared errors' weights. The answer is (degree + 1,) or (degree + 1, k). Times should be
    centred and not large, as powers are formed of them as they are; with too few points the result is of lower
    degree, its first coefficients 0; where points coincide it is the smallest of the many that fit.
    """
    degree_told = min(degree, len(times) - 1)
    powers = _powers(times, degree_told)
    if weights is None and len(times) == degree_told + 1:
        found = solve(powers, values)
    else:
        weighed = powers if weights is None else powers * weights[:, None]
        found = solve(weighed.T @ powers, weighed.T @ values)
    if degree_told < degree:
        found = np.concatenate([np.zeros((degree - degree_told, *found.shape[1:])), found])
    return np.asarray(found)


def polynomial(times: Values, values: Values, degree: int, weights: Values | None = None) -> Values:
    """Least-squares coefficients (degree + 1,), highest power first, of ``values`` (n,) over any ``times`` (n,).

    ``weights`` (n,) are squared errors' weights. As NumPy's polyfit, but for what ``fit`` says of too few points.
    """
    middle = mean(times)
    off = times - middle
    if degree == 1 and weights is None:
        return _line(off, values, middle)
    reach = float(np.abs(off).max()) or 1.0
    coefficients = fit(off / reach, values, degree, weights).tolist()
    if degree == 2:
        square, slope, height = coefficients[0] / reach**2, coefficients[1] / reach, coefficients[2]
        return np.array([square, slope - 2 * square * middle, height - slope * middle + square * middle**2])
    told = [0.0]
    for coefficient in coefficients:
        # Times one power of (t - middle) / reach, plus the next coefficient.
        raised = [*(c / reach for c in told), 0.0]
        lowered = [0.0, *(-middle / reach * c for c in told)]
        told = [a + b for a, b in zip(raised, lowered, strict=True)]
        told[-1] += coefficient
    return np.array(told[-degree - 1 :])


def _line(off: Values, values: Values, middle: float) -> Values:
    """Slope and height at nought of the line through values at times ``off`` (n,) a ``middle``, which adds up to 0."""
    spread = float(off @ off)
    slope = float(off @ values) / spread if spread > 0 else 0.0
    return np.array([slope, mean(values) - slope * middle])


def solve(matrix: Values, values: Values) -> Values:
    """The solution (n,) or (n, k) of a square system, or where there are many, the smallest of them."""
    # For systems of a few unknowns NumPy's own takes ten times as long to begin.
    columns = np.ascontiguousarray(values if values.ndim == 2 else values[:, None])
    solved, found = cv2.solve(matrix, columns, flags=cv2.DECOMP_LU)
    return np.asarray(found, dtype=np.float64).reshape(values.shape) if solved else least_squares(matrix, values)


def least_squares(matrix: Values, values: Values) -> Values:
    """The (k,) that comes nearest to ``values`` (n,) through ``matrix`` (n, k); of many the smallest."""
    columns = np.ascontiguousarray(values if values.ndim == 2 else values[:, None])
    _, found = cv2.solve(matrix, columns, flags=cv2.DECOMP_SVD)
    return np.asarray(found, dtype=np.float64).reshape(matrix.shape[1], *values.shape[1:])


def least_squares_of_many(matrices: Values, values: Values) -> Values:
    """(j, k): for each of j matrices (j, n, k) what comes nearest to its values (j, n); of many nearly the smallest."""
    lengths = np.sqrt((matrices**2).sum(axis=1))
    unit = matrices / np.maximum(lengths, 1e-12)[:, None]
    turned = unit.transpose(0, 2, 1)
    # A breath of damping, so that columns that say the same are no harm.
    normal = turned @ unit + DAMPED * np.eye(unit.shape[2])
    found = np.linalg.solve(normal, turned @ values[..., None])[..., 0]
    return np.asarray(found / np.maximum(lengths, 1e-12))


def at(coefficients: Values, times: Values | float) -> Values:
    """The polynomial's values at times: (m,) or (m, k)."""
    moments = np.asarray(times, dtype=np.float64)
    if coefficients.ndim == 2:
        moments = np.atleast_1d(moments)[:, None]
    found = np.zeros_like(moments) + coefficients[0]
    for coefficient in coefficients[1:]:
        found = found * moments + coefficient
    return np.asarray(found)


def _powers(times: Values, degree: int) -> Values:
    """(n, degree + 1) the powers of times, highest first."""
    found = np.ones((len(times), degree + 1))
    for column in range(degree - 1, -1, -1):
        found[:, column] = found[:, column + 1] * times
    return found
