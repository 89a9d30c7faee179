"""Formulas of beams shared by the bending methods."""

from brunt_core.methods.base import Input, Values

SPAN = Input("span", "Span", "L", "length", "mm", role="fixed", aliases=("length",))
DEFLECTION = Input(
    "deflection", "Deflection", "D", "length", "mm", required=False, aliases=("extension",)
)


def three_point_stress(values: Values) -> object:
    """Outer-fibre stress under a load at mid-span, σ = F·L / (4·W).

    Parameters: ``force`` F in N, ``span`` L in m, ``bending_modulus`` W in m³ (b·h²/6 for a
    rectangle, which gives 3FL/(2bh²)). Returns Pa. Limits: small deflection, elastic stress
    distribution. Source: ISO 178, ASTM D790; any handbook of beams.

    >>> v = {"force": 120.0, "span": 0.064, "bending_modulus": 0.01 * 0.004**2 / 6}
    >>> round(three_point_stress(v) / 1e6, 9)
    72.0
    """
    return values["force"] * values["span"] / (4 * values["bending_modulus"])


def cantilever_stress(values: Values) -> object:
    """Stress at the root of a cantilever, σ = F·L / W.

    Parameters: ``force`` in N at the ``reach`` L in m; ``bending_modulus`` W in m³. Returns Pa.
    Limits: as above. Source: any handbook of beams.

    >>> v = {"force": 5.0, "reach": 0.05, "bending_modulus": 0.01 * 0.004**2 / 6}
    >>> round(cantilever_stress(v) / 1e6, 9)
    9.375
    """
    return values["force"] * values["reach"] / values["bending_modulus"]


def outer_strain(values: Values) -> object:
    """Outer-fibre strain at mid-span, ε = 12·D·c / L² (6·D·h/L² for depth h = 2c).

    Parameters: ``deflection`` D, ``half_depth`` c, ``span`` L in m. Dimensionless.
    Limits: small deflection; above 5 % the standards no longer trust it. Source: ISO 178, 3.4.

    >>> round(outer_strain({"deflection": 0.012, "half_depth": 0.002, "span": 0.064}), 7)
    0.0703125
    """
    return 12 * values["deflection"] * values["half_depth"] / values["span"] ** 2


def beam_modulus(values: Values) -> object:
    """Modulus from the slope of load over deflection, E = L³·m / (k·I).

    Parameters: ``span`` L in m, ``slope`` m in N/m, ``second_moment`` I in m⁴, ``beam_factor`` k:
    48 for a load at mid-span, 3 for the end of a cantilever. Returns Pa. Limits: no shear, no
    give of the supports. Source: ISO 178, ASTM D790; any handbook of beams.

    >>> v = {"span": 0.064, "slope": 95e3, "second_moment": 0.01 * 0.004**3 / 12, "beam_factor": 48}
    >>> round(beam_modulus(v) / 1e6, 6)
    9728.0
    """
    return values["span"] ** 3 * values["slope"] / (values["beam_factor"] * values["second_moment"])


def large_deflection_factor(relative_deflection: object, depth_over_span: object) -> object:
    """Factor on the stress at large deflection: 1 + 6·q² − 4·(h/L)·q with q = D/L.

    Parameters: q, and depth over span h/L; dimensionless. Limits: q above 0.1 and L/h of 16 or
    more is where the standard asks for it. Source: ASTM D790, 12.3 (recalled); the leading term
    agrees with the elastica on rollers to 0.1 % up to q = 0.1.

    >>> large_deflection_factor(12 / 64, 4 / 64)
    1.1640625
    """
    q = relative_deflection
    return 1 + 6 * q * q - 4 * depth_over_span * q  # type: ignore[operator]
