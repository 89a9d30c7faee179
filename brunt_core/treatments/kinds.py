"""What can be done to specimens between plate and rig: kinds, their parameters, steps and cautions.

Parameters, times and heats are common practice of the trade (no source) unless said otherwise.
"""

from brunt_core.methods.base import LOCAL, RESIN, Input
from brunt_core.planning.levels import heat_in
from brunt_core.treatments.kind import Kind, TreatmentStep

HOT_OVEN = (
    "Oven, tin and parts burn: gloves, two hands, a clear way; never the oven food is made in."
)
HOT_WATER = "Hot water scalds: tongs, lower the parts slowly, nobody leans over."
FUMES = "Warm plastic gives off fumes, scorched plastic worse ones: ventilate, stop when it smokes."
SOLVENT = (
    "Solvent vapour burns and bursts: no ignition source, never a sealed box, outdoors or a hood; "
    "gloves and eyes; let it outgas before bringing it indoors."
)
SALT = "Salt dust corrodes and irritates; never water on a hot pack: it spits."
COLD = "Cold metal and parts burn skin: gloves; frozen parts shatter: glasses."
UV = "UV harms eyes and skin: shut the lamp off before opening, never look in."
HUNG = "A hanging load falls when the specimen breaks: tray under it, feet clear."


def _heat(default: str, label: str = "Temperature") -> Input:
    return Input("temperature", label, "T", "temperature", "°C", default=default, least="any")


def _time(default: str, label: str = "Time at heat") -> Input:
    return Input("time", label, "t", "time", "h", default=default)


def _choice(key: str, label: str, *choices: str) -> Input:
    pairs = tuple((c, c) for c in choices)
    return Input(key, label, "", "text", "", kind="choice", choices=pairs, default=choices[0])


def _words(key: str, label: str, default: str = "") -> Input:
    return Input(key, label, "", "text", "", kind="text", required=False, default=default)


def _quantity(key: str, label: str, dimension: str, unit: str, default: str) -> Input:
    return Input(key, label, "", dimension, unit, default=default, required=False, least="any")


def _settle(label: str) -> TreatmentStep:
    return TreatmentStep("settle", label, "Leave and weigh", "settled", "time", attended=False)


_HELD = _choice("held", "How it is held", "free", "held flat", "clamped")
_COOL = TreatmentStep(
    "cool", "Cool in the closed oven", "Keep closed", "time", 120.0, attended=False
)
_TAKE_OUT = TreatmentStep("out", "Take out and measure", "Take out", "key", 10.0)

