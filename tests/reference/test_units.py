"""Conversions against definitions: NIST SP 811 appendix B and the International Yard and Pound
agreement (1 in = 0.0254 m, 1 lb = 0.45359237 kg) with g_n = 9.80665 m/s² (3rd CGPM, 1901); worked
here in rational arithmetic, to 1e-9 relative."""

import unittest
from fractions import Fraction as Fr

from brunt_core.quantities import parse

IN, LB, G = Fr(254, 10000), Fr(45359237, 10**8), Fr(980665, 10**5)
LBF, KGF = LB * G, G

EXACT = [
    ("force", "kgf", KGF),
    ("force", "lbf", LBF),
    ("force", "ozf", LBF / 16),
    ("force", "kN", Fr(1000)),
    ("length", "thou", IN / 1000),
    ("length", "in", IN),
    ("length", "µm", Fr(1, 10**6)),
    ("stress", "psi", LBF / IN**2),
    ("stress", "ksi", 1000 * LBF / IN**2),
    ("stress", "kgf/cm²", KGF * 10**4),
    ("stress", "kgf/mm²", KGF * 10**6),
    ("torque", "ft·lbf", LBF * IN * 12),
    ("torque", "in·lbf", LBF * IN),
    ("torque", "N·cm", Fr(1, 100)),
    ("torque", "kgf·cm", KGF / 100),
    ("torque", "ozf·in", LBF / 16 * IN),
    ("energy", "ft·lbf", LBF * IN * 12),
    ("energy_per_area", "ft·lbf/in²", LBF * IN * 12 / IN**2),
    ("energy_per_area", "kgf·cm/cm²", KGF * 100),
    ("density", "lb/ft³", LB / (12 * IN) ** 3),
    ("mass", "oz", LB / 16),
    ("time", "h", Fr(3600)),
    ("speed", "in/min", IN / 60),
]


class Definitions(unittest.TestCase):
    def test_factors(self):
        for dimension, unit, exact in EXACT:
            with self.subTest(f"{dimension}: {unit}"):
                got = Fr(parse(f"1 {unit}", dimension).si)
                self.assertLess(abs(got / exact - 1), Fr(1, 10**9))

    def test_temperature(self):
        self.assertAlmostEqual(parse("-40 °F", "temperature").si, 233.15, places=9)
