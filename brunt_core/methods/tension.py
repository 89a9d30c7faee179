"""Tension, flat: a bar printed lying down, pulled along its beads to break."""

from brunt_core.methods._axial import pulled

METHOD = pulled(
    key="tension",
    name="Tension",
    question="How hard can it be pulled along the layers?",
    orientation="flat",
    property_key="tensile_strength",
    source="ISO 527-1, engineering stress at peak; ASTM D638, tensile strength",
    example={
        "gauge_length": "25 mm",
        "force": "500 N",
        "width": "5",
        "thickness": "2",
        "extension_at_break": "1.2",
    },
    cv=0.05,
)
