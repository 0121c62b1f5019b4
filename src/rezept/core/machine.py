"""The machine and the head it burns with."""

from __future__ import annotations

from dataclasses import dataclass
from dataclasses import fields as dataclass_fields
from typing import Any

from rezept.core.curve import Curve, read_curve
from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.parameters import ALL_SOURCES, PARAMETERS
from rezept.core.path.lettering import must_be_writable
from rezept.core.stand_off import HEIGHT_BY, MOST_DATUM_MM, HeightBy
from rezept.core.units import UNITS

SOURCES: dict[str, tuple[str, float]] = {
    # name for people, usual wavelength in nm
    "co2_glass": ("CO2 glass tube", 10_600.0),
    "co2_rf": ("CO2 RF", 10_600.0),
    "diode": ("diode", 450.0),
    "fibre_q": ("fibre, Q-switched", 1064.0),
    "fibre_mopa": ("fibre MOPA", 1064.0),
    "uv": ("UV", 355.0),
    "ir_diode": ("IR diode", 1064.0),
}
# What a machine may be given; a sheet is typed from.
FILE_KINDS = {"gcode": "G-code", "svg": "SVG", "dxf": "DXF", "sheet": "settings typed from a sheet"}
POWER_MODES = {"constant": "the same all the way", "follows_speed": "falls where the head slows"}


@dataclass(frozen=True)
class Air:
    """How a machine's air is set. `levels`: how many there are, from off on; none where it is set by pressure."""

    key: str
    name: str
    levels: int


AIRS = {
    air.key: air
    for air in (
        Air("none", "no air", 1),
        Air("on_off", "on or off", 2),
        Air("low_high", "low or high", 3),
        Air("pressure", "by pressure", 0),
    )
}
# What a head may have different from its machine.
HEAD_OVERRIDES = (
    "field_width_mm",
    "field_height_mm",
    "max_speed_mm_s",
    "travel_speed_mm_s",
    "acceleration_mm_s2",
)


# As many levels as one tells apart by name.
MOST_AIR_LEVELS = 6


@dataclass(frozen=True)
class AirLevel:
    """A level of a machine's air above off: what people call it, and what a gauge showed there, in kPa."""

    name: str
    kpa: float | None

    @property
    def words(self) -> str:
        """``soft (20 kPa)``."""
        return self.name if self.kpa is None else f"{self.name} ({self.kpa:g} kPa)"

    def document(self) -> dict[str, Any]:
        return {"name": self.name} if self.kpa is None else {"name": self.name, "kpa": self.kpa}


# What a program draws or is paced by, and what only a control that works out the moves has: no hand turns it while a
# plate burns.
NEVER_BY_HAND = frozenset(
    (
        "speed_mm_s",
        "corner_power_pct",
        "passes",
        "line_spacing_mm",
        "hatch_angle_deg",
        "hatch_turn_deg",
        "pierce_dwell_ms",
        "step_down_mm",
    )
)
# Facts a document of a machine is silent about where there is nothing to say.
SILENT = ("by_hand", "curves", "control_order", "stops_in_program", "pilot_pointer", "air_levels")


# Of a head whose spot nobody has said.
USUAL_SPOT_MM = 0.1


@dataclass(frozen=True)
class PulseWidth:
    """A pulse width a MOPA source offers, with the frequencies it allows."""

    ns: float
    low_khz: float
    high_khz: float
    full_power_from_khz: float


@dataclass(frozen=True)
class Head:
    """A head or lens; every recipe is valid for one of them only.

    height_by, datum_mm : how its height is set, and at which figure it is in focus (`core/stand_off.py`)
    """

    name: str
    spot_mm: float | None
    m2: float | None
    focal_mm: float | None
    overrides: tuple[tuple[str, float], ...] = ()
    height_by: HeightBy | None = None
    datum_mm: float | None = None

    @property
    def spot_or_usual_mm(self) -> float:
        """For what needs some spot, such as how far apart the lines of a code lie."""
        return self.spot_mm or USUAL_SPOT_MM

    def document(self) -> dict[str, Any]:
        return {
            "name": self.name,
            "spot_mm": self.spot_mm,
            "m2": self.m2,
            "focal_mm": self.focal_mm,
            **({} if self.height_by is None else {"height_by": self.height_by}),
            **({} if self.datum_mm is None else {"datum_mm": self.datum_mm}),
            **dict(self.overrides),
        }


