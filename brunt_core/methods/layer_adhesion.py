"""Layer adhesion: a bar printed standing, pulled across its layers to break."""

from brunt_core.methods._axial import pulled

METHOD = pulled(
    key="layer-adhesion",
    name="Layer adhesion",
    question="How hard can it be pulled across the layers?",
    orientation="upright",
    property_key="layer_adhesion_strength",
    source="ISO 527-1, engineering stress at peak, on a bar built upright (ISO/ASTM 52921 ZXY)",
    example={
        "gauge_length": "25 mm",
        "force": "300 N",
        "width": "5",
        "thickness": "2",
    },
    cv=0.10,
)
