"""Polynomials through a handful of points: what the reading of motion needs over and over, and fast."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]


def fit(times: Values, values: Values, degree: int, weights: Values | None = None) -> Values:
    """Least-squares coefficients, highest power first, of ``values`` (n,) or (n, k) over ``times`` (n,).

    ``weights`` (n,) are squared errors' weights. The answer is (degree + 1,) or (degree + 1, k). Times should be
    centred and not large, as powers are formed of them as they are; with too few points the result is of lower
    degree, its first coefficients 0; where points coincide it is the smallest of the many that fit.
    """
    degree_told = min(degree, len(times) - 1)
    powers = np.vander(times, degree_told + 1)
    if weights is None and len(times) == degree_told + 1:
        found = _solve(powers, values)
    else:
        weighed = powers if weights is None else powers * weights[:, None]
        found = _solve(weighed.T @ powers, weighed.T @ values)
    if degree_told < degree:
        found = np.concatenate([np.zeros((degree - degree_told, *found.shape[1:])), found])
    return np.asarray(found)


def _solve(matrix: Values, values: Values) -> Values:
    """The solution, or where points coincide so that there are many, the smallest of them."""
    try:
        return np.asarray(np.linalg.solve(matrix, values))
    except np.linalg.LinAlgError:
        return np.asarray(np.linalg.lstsq(matrix, values, rcond=None)[0])


def at(coefficients: Values, times: Values | float) -> Values:
    """The polynomial's values at times: (m,) or (m, k)."""
    return np.asarray(np.polyval(coefficients, times)) if coefficients.ndim == 1 else _at(coefficients, times)


def _at(coefficients: Values, times: Values | float) -> Values:
    moments = np.atleast_1d(np.asarray(times, dtype=np.float64))
    return np.asarray(np.vander(moments, len(coefficients)) @ coefficients)