@dataclass(frozen=True)
class Machine:
    """A laser machine as a trial sees it; the properties already hold what its head changes.

    by_hand : keys of settings that no program tells it, the one that takes longest to turn first
    curves : by the key of a setting, the scale on which its control shows it
    control_order : keys of settings in the order in which its control has them
    stops_in_program : it waits where a program says M0, until somebody lets it go on
    pilot_pointer : a harmless light shows where the beam would go, so that the outline needs no power
    air_levels : what the levels of its air above off are called, and their pressure; none where they are plainly on, or
        on and high
    """

    name: str
    source: str
    motion: str
    rated_power_w: float
    wavelength_nm: float
    field_width_mm: float
    field_height_mm: float
    max_speed_mm_s: float
    travel_speed_mm_s: float
    acceleration_mm_s2: float
    corner_jump_mm_s: float
    jump_delay_us: float
    settle_us: float
    polygon_delay_us: float
    firing_floor_pct: float
    max_power_pct: float
    trace_power_pct: float | None
    frequency_khz: tuple[float, ...] | None
    pulse_widths: tuple[PulseWidth, ...] | None
    air: str
    s_at_full_power: float
    power_mode: str
    focus_by_z: bool
    hears_settings: bool
    beam_drops_at_rest: bool
    dwells_with_beam: bool
    distinct_settings: int | None
    takes: tuple[str, ...] | None
    shows: tuple[tuple[str, float], ...]
    units: tuple[tuple[str, str], ...]
    by_hand: tuple[str, ...]
    curves: tuple[tuple[str, Curve], ...]
    control_order: tuple[str, ...]
    stops_in_program: bool
    pilot_pointer: bool
    air_levels: tuple[AirLevel, ...]
    head: Head

    def document(self) -> dict[str, Any]:
        """As it stands in a trial file, the head's own figures under `head`."""
        document: dict[str, Any] = {
            field.name: getattr(self, field.name)
            for field in dataclass_fields(self)
            if field.name not in ("head", "pulse_widths", "frequency_khz", "shows", "units", "takes", *SILENT)
        }
        document["frequency_khz"] = None if self.frequency_khz is None else list(self.frequency_khz)
        document["pulse_widths"] = (
            None
            if self.pulse_widths is None
            else [
                {
                    "ns": width.ns,
                    "frequency_khz": [width.low_khz, width.high_khz],
                    "full_power_from_khz": width.full_power_from_khz,
                }
                for width in self.pulse_widths
            ]
        )
        document["takes"] = None if self.takes is None else list(self.takes)
        document["shows"] = dict(self.shows)
        document["units"] = dict(self.units)
        said = {
            "by_hand": list(self.by_hand),
            "curves": {key: curve.document() for key, curve in self.curves},
            "control_order": list(self.control_order),
            "stops_in_program": self.stops_in_program,
            "pilot_pointer": self.pilot_pointer,
            "air_levels": [level.document() for level in self.air_levels],
        }
        document |= {key: value for key, value in said.items() if value}
        document["head"] = self.head.document()
        return document

    def of_head(self, key: str) -> float:
        """A figure that the head may change, such as `field_width_mm`."""
        return float(dict(self.head.overrides).get(key, getattr(self, key)))

    def finest(self, key: str) -> float | None:
        """The finest difference of a setting its control can show; None where nothing is known of it, or where it is
        one of a curve."""
        return None if self.curve(key) is not None else dict(self.shows).get(key)

    def curve(self, key: str) -> Curve | None:
        """The scale on which its control shows a setting, where that is none of the usual units."""
        return dict(self.curves).get(key)

    @property
    def air_words(self) -> tuple[str, ...]:
        """What each level of its air is called, from off on; none where it is set by pressure."""
        if self.air_levels:
            return "off", *(level.name for level in self.air_levels)
        return PARAMETERS["air_level"].words[: AIRS[self.air].levels]

    @property
    def outline_power_pct(self) -> float | None:
        """At which power the outline is shown: none at all where a pointer does; None where nobody has said."""
        return 0.0 if self.pilot_pointer else self.trace_power_pct

    def frequency_range(self, pulse_width_ns: float | None) -> tuple[float, float] | None:
        """Lowest and highest frequency in kHz, narrowed by the pulse width where the source has several."""
        if self.pulse_widths is not None and pulse_width_ns is not None:
            for width in self.pulse_widths:
                if abs(width.ns - pulse_width_ns) < 1e-6:
                    return width.low_khz, width.high_khz
        return None if self.frequency_khz is None else (self.frequency_khz[0], self.frequency_khz[1])


