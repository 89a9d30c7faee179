"""The dimensions Brunt reads, and the spellings of their units met in workshops.

Each spelling points at a unit expression of the ``pint`` package, whose definitions are the exact
ones (1 lb = 0.45359237 kg, g0 = 9.80665 m/s², 1 in = 25.4 mm). A new spelling is one line here.
"""

from brunt_core.quantities.dimension import Dimension

_KG_AS_FORCE = "read as kilogram-force (1 kgf = 9.80665 N)"
_LB_AS_FORCE = "read as pound-force (1 lbf = 4.44822 N)"

_KILOGRAMS = ("kilogram", "kilograms", "kilogramme", "kilogrammes", "kilo", "kilos", "kgs")
_GRAMS, _POUNDS, _OUNCES = ("gram", "grams"), ("pound", "pounds"), ("ounce", "ounces")

_RUN_TOGETHER = {
    **dict.fromkeys(("ftlb", "ftlbf", "ftlbs"), "lbf*foot"),
    **dict.fromkeys(("inlb", "inlbf", "inlbs"), "lbf*inch"),
}


def _spoken(kilogram: str, gram: str, pound: str, ounce: str) -> dict[str, str]:
    """The words for weights, of which each dimension makes units of its own."""
    words = ((_KILOGRAMS, kilogram), (_GRAMS, gram), (_POUNDS, pound), (_OUNCES, ounce))
    return {word: unit for said, unit in words for word in said}


