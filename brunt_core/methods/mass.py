"""Change of mass: weighed before and after a treatment or a soak."""

from brunt_core.methods.base import LOCAL, READ_OUTCOMES, Input, Method, ResultDefinition, Values

BEFORE = Input("mass_before", "Mass before", "m_0", "mass", "g", role="size")
AFTER = Input("mass_after", "Mass after", "m", "mass", "g")


def mass_change(values: Values) -> object:
    """Relative change of mass, Δm/m = (m − m0) / m0; kg in, dimensionless out.

    Limits: "dry" is an equilibrium to detect, not a zero. Source: ISO 62, water absorption.

    >>> round(mass_change({"mass_before": 0.004, "mass_after": 0.00408}), 6)
    0.02
    """
    return (values["mass_after"] - values["mass_before"]) / values["mass_before"]


METHOD = Method(
    "mass",
    "Change of mass",
    "How much did it take up or lose?",
    orientation="flat",
    inputs=(AFTER, BEFORE),
    results=(
        ResultDefinition(
            "mass_change",
            "Δm/m_0 = (m − m_0) / m_0",
            "({mass_after} − {mass_before}) / {mass_before}",
            mass_change,
            "ISO 62, water absorption by mass (recalled)",
            ("mass_before", "mass_after"),
        ),
    ),
    outcomes=READ_OUTCOMES,
    places=(),
    cautions=(LOCAL,),
    drawing="balance",
    example={
        "mass_before": "4.000 g",
        "mass_after": "4.012 g",
    },
    needs_section=False,
    destroys=False,
    cv=0.05,
    minutes=1.5,
)
