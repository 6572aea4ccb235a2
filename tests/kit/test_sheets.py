"""What each form asks for: which fields it needs, and from where to where a value may lie."""

import re
from pathlib import Path

import pytest

import fenmist
from fenmist.kit.draft import blank_part, draft_from_part, fields_for, fields_of_part, part_from_draft
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import Part, PartKind

ASKED = {
    "ADAPTER": (
        "length",
        "length 0 m to 10000 m; line 1 Ω to 1000 Ω; velocity_factor 0.1 to 1",
    ),
    "AMMETER": (
        "heater",
        "heater 0.001 Ω to 1000000000 Ω; heater_measured 0.001 Ω to 1000000000 Ω; "
        "heater_power 1 µW to 1000 kW; wire 0.001 mm to 1 cm; power 1 µW to 1000 kW",
    ),
    "ANALYSER": (
        "power output",
        "power 1 µW to 1000 kW; output 0.000001 nW to 1 W; swr 1 to 1000",
    ),
    "ATTENUATOR": (
        "",
        "loss 0 dB to 200 dB; positions 0 dB to 200 dB; power 1 µW to 1000 kW; far_power 1 µW to 1000 kW; "
        "short_power 1 µW to 100 kW; short_time 0.1 to 100000; swr 1 to 1000; "
        "series 0.001 Ω to 1000000000 Ω; shunt_in 0.001 Ω to 1000000000 Ω; shunt_out 0.001 Ω to 1000000000 Ω",
    ),
    "CABLE": (
        "length",
        "length 0 m to 10000 m; loss_10 0 dB to 500 dB; loss_100 0 dB to 500 dB; velocity_factor 0.1 to 1; "
        "line 1 Ω to 1000 Ω",
    ),
    "COUPLER": (
        "coupling loss",
        "coupling 0 dB to 120 dB; directivity 0 dB to 80 dB; loss 0 dB to 200 dB; power 1 µW to 1000 kW; swr 1 to 1000",
    ),
    "DIVIDER": (
        "r1 r2",
        "r1 0.001 Ω to 1000000000 Ω; r1_measured 0.001 Ω to 1000000000 Ω; r1_power 1 µW to 1000 kW; "
        "r2 0.001 Ω to 1000000000 Ω; r2_measured 0.001 Ω to 1000000000 Ω; r2_power 1 µW to 1000 kW; "
        "stray 0.001 pF to 1000 µF; volts_limit 0.001 V to 1000000 V",
    ),
    "GENERATOR": (
        "power",
        "power 1 µW to 1000 kW; swr 1 to 1000",
    ),
    "INLINE_METER": (
        "ranges divisions law accuracy",
        "loss 0 dB to 10 dB; swr 1 to 1000; directivity 0 dB to 80 dB; floor 0.001 nW to 1 kW",
    ),
    "JUMPER": (
        "loss loss_limit",
        "loss 0 dB to 60 dB; swr 1 to 1000",
    ),
    "LEAD": (
        "length velocity_factor line",
        "length 0 m to 100 m; velocity_factor 0.1 to 1; line 10 Ω to 300 Ω",
    ),
    "LOAD": (
        "power nominal minutes",
        "power 1 µW to 1000 kW; nominal 1 Ω to 10000 Ω; minutes 0.01 to 100000; cooling 0.01 to 100000",
    ),
    "MISMATCH": (
        "power nominal",
        "power 1 µW to 1000 kW; nominal 0.01 Ω to 100000 Ω",
    ),
    "OSCILLOSCOPE": (
        "bandwidth accuracy capacitance",
        "bandwidth 1 kHz to 1000 GHz; capacitance 0 F to 1 µF; noise 0 % to 50 %; volts_limit 0.001 V to 1000000 V",
    ),
    "POWER_METER": (
        "power",
        "power 1 µW to 1000 kW; floor 0.000000001 nW to 1 W; cal_factor 10 % to 120 %; swr 1 to 1000",
    ),
    "PROBE": (
        "ratio setting accuracy capacitance ground bandwidth volts_limit knee",
        "ratio 1 to 100000; setting 1 to 100000; capacitance 0 F to 1 nF; ground 0 m to 1 m; "
        "bandwidth 1 kHz to 1000 GHz; volts_limit 0.001 V to 1000000 V; knee 1 Hz to 1000 GHz",
    ),
    "HOME_BUILT": (
        "loss",
        "step 0 V to 10 V; loss 0 dB to 200 dB; power 1 µW to 1000 kW; swr 1 to 1000; directivity 0 dB to 80 dB",
    ),
    "SWR_METER": (
        "loss",
        "loss 0 dB to 200 dB; power 1 µW to 1000 kW; swr 1 to 1000; directivity 0 dB to 80 dB; "
        "set_power 1 µW to 10 kW; floor 0.001 nW to 1 kW",
    ),
    "TAP": (
        "",
        "r1 0.001 Ω to 1000000000 Ω; r1_measured 0.001 Ω to 1000000000 Ω; r1_power 1 µW to 1000 kW; "
        "r2 0.001 Ω to 1000000000 Ω; r2_measured 0.001 Ω to 1000000000 Ω; r2_power 1 µW to 1000 kW; "
        "turns 1 to 10000; gap 0.001 pF to 1000 µF; stray 0.001 pF to 1000 µF; power 1 µW to 1000 kW",
    ),
    "TEE": (
        "arm body",
        "arm 0 m to 1 m; body 0 F to 1 nF",
    ),
    "TRANSMITTER": (
        "power",
        "power 1 µW to 100 kW; harmonic_2 −120 dB to −3 dB; harmonic_3 −120 dB to −3 dB; swr 1 to 1000; "
        "foldback 0 % to 100 %; droop 0 % to 100 %; step 1 µW to 10 kW; directivity 0 dB to 80 dB; "
        "drive 0 W to 100 kW; dissipation 1 mW to 100 kW",
    ),
    "TUNER": (
        "loss",
        "loss 0 dB to 200 dB; power 1 µW to 1000 kW; "
        "tune_least 1 µW to 100 kW; tune_most 1 µW to 100 kW; swr 1 to 1000",
    ),
    "VOLTMETER": (
        "bandwidth resistance capacitance",
        "bandwidth 1 Hz to 1000 GHz; capacitance 0 F to 1 nF; volts_limit 0.001 V to 1000000 V",
    ),
}
"""By kind: fields that can't be left empty, and limits; those that nothing plausible lies beyond."""