def _frequency_range(fields: Fields, key: str, default: Any) -> tuple[float, ...] | None:
    pair = fields.numbers(key, 2, default)
    if pair is not None and not 0 < pair[0] <= pair[1]:
        raise InvalidInput(f"{key} must be [lowest, highest] with 0 < lowest <= highest.", fields.at(key), list(pair))
    return pair


def _pulse_width(fields: Fields) -> PulseWidth:
    low_high = _frequency_range(fields, "frequency_khz", [1.0, 4000.0])
    assert low_high is not None
    width = PulseWidth(
        ns=fields.number("ns", above=0.0),
        low_khz=low_high[0],
        high_khz=low_high[1],
        full_power_from_khz=fields.number("full_power_from_khz", low_high[0], above=0.0),
    )
    fields.finish()
    return width


def _takes(fields: Fields) -> tuple[str, ...] | None:
    """The kinds of files the machine can be given; none named: nobody has said, and all are offered."""
    kinds = fields.take("takes", None)
    if kinds is None:
        return None
    for i, kind in enumerate(fields.items("takes")):
        if kind not in tuple(FILE_KINDS):
            raise InvalidInput(
                f"A machine takes {', '.join(FILE_KINDS)}, but {quoted(kind)} came.", f"{fields.at('takes')}[{i}]", kind
            )
    return tuple(kinds) or None


def _shows(fields: Fields) -> tuple[tuple[str, float], ...]:
    pairs = tuple((key, fields.number(key, above=0.0)) for key in PARAMETERS if key in fields.data)
    fields.finish()
    return pairs


def _units(fields: Fields) -> tuple[tuple[str, str], ...]:
    """What its own control counts in, by quantity: ``{"speed": "mm/min"}``."""
    pairs = tuple(
        (quantity, fields.choice(quantity, [unit.symbol for unit in units]))
        for quantity, units in UNITS.items()
        if quantity in fields.data
    )
    fields.finish()
    return pairs


def _by_hand(fields: Fields) -> tuple[str, ...]:
    """Settings turned by hand, each once."""
    keys = fields.keys("by_hand", PARAMETERS, "a setting", [])
    for i, key in enumerate(keys):
        if key in NEVER_BY_HAND:
            raise InvalidInput(
                f"{PARAMETERS[key].name.capitalize()} is not set by hand: whatever moves the head has to know it.",
                f"{fields.at('by_hand')}[{i}]",
                key,
            )
    return tuple(dict.fromkeys(keys))


def _curves(fields: Fields) -> tuple[tuple[str, Curve], ...]:
    pairs = tuple((key, read_curve(fields.inner(key))) for key in PARAMETERS if key in fields.data)
    fields.finish()
    for key, curve in pairs:
        for inside in curve.inside_range:
            PARAMETERS[key].checked(inside, fields.at(f"{key}.pairs"))
    return pairs


def _head(fields: Fields) -> Head:
    head = Head(
        name=fields.text("name", ""),
        spot_mm=fields.number("spot_mm", None, above=0.0, at_most=50.0),
        m2=fields.number("m2", None, at_least=1.0),
        focal_mm=fields.number("focal_mm", None, above=0.0),
        overrides=tuple(
            (key, fields.number(key, above=0.0)) for key in HEAD_OVERRIDES if fields.data.get(key) is not None
        ),
        height_by=fields.choice("height_by", tuple(HEIGHT_BY)) if fields.data.get("height_by") else None,
        datum_mm=fields.number("datum_mm", at_least=-MOST_DATUM_MM, at_most=MOST_DATUM_MM)
        if fields.data.get("datum_mm") is not None
        else None,
    )
    fields.known.update(("height_by", "datum_mm"))
    fields.known.update(HEAD_OVERRIDES)
    fields.finish()
    return head