LENGTH = Dimension(
    "length",
    "length",
    "m",
    "mm",
    {
        "mm": "mm",
        "cm": "cm",
        "m": "m",
        "µm": "um",
        "um": "um",
        "in": "inch",
        "inch": "inch",
        "inches": "inch",
        '"': "inch",
        "″": "inch",
        "thou": "thou",
        "mil": "thou",
        "mils": "thou",
        "ft": "foot",
        "millimetre": "mm",
        "millimeter": "mm",
        **dict.fromkeys(("millimetres", "millimeters"), "mm"),
        **dict.fromkeys(("micron", "microns"), "um"),
        "feet": "foot",
    },
)
FORCE = Dimension(
    "force",
    "force",
    "N",
    "N",
    {
        "N": "N",
        "kN": "kN",
        "mN": "mN",
        "kgf": "kgf",
        "kp": "kgf",
        "gf": "gf",
        "lbf": "lbf",
        "ozf": "ozf",
        "kg": "kgf",
        "g": "gf",
        "lb": "lbf",
        "lbs": "lbf",
        "oz": "ozf",
        "newton": "N",
        "newtons": "N",
        **_spoken("kgf", "gf", "lbf", "ozf"),
        "klbf": "kip",
        "daN": "daN",
        "MN": "MN",
        "kip": "kip",
    },
    notes={
        **dict.fromkeys(("kg", *_KILOGRAMS), _KG_AS_FORCE),
        **dict.fromkeys(("lb", "lbs", *_POUNDS), _LB_AS_FORCE),
        **dict.fromkeys(("g", *_GRAMS), "read as gram-force (1 gf = 0.00980665 N)"),
        **dict.fromkeys(("oz", *_OUNCES), "read as ounce-force (1 ozf = 0.278014 N)"),
    },
    case_matters=frozenset({"mN", "MN"}),
)
STRESS = Dimension(
    "stress",
    "stress",
    "Pa",
    "MPa",
    {
        "MPa": "MPa",
        "GPa": "GPa",
        "kPa": "kPa",
        "Pa": "Pa",
        "N/mm²": "MPa",
        "psi": "psi",
        "ksi": "ksi",
        "kgf/cm²": "kgf/cm**2",
        "kg/cm²": "kgf/cm**2",
        "kgf/mm²": "kgf/mm**2",
        "kg/mm²": "kgf/mm**2",
        "bar": "bar",
        "lbf/in²": "psi",
    },
    notes={"kg/cm²": "read as kgf/cm²", "kg/mm²": "read as kgf/mm²"},
    case_matters=frozenset({"mPa"}),
)
TORQUE = Dimension(
    "torque",
    "torque",
    "N*m",
    "N·m",
    {
        "N·m": "N*m",
        "Nm": "N*m",
        "N·cm": "N*cm",
        "Ncm": "N*cm",
        "cN·m": "cN*m",
        "cNm": "cN*m",
        "mN·m": "mN*m",
        "mNm": "mN*m",
        "daN·m": "daN*m",
        "daNm": "daN*m",
        "N·mm": "N*mm",
        "Nmm": "N*mm",
        "kN·m": "kN*m",
        "kgf·cm": "kgf*cm",
        "kg·cm": "kgf*cm",
        "kgf·m": "kgf*m",
        "kg·m": "kgf*m",
        "ft·lbf": "lbf*foot",
        "ft·lb": "lbf*foot",
        "ft·lbs": "lbf*foot",
        "lb·ft": "lbf*foot",
        **_RUN_TOGETHER,
        "lbft": "lbf*foot",
        "lbfft": "lbf*foot",
        "lbf·ft": "lbf*foot",
        "in·lbf": "lbf*inch",
        "in·lb": "lbf*inch",
        "in·lbs": "lbf*inch",
        "lb·in": "lbf*inch",
        "lbf·in": "lbf*inch",
        "ozf·in": "ozf*inch",
        "oz·in": "ozf*inch",
        "in·oz": "ozf*inch",
    },
    notes={"kg·cm": "read as kgf·cm", "kg·m": "read as kgf·m"},
)
ENERGY = Dimension(
    "energy",
    "energy",
    "J",
    "J",
    {
        "J": "J",
        "kJ": "kJ",
        "mJ": "mJ",
        "N·m": "N*m",
        "Nm": "N*m",
        "kgf·cm": "kgf*cm",
        "kg·cm": "kgf*cm",
        "kgf·m": "kgf*m",
        "ft·lbf": "lbf*foot",
        "ft·lb": "lbf*foot",
        "ft·lbs": "lbf*foot",
        "in·lbf": "lbf*inch",
        "in·lb": "lbf*inch",
        **_RUN_TOGETHER,
    },
    case_matters=frozenset({"mJ"}),
)
MASS = Dimension(
    "mass",
    "mass",
    "kg",
    "g",
    {
        "g": "g",
        "kg": "kg",
        "mg": "mg",
        "oz": "oz",
        "lb": "lb",
        "lbs": "lb",
        "t": "tonne",
        **_spoken("kg", "g", "lb", "oz"),
    },
    case_matters=frozenset({"mg"}),
)
TIME = Dimension(
    "time",
    "time",
    "s",
    "s",
    {
        "s": "s",
        "sec": "s",
        "min": "min",
        "h": "h",
        "m": "min",
        "hr": "h",
        "hrs": "h",
        "secs": "s",
        "mins": "min",
        "d": "day",
        "day": "day",
        "days": "day",
        "week": "week",
        "weeks": "week",
        "ms": "ms",
        "hour": "h",
        "hours": "h",
        "minutes": "min",
        "seconds": "s",
        "second": "s",
        "minute": "min",
    },
)
TEMPERATURE = Dimension(
    "temperature",
    "temperature",
    "kelvin",
    "°C",
    {
        "°C": "degC",
        "C": "degC",
        "degC": "degC",
        "ºC": "degC",
        "°F": "degF",
        "F": "degF",
        "degF": "degF",
        "ºF": "degF",
        "K": "kelvin",
    },
)
ANGLE = Dimension(
    "angle",
    "angle",
    "rad",
    "°",
    {
        "°": "degree",
        "deg": "degree",
        "degree": "degree",
        "degrees": "degree",
        "º": "degree",
        "rad": "rad",
        "turn": "turn",
    },
)
SPEED = Dimension(
    "speed",
    "speed",
    "m/s",
    "mm/min",
    {
        "mm/min": "mm/min",
        "mm/s": "mm/s",
        "m/s": "m/s",
        "in/min": "inch/min",
        "cm/min": "cm/min",
        "m/min": "m/min",
        "mm/h": "mm/h",
        "mm/day": "mm/day",
        "mm/d": "mm/day",
    },
)
DENSITY = Dimension(
    "density",
    "density",
    "kg/m**3",
    "g/cm³",
    {
        "g/cm³": "g/cm**3",
        "g/cc": "g/cm**3",
        "kg/m³": "kg/m**3",
        "g/ml": "g/cm**3",
        "lb/ft³": "lb/foot**3",
        "kg/l": "kg/l",
    },
)
AREA = Dimension(
    "area",
    "area",
    "m**2",
    "mm²",
    {
        "mm²": "mm**2",
        "cm²": "cm**2",
        "m²": "m**2",
        "in²": "inch**2",
        "µm²": "um**2",
        "um²": "um**2",
    },
)
ENERGY_PER_AREA = Dimension(
    "energy_per_area",
    "energy per area",
    "J/m**2",
    "kJ/m²",
    {
        "kJ/m²": "kJ/m**2",
        "J/m²": "J/m**2",
        "J/cm²": "J/cm**2",
        "ft·lbf/in²": "lbf*foot/inch**2",
        "ft·lb/in²": "lbf*foot/inch**2",
        "kgf·cm/cm²": "kgf*cm/cm**2",
        "mJ/mm²": "mJ/mm**2",
    },
)
STIFFNESS = Dimension(
    "stiffness",
    "slope of load over deflection",
    "N/m",
    "N/mm",
    {
        "N/mm": "N/mm",
        "N/m": "N/m",
        "kN/mm": "kN/mm",
        "lbf/in": "lbf/inch",
        "lb/in": "lbf/inch",
        "kgf/mm": "kgf/mm",
    },
)
STRESS_PER_FORCE = Dimension(
    "stress_per_force",
    "stress that a unit of load raises",
    "1/m**2",
    "MPa/N",
    {"MPa/N": "MPa/N", "kPa/N": "kPa/N", "Pa/N": "Pa/N"},
)
RATIO = Dimension("ratio", "ratio", "", "%", {"%": "percent", "": "dimensionless"})
NUMBER = Dimension("number", "number", "", "", {"": "dimensionless"})
VOLUME = Dimension(
    "volume",
    "volume",
    "m**3",
    "l",
    {"l": "litre", "ml": "millilitre", "cm³": "cm**3", "mm³": "mm**3", "m³": "m**3"},
)
SECTION_MODULUS = Dimension(
    "section_modulus",
    "section modulus",
    "m**3",
    "mm³",
    {"mm³": "mm**3", "cm³": "cm**3", "m³": "m**3", "in³": "inch**3"},
)
SECOND_MOMENT = Dimension(
    "second_moment",
    "second moment of area",
    "m**4",
    "mm⁴",
    {"mm⁴": "mm**4", "cm⁴": "cm**4", "m⁴": "m**4", "in⁴": "inch**4"},
)
SPECIFIC_LOAD = Dimension(
    "specific_load",
    "load per mass",
    "N/kg",
    "N/g",
    {"N/g": "N/g", "N/kg": "N/kg", "kgf/g": "kgf/g", "lbf/oz": "lbf/oz"},
)
ENERGY_PER_LENGTH = Dimension(
    "energy_per_length",
    "energy per thickness",
    "J/m",
    "J/m",
    {"J/m": "J/m", "ft·lbf/in": "lbf*foot/inch", "kgf·cm/cm": "kgf*cm/cm", "kJ/m": "kJ/m"},
)
HEATING_RATE = Dimension(
    "heating_rate",
    "heating rate",
    "kelvin/s",
    "°C/min",
    {
        "°C/min": "kelvin/min",
        "C/min": "kelvin/min",
        "K/min": "kelvin/min",
        "°C/h": "kelvin/h",
        "C/h": "kelvin/h",
        "K/h": "kelvin/h",
    },
)
MASS_RATE = Dimension(
    "mass_rate",
    "rate of mass",
    "kg/s",
    "kg/h",
    {
        "kg/h": "kg/h",
        "g/h": "g/h",
        "g/min": "g/min",
        "g/s": "g/s",
        "kg/day": "kg/day",
        "lb/h": "lb/h",
    },
)

DIMENSIONS: dict[str, Dimension] = {
    d.key: d
    for d in (
        LENGTH,
        FORCE,
        STRESS,
        TORQUE,
        ENERGY,
        MASS,
        TIME,
        TEMPERATURE,
        ANGLE,
        SPEED,
        DENSITY,
        AREA,
        ENERGY_PER_AREA,
        STIFFNESS,
        STRESS_PER_FORCE,
        RATIO,
        NUMBER,
        SECTION_MODULUS,
        SECOND_MOMENT,
        SPECIFIC_LOAD,
        ENERGY_PER_LENGTH,
        HEATING_RATE,
        MASS_RATE,
        VOLUME,
    )
}