def said_at(part: Part, field: str, text: str) -> str:
    """What is wrong with a text in a field; nothing where it is taken."""
    made = part_from_draft(part, {**draft_from_part(part), field: text})
    return "" if isinstance(made, Part) else next((item.what for item in made if item.field == field), "")


@pytest.mark.parametrize("kind", list(ASKED), ids=str)
def test_what_is_needed_and_what_lies_beyond_belief(kind):
    part = blank_part("x", PartKind[kind])
    needed, limits = ASKED[kind]
    asked = [field for field in fields_for(PartKind[kind]) if not field.choices and field.id != "label"]

    assert [field.id for field in asked if not _stands(part, field.id)] == needed.split()
    found = []
    for field in asked:
        unit = field.example.split()[-1] if " " in field.example else ""
        said = (said_at(part, field.id, f"{number} {unit}".strip()) for number in ("1e7", "1e14", "-1e14"))
        wrong = next((text for text in said if text.startswith("It lies from ")), "")
        if wrong:
            found.append(f"{field.id} {wrong[13:-1]}".replace("\u202f", " "))
    assert "; ".join(found) == limits


def _stands(part: Part, field: str) -> bool:
    """Whether the part stands without it."""
    return isinstance(part_from_draft(part, {**draft_from_part(part), field: ""}), Part)


TEXTS = (
    "0.7", "7", "70", "700", "7 %", "0.7 m", "7 MHz", "7 pF", "7 W", "70 Ω", "7 s", "7 min", "7 dB", "70 V",
)  # fmt: skip
"""Something for every kind of field."""


def test_whatever_is_asked_of_a_part_can_be_typed_in_its_form():
    """A property that the program looks up and no form has could never be known."""
    asked: set[str] = set()
    for path in Path(fenmist.__file__).parent.rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        asked |= set(re.findall(r'(?:properties|known)(?:\.get\(|\[)"([a-z0-9_]+)"', text))
        asked |= set(re.findall(r'"([a-z0-9_]+)" in (?:\w+\.)?(?:known|properties)\b', text))
    typed: set[str] = set()
    for part in starter_shelf():
        draft = draft_from_part(part)
        for field in fields_of_part(part):
            for text in field.choices or (field.example, *TEXTS):
                made = part_from_draft(part, {**draft, field.id: text})
                if isinstance(made, Part):
                    typed |= {name for name, item in made.properties.items() if part.properties.get(name) != item}

    assert len(asked) > 20
    assert asked - typed == {"sallow"}  # a part of the demonstration, by its name