_KINDS = (
    Kind(
        "dry-stock",
        "Dry filament or pellets",
        "Feedstock",
        (_heat("65 °C"), _time("8 h", "Time"), _words("desiccant", "Desiccant, or fan")),
        (
            TreatmentStep("in", "Weigh and put in", "Weigh and put in"),
            TreatmentStep(
                "dry", "Dry", "Keep closed", "time", "time", "temperature", attended=False
            ),
            TreatmentStep("out", "Weigh and seal", "Weigh and seal"),
        ),
        (HOT_OVEN, FUMES, LOCAL),
        of="lot",
        weighed=True,
        told_by=("dried", "dry filament"),
    ),
    Kind(
        "anneal-oven",
        "Anneal in dry heat",
        "Heat",
        (
            _heat("100 °C"),
            _time("1 h"),
            _HELD,
            _quantity("ramp", "Ramp", "heating_rate", "°C/min", ""),
        ),
        (
            TreatmentStep("in", "Put in cold", "Put in cold", heat="", minutes=10.0),
            TreatmentStep(
                "soak", "Soak", "Keep closed", "time", "time", "temperature", attended=False
            ),
            _COOL,
            _TAKE_OUT,
        ),
        (HOT_OVEN, FUMES, LOCAL),
        told_by=("anneal", "tempered", "oven"),
    ),
    Kind(
        "anneal-bed",
        "Anneal on the heated bed",
        "Heat",
        (_heat("90 °C", "Bed temperature"), _time("2 h"), _words("cover", "Covered by", "a box")),
        (
            TreatmentStep("in", "Leave on the bed, cover", "Cover it"),
            TreatmentStep(
                "soak", "Soak", "Leave it covered", "time", "time", "temperature", attended=False
            ),
            _COOL,
            _TAKE_OUT,
        ),
        (HOT_OVEN, FUMES, LOCAL),
        vessel="bed",
        told_by=("bed anneal", "on the bed"),
    ),
    Kind(
        "anneal-water",
        "Anneal in hot water",
        "Heat",
        (
            _heat("80 °C", "Water"),
            _time("45 min", "Time at heat"),
            _choice("way", "How they go in", "cold, one by one", "dropped in hot"),
            _HELD,
        ),
        (
            TreatmentStep("in", "Put in cold, one by one", "One by one, cold", minutes=10.0),
            TreatmentStep(
                "heat", "Heat slowly", "Watch it: part them", "time", 30.0, "temperature"
            ),
            TreatmentStep(
                "soak", "Soak", "Keep it at heat", "time", "time", "temperature", attended=False
            ),
            TreatmentStep("out", "Take out, dry off, weigh", "Take out, weigh", minutes=15.0),
            TreatmentStep(
                "back", "Dry again", "Leave and weigh", "settled", 3 * 1440.0, attended=False
            ),
        ),
        (HOT_WATER, LOCAL),
        vessel="bath",
        weighed=True,
        told_by=("hot water", "water anneal", "boiled", "bath"),
    ),
    Kind(
        "remelt",
        "Remelt in a pack",
        "Heat",
        (
            _heat("190 °C", "Oven"),
            _quantity("gap", "Core within", "number", "", "10"),
            _time("30 min", "Hold once there"),
            _choice("grain", "Packed in", "fine salt", "plaster", "sand", "talc"),
            _choice("packing", "Compaction", "tamped in layers", "shaken", "loose"),
            _quantity("spacing", "Spacing", "length", "mm", "10 mm"),
            _quantity("lid", "Weight on the lid", "mass", "kg", "0.5 kg"),
        ),
        (
            TreatmentStep("pack", "Pack", "Pack them", minutes=20.0),
            TreatmentStep(
                "heat",
                "Heat until core at temperature",
                "Keep closed",
                "core",
                240.0,
                "temperature",
                attended=False,
            ),
            TreatmentStep(
                "hold", "Hold", "Keep closed", "time", "time", "temperature", attended=False
            ),
            TreatmentStep(
                "cool", "Cool closed", "Oven off, keep closed", "time", 300.0, attended=False
            ),
            TreatmentStep("wash", "Wash, dry, weigh", "Wash", minutes=20.0),
        ),
        (SALT, HOT_OVEN, FUMES, LOCAL),
        packed=True,
        told_by=("remelt", "salt", "plaster"),
    ),
    Kind(
        "vapour",
        "Solvent vapour",
        "Solvent",
        (
            _choice("solvent", "Solvent", "acetone", "isopropanol"),
            _time("15 min", "Time in vapour"),
            _quantity("gassing", "Outgas", "time", "h", "24 h"),
        ),
        (
            TreatmentStep("in", "Hang them in", "Hang, not touching"),
            TreatmentStep("vapour", "In vapour", "Stand by, watch the skin", "time", "time"),
            TreatmentStep(
                "gas", "Outgas", "Leave it in the open", "time", "gassing", attended=False
            ),
            _TAKE_OUT,
        ),
        (SOLVENT, LOCAL),
        vessel="box",
        told_by=("vapour", "vapor", "acetone", "smoothed"),
    ),
    Kind(
        "brushed",
        "Solvent brushed on",
        "Solvent",
        (
            _choice("solvent", "Solvent", "acetone", "isopropanol"),
            _quantity("coats", "Coats", "number", "", "1"),
            _quantity("gassing", "Outgas", "time", "h", "24 h"),
        ),
        (
            TreatmentStep("brush", "Brush all sides", "Brush evenly", minutes=15.0),
            TreatmentStep(
                "gas", "Outgas", "Leave it in the open", "time", "gassing", attended=False
            ),
            _TAKE_OUT,
        ),
        (SOLVENT, LOCAL),
        vessel="box",
        told_by=("brushed",),
    ),
    Kind(
        "wash",
        "Wash resin",
        "Resin",
        (
            _time("6 min", "Time"),
            _words("liquid", "Liquid", "isopropanol"),
            _quantity("baths", "Baths", "number", "", "2"),
        ),
        (
            TreatmentStep("wash", "Wash", "Keep it moving", "time", "time"),
            TreatmentStep("dry", "Blow dry, let stand", "Let dry", "time", 30.0, attended=False),
        ),
        (RESIN, SOLVENT, LOCAL),
        vessel="bath",
        told_by=("washed",),
    ),
    Kind(
        "cure",
        "Cure by UV",
        "Resin",
        (
            _time("10 min", "Each side"),
            _heat("40 °C"),
            _quantity("sides", "Sides", "number", "", "2"),
        ),
        (
            TreatmentStep(
                "side",
                "First side",
                "Lamp on: stay out",
                "time",
                "time",
                "temperature",
                attended=False,
            ),
            TreatmentStep(
                "turn", "Turn, other side", "Turn over, lamp on", "time", "time", "temperature"
            ),
            _TAKE_OUT,
        ),
        (UV, RESIN, LOCAL),
        vessel="lamp",
        told_by=("cure", "uv"),
    ),
    Kind(
        "dry-as-printed",
        "Keep dry as printed",
        "Conditioning",
        (_time("24 h", "At least"), _words("desiccant", "Desiccant", "silica gel")),
        (TreatmentStep("in", "Seal in dry box", "Seal"), _settle("Kept dry")),
        (LOCAL,),
        vessel="box",
        event="conditioned",
        weighed=True,
        told_by=("dry as printed", "kept dry"),
    ),
    Kind(
        "standard-atmosphere",
        "Standard atmosphere",
        "Conditioning",
        (
            _heat("23 °C"),
            _quantity("humidity", "Humidity", "ratio", "%", "50 %"),
            _time("88 h", "At least"),
        ),
        (TreatmentStep("in", "Lay out, weigh one", "Lay out, weigh one"), _settle("Stand")),
        (LOCAL,),
        vessel="room",
        event="conditioned",
        weighed=True,
        told_by=("standard atmosphere", "23/50", "50 %"),
    ),
    Kind(
        "acclimatised",
        "Acclimatise for weeks",
        "Conditioning",
        (_time("90 d", "At least"), _quantity("humidity", "Humidity", "ratio", "%", "50 %")),
        (TreatmentStep("in", "Lay out, weigh one", "Lay out, weigh one"), _settle("Stand")),
        (LOCAL,),
        vessel="room",
        event="conditioned",
        weighed=True,
        told_by=("acclimatised", "acclimatized", "weeks in the room"),
    ),
    Kind(
        "accelerated",
        "Accelerated, for polyamides",
        "Conditioning",
        (
            _heat("70 °C"),
            _quantity("humidity", "Humidity", "ratio", "%", "62 %"),
            _time("7 d", "At least"),
        ),
        (TreatmentStep("in", "Weigh, put in", "Weigh one, put in"), _settle("Stand")),
        (HOT_WATER, LOCAL),
        vessel="chamber",
        event="conditioned",
        weighed=True,
        told_by=("accelerated", "70/62"),
    ),
    Kind(
        "soak",
        "Soak in water",
        "Conditioning",
        (_heat("23 °C", "Water"), _time("24 h", "Time")),
        (
            TreatmentStep("in", "Weigh, put in", "Weigh and put in"),
            TreatmentStep(
                "soak", "Soak", "Leave it", "time", "time", "temperature", attended=False
            ),
            TreatmentStep("out", "Wipe off, weigh", "Wipe and weigh"),
        ),
        (LOCAL,),
        vessel="bath",
        event="conditioned",
        weighed=True,
        told_by=("soaked", "water soak", "wet"),
    ),
    Kind(
        "freeze",
        "Freeze",
        "Conditioning",
        (_heat("-20 °C"), _time("24 h", "At least")),
        (
            TreatmentStep("in", "Put in", "Put in"),
            TreatmentStep(
                "cold",
                "Cold through",
                "Keep closed",
                "time",
                "time",
                "temperature",
                attended=False,
            ),
        ),
        (COLD, LOCAL),
        vessel="freezer",
        event="conditioned",
        told_by=("frozen", "freezer", "cold"),
    ),
    Kind(
        "hot-soak",
        "Hot soak before the test",
        "Conditioning",
        (_heat("60 °C"), _time("1 h", "At least")),
        (
            TreatmentStep("in", "Put in", "Put in"),
            TreatmentStep(
                "hot", "Hot through", "Keep closed", "time", "time", "temperature", attended=False
            ),
        ),
        (HOT_OVEN, LOCAL),
        event="conditioned",
        told_by=("hot soak", "tested hot", "hot"),
    ),
    Kind(
        "exposure",
        "Exposure",
        "Exposure",
        (
            _choice("place", "Where", "indoors in sun", "outdoors", "compost", "soil"),
            _time("28 d", "How long"),
            _quantity("load", "Hung load", "mass", "kg", ""),
            _quantity("inspect", "Inspect every", "time", "d", "7 d"),
        ),
        (
            TreatmentStep("out", "Put out, take a photo", "Put outside"),
            TreatmentStep("stand", "Exposed", "Leave", "time", "time", attended=False),
            TreatmentStep("in", "Bring inside, take a photo, measure", "Bring inside"),
        ),
        (HUNG, LOCAL),
        vessel="place",
        told_by=("outdoors", "exposed", "sun", "compost", "soil", "weeks in"),
    ),
)

KINDS: dict[str, Kind] = {k.key: k for k in _KINDS}


def kind_for(words: str, event: str = "treated") -> Kind | None:
    """The kind that the words of a level speak of, if one does.

    >>> kind_for("annealed 95 °C, 2 h").key, kind_for("−18 °C", "conditioned").key
    ('anneal-oven', 'freeze')
    """
    said = words.lower()
    hits = [(len(w), k) for k in _KINDS for w in k.told_by if w in said and k.of == "specimens"]
    if hits:
        return max(hits, key=lambda h: h[0])[1]
    heat = heat_in(words)
    if event == "conditioned" and heat is not None:
        return KINDS[
            "freeze" if heat < 278.15 else "hot-soak" if heat > 303.15 else "standard-atmosphere"
        ]
    return None