def _air_levels(fields: Fields, air: object, by_hand: bool) -> tuple[AirLevel, ...]:
    """
    Raises
    ------
    InvalidInput : two levels have one name, or there are more of them than a program can switch and no hand turns it
    """
    items = fields.items("air_levels", [])
    kind = AIRS.get(air) if isinstance(air, str) else None
    most = MOST_AIR_LEVELS if by_hand and kind is not None and kind.levels > 1 else (kind.levels if kind else 1) - 1
    if len(items) > max(most, 0):
        raise InvalidInput(
            f"This machine has {max(most, 0)} levels of air above off, and {len(items)} are named. There are more only"
            " where its air is set by hand.",
            fields.at("air_levels"),
            len(items),
            max(most, 0),
        )
    levels: list[AirLevel] = []
    for i, item in enumerate(items):
        one = Fields(item, f"{fields.at('air_levels')}[{i}]")
        name = one.text("name", longest=20, empty=False).strip()
        if name.lower() in ("off", *(level.name.lower() for level in levels)):
            raise InvalidInput("Two levels of air have one name.", one.at("name"), name)
        must_be_writable(name, one.at("name"))
        levels.append(AirLevel(name, one.number("kpa", None, above=0.0, at_most=2000.0)))
        one.finish()
    return tuple(levels)


def read_machine(fields: Fields) -> Machine:
    """A machine from its object in a document.

    Name, source, motion, rated power, field and top speed have no default: a wrong guess would burn.
    """
    source = fields.choice("source", ALL_SOURCES)
    max_speed = fields.number("max_speed_mm_s", above=0.0)
    floor = fields.number("firing_floor_pct", 0.0, at_least=0.0, at_most=100.0)
    widths = fields.take("pulse_widths", None)
    if widths is not None:
        widths = tuple(
            _pulse_width(Fields(item, f"{fields.at('pulse_widths')}[{i}]", fields.defaulted))
            for i, item in enumerate(fields.items("pulse_widths"))
        )
    # Not among the defaults that were used: who says nothing of them has none.
    fields.known.update(SILENT)
    silent = Fields({key: fields.data[key] for key in SILENT if key in fields.data}, fields.path)
    machine = Machine(
        name=fields.text("name", empty=False),
        source=source,
        motion=fields.choice("motion", ("gantry", "galvo")),
        rated_power_w=fields.number("rated_power_w", above=0.0, at_most=100_000.0),
        wavelength_nm=fields.number("wavelength_nm", SOURCES[source][1], above=0.0),
        field_width_mm=fields.number("field_width_mm", above=0.0, at_most=100_000.0),
        field_height_mm=fields.number("field_height_mm", above=0.0, at_most=100_000.0),
        max_speed_mm_s=max_speed,
        travel_speed_mm_s=fields.number("travel_speed_mm_s", max_speed, above=0.0),
        acceleration_mm_s2=fields.number("acceleration_mm_s2", 3000.0, above=0.0),
        corner_jump_mm_s=fields.number("corner_jump_mm_s", 10.0, above=0.0),
        jump_delay_us=fields.number("jump_delay_us", 0.0, at_least=0.0),
        settle_us=fields.number("settle_us", 0.0, at_least=0.0),
        polygon_delay_us=fields.number("polygon_delay_us", 0.0, at_least=0.0),
        firing_floor_pct=floor,
        max_power_pct=fields.number("max_power_pct", 100.0, above=floor, at_most=100.0),
        trace_power_pct=fields.number("trace_power_pct", None, at_least=0.0, at_most=100.0),
        frequency_khz=_frequency_range(fields, "frequency_khz", None),
        pulse_widths=widths or None,
        air=fields.choice("air", tuple(AIRS), "none"),
        s_at_full_power=fields.number("s_at_full_power", 1000.0, above=0.0),
        power_mode=fields.choice("power_mode", tuple(POWER_MODES), "constant"),
        focus_by_z=fields.flag("focus_by_z", False),
        hears_settings=fields.flag("hears_settings", False),
        beam_drops_at_rest=fields.flag("beam_drops_at_rest", False),
        dwells_with_beam=fields.flag("dwells_with_beam", False),
        distinct_settings=fields.whole("distinct_settings", None, at_least=1),
        takes=_takes(fields),
        shows=_shows(fields.inner("shows", {})),
        units=_units(fields.inner("units", {})),
        by_hand=_by_hand(silent),
        curves=_curves(silent.inner("curves", {})),
        control_order=tuple(dict.fromkeys(silent.keys("control_order", PARAMETERS, "a setting", []))),
        stops_in_program=silent.flag("stops_in_program", False),
        pilot_pointer=silent.flag("pilot_pointer", False),
        air_levels=_air_levels(silent, fields.data.get("air"), "air_level" in fields.data.get("by_hand", ())),
        head=_head(fields.inner("head", {})),
    )
    fields.finish()
    return machine
