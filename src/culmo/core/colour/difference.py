"""CIEDE2000, and the local metric that it makes."""

import numpy as np

from culmo.core.colour.spectral import Array

_POW7 = 25.0**7


def _primed(lab: Array, stretch: Array) -> tuple[Array, Array, Array]:
    a = lab[..., 1] * (1.0 + stretch)
    b = lab[..., 2]
    hue_deg = np.degrees(np.arctan2(b, a)) % 360.0
    return np.hypot(a, b), np.where((a == 0) & (b == 0), 0.0, hue_deg), lab[..., 0]


def delta_e_00(lab_1: Array, lab_2: Array) -> Array:
    """CIEDE2000 colour difference, with k_L = k_C = k_H = 1.

    Parameters
    ----------
    lab_1 : (..., 3) float
    lab_2 : (..., 3) float, broadcast against `lab_1`

    Returns
    -------
    (...) float, 0 for equal colours. Source: Sharma, Wu and Dalal 2005.
    """
    lab_1, lab_2 = np.broadcast_arrays(np.asarray(lab_1, dtype=float), np.asarray(lab_2, dtype=float))
    mean_c7 = (0.5 * (np.hypot(lab_1[..., 1], lab_1[..., 2]) + np.hypot(lab_2[..., 1], lab_2[..., 2]))) ** 7
    stretch = 0.5 * (1.0 - np.sqrt(mean_c7 / (mean_c7 + _POW7)))
    c1, h1, l1 = _primed(lab_1, stretch)
    c2, h2, l2 = _primed(lab_2, stretch)
    both = c1 * c2 > 0
    turn = h2 - h1
    turn = np.where(turn > 180.0, turn - 360.0, np.where(turn < -180.0, turn + 360.0, turn))
    d_hue = 2.0 * np.sqrt(c1 * c2) * np.sin(np.radians(np.where(both, turn, 0.0)) / 2.0)
    far = np.abs(h1 - h2) > 180.0
    h_mean = 0.5 * (h1 + h2) + np.where(far, np.where(h1 + h2 < 360.0, 180.0, -180.0), 0.0)
    h_mean = np.where(both, h_mean, h1 + h2)
    l_mean, c_mean = 0.5 * (l1 + l2), 0.5 * (c1 + c2)

    def cosine(angle_deg: Array) -> Array:
        return np.asarray(np.cos(np.radians(angle_deg)))

    t = (
        1.0
        - 0.17 * cosine(h_mean - 30.0)
        + 0.24 * cosine(2.0 * h_mean)
        + 0.32 * cosine(3.0 * h_mean + 6.0)
        - 0.20 * cosine(4.0 * h_mean - 63.0)
    )
    off = (l_mean - 50.0) ** 2
    s_l = 1.0 + 0.015 * off / np.sqrt(20.0 + off)
    s_c = 1.0 + 0.045 * c_mean
    s_h = 1.0 + 0.015 * c_mean * t
    c7 = c_mean**7
    r_t = -2.0 * np.sqrt(c7 / (c7 + _POW7))
    r_t = r_t * np.sin(np.radians(60.0 * np.exp(-(((h_mean - 275.0) / 25.0) ** 2))))
    dl, dc, dh = (l2 - l1) / s_l, (c2 - c1) / s_c, d_hue / s_h
    return np.asarray(np.sqrt(np.maximum(dl * dl + dc * dc + dh * dh + r_t * dc * dh, 0.0)))


def local_metric(lab: Array, step: float = 0.5) -> Array:
    """The quadratic form G with CIEDE2000(lab, lab + e)² near e' G e for small e.

    Parameters
    ----------
    lab : (n, 3) float
    step : float, the probing distance in CIELAB units

    Returns
    -------
    (n, 3, 3) float, symmetric and positive definite
    """
    lab = np.asarray(lab, dtype=float)
    metric = np.empty((len(lab), 3, 3))
    axes = np.eye(3) * step
    for i in range(3):
        for j in range(i, 3):
            # probing on both sides cancels the odd terms; the polarisation identity gives the cross terms
            plus = axes[i] + axes[j]
            minus = axes[i] - axes[j]
            square = 0.5 * (delta_e_00(lab, lab + plus) ** 2 + delta_e_00(lab, lab - plus) ** 2)
            if i == j:
                value = square / (4.0 * step**2)
            else:
                other = 0.5 * (delta_e_00(lab, lab + minus) ** 2 + delta_e_00(lab, lab - minus) ** 2)
                value = (square - other) / (4.0 * step**2)
            metric[:, i, j] = metric[:, j, i] = value
    return metric
