"""`fenmist power`: power in a load from an oscilloscope's volts, without opening a window."""

import argparse
import json
import sys
from collections.abc import Sequence

from fenmist.errors import FenmistError
from fenmist.session.power import PowerAnswer, PowerRequest
from fenmist.units.display import percent, plain, signed, with_uncertainty

_OPTIONS = {
    "volts": ("--volts", "volts at the tee with how they were taken, such as “102 Vpp”, “36.1 Vrms”", True),
    "load": ("--load", "impedance: “57.7”, “45+j12”, “52 @ -8”, “|57.7| swr 1.2”, “|57.7|”", True),
    "frequency": ("--frequency", "of the carrier, such as “7.125 MHz”", True),
    "lead": ("--lead", "length of the cable from tee to oscilloscope, such as “0.3 m”", False),
    "bandwidth": ("--bandwidth", "of the oscilloscope, such as “100 MHz”; left out: no correction", False),
    "bandwidth_model": ("--bandwidth-model", "one-pole (default), gaussian or flat", False),
    "input_capacitance": ("--input-capacitance", "of the oscilloscope, such as “16 pF” (default)", False),
    "velocity_factor": ("--velocity-factor", "of the lead (default 0.66)", False),
    "scope_accuracy": ("--scope-accuracy", "± limit of the vertical gain, such as “3 %%” (default)", False),
    "load_u": ("--load-u", "standard uncertainty of the load's impedance, such as “1 %%” (default)", False),
}
"""Field of the request: flag, help, required."""


class _Parser(argparse.ArgumentParser):
    """Says what is wrong with the arguments in one line."""

    def error(self, message: str) -> None:  # type: ignore[override]
        print(f"fenmist power: {message}. See “fenmist power --help”.", file=sys.stderr)
        raise SystemExit(2)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="fenmist power", description="Power in a load from an oscilloscope's volts.", allow_abbrev=False
    )
    for name, (flag, text, required) in _OPTIONS.items():
        parser.add_argument(flag, dest=name, help=text, required=required, default="", metavar="TEXT")
    parser.set_defaults(bandwidth_model="one-pole")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code, 2 for bad input."""
    options = vars(_parser().parse_args(arguments))
    as_json = options.pop("json")
    names = {name: flag for name, (flag, _, _) in _OPTIONS.items()}
    try:
        answer = PowerRequest(**options, names=names)()
    except FenmistError as error:
        print(f"fenmist power: {error}", file=sys.stderr)
        return 2
    print(_json(answer) if as_json else _text(answer))
    return 0


def _json(answer: PowerAnswer) -> str:
    point = {
        "power_w": float(answer.net.value[0]),
        "expanded_u_w": float(answer.net.expanded_u[0]),
        "interval_w": list(answer.net_interval_w),
        "engine": answer.engine,
        "coverage_factor": float(answer.net.k[0]),
        "vrms_v": answer.vrms_v,
        "incident_power_w": float(answer.incident.value[0]),
        "incident_power_with_lead_w": float(answer.incident_with_lead.value[0]),
        "corrections": [
            {"name": step.name, "factor": step.factor, "db": step.db, "why": step.why} for step in answer.corrections
        ],
        "assumptions": list(answer.assumptions),
        "notes": [
            {
                "code": note.code, "severity": str(note.severity), "what": note.what,
                "why": note.why, "remedy": note.remedy,
            }
            for note in answer.notes
        ],
        "budget": [
            {
                "influence": row.influence.label, "share": row.share, "contribution_w": row.contribution,
                "basis": row.influence.basis,
            }
            for row in answer.budget
            if row.contribution > 0
        ],
    }  # fmt: skip
    return json.dumps(point, ensure_ascii=False, indent=2, allow_nan=False)


def _text(answer: PowerAnswer) -> str:
    net, incident = answer.net, answer.incident
    lines = [
        f"Net power in the load   {with_uncertainty(float(net.value[0]), float(net.expanded_u[0]), 'W')}"
        f"   (U, k = {net.k[0]:.2f}{', ' + answer.interval_text if answer.interval_text else ''})",
        f"Incident at the load    {with_uncertainty(float(incident.value[0]), float(incident.expanded_u[0]), 'W')}",
        f"Volts as read           {plain(answer.vrms_v, 'V')} rms",
        "",
        "From V²/50 Ω to the power:",
    ]
    lines += [f"  × {step.factor:.4f}  ({signed(f'{step.db:+.2f}')} dB)  {step.why}" for step in answer.corrections]
    lines += ["", "What makes it uncertain:"]
    lines += [
        f"  {percent(row.share):>7}  {row.influence.label} ({row.influence.basis})"
        for row in answer.budget
        if row.share >= 0.001
    ]
    lines += ["", "Taken as:", *(f"  {text}" for text in answer.assumptions)]
    for note in answer.notes:
        lines += ["", f"{note.severity}: {note.what}", f"  {note.why}", f"  {note.remedy}"]
    return "\n".join(lines)
