"""`fenmist power`: power in a load from an oscilloscope's volts, without opening a window."""

from collections.abc import Sequence

from fenmist.cli.command import Parser, note_lines, notes_json
from fenmist.cli.terminal import print_json
from fenmist.methods.match import Match
from fenmist.methods.power_from_volts import CORRECTIONS, PowerAnswer, PowerRequest
from fenmist.units.display import percent, plain, signed, with_uncertainty

_OPTIONS = {
    "volts": ("--volts", "volts at the tee with how they were taken, such as “102 Vpp”, “36.1 Vrms”", True),
    "also": ("--also", "the same volts read otherwise, such as “35.6 Vrms”: a difference tells of noise", False),
    "load": ("--load", "impedance: “57.7”, “45+j12”, “52 @ -8”, “|57.7| swr 1.2”, “|57.7|”", True),
    "frequency": ("--frequency", "of the carrier, such as “7.125 MHz”", True),
    "lead": ("--lead", "length of the cable from tee to oscilloscope, such as “0.3 m”", False),
    "cable": ("--cable", "kind of that cable, for its loss, such as “50 Ω, 5 mm, solid polyethylene”", False),
    "probe": ("--probe", "a divider probe at the tee instead of a lead, such as “10:1”", False),
    "ground_lead": ("--ground-lead", "length of the probe's ground lead (default 100 mm)", False),
    "probe_bandwidth": ("--probe-bandwidth", "of the probe alone, such as “200 MHz”", False),
    "bandwidth": ("--bandwidth", "of the oscilloscope, such as “100 MHz”; left out: no correction", False),
    "bandwidth_model": ("--bandwidth-model", "one-pole (default), gaussian, flat or unknown", False),
    "input_capacitance": ("--input-capacitance", "of the oscilloscope, such as “16 pF” (default)", False),
    "velocity_factor": ("--velocity-factor", "of the lead (default 0.66)", False),
    "scope_accuracy": ("--scope-accuracy", "± limit of the vertical gain, such as “3 %%” (default)", False),
    "noise": ("--noise", "on the trace, standard deviation over the amplitude, such as “0.5 %%”", False),
    "harmonics": ("--harmonics", "of the source, at most, such as “-45 dBc” (default -40 dBc)", False),
    "load_u": ("--load-u", "standard uncertainty of the load's impedance, such as “1 %%” (default)", False),
}
"""Field of the request: flag, help, required."""


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist power", description="Power in a load from an oscilloscope's volts.", allow_abbrev=False
    )
    for name, (flag, text, required) in _OPTIONS.items():
        parser.add_argument(flag, dest=name, help=text, required=required, default="", metavar="TEXT")
    parser.set_defaults(bandwidth_model="one-pole")
    parser.add_argument(
        "--without",
        action="append",
        default=[],
        choices=list(CORRECTIONS),
        help="leave a correction out",
        metavar="NAME",
    )
    parser.add_argument("--shortest", action="store_true", help="the shortest interval, where it was drawn")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = vars(_parser().parse_args(arguments))
    as_json, left_out = options.pop("json"), frozenset(options.pop("without"))
    names = {name: flag for name, (flag, _, _) in _OPTIONS.items()}
    answer = PowerRequest(**options, left_out=left_out, names=names)()
    if as_json:
        print_json(_values(answer))
    else:
        print(_text(answer))
    return 0


def _values(answer: PowerAnswer) -> dict[str, object]:
    return {
        "power_w": float(answer.net.value[0]),
        "expanded_u_w": float(answer.net.expanded_u[0]),
        "interval_w": list(answer.net_interval_w),
        "engine": answer.engine,
        "coverage_factor": float(answer.net.k[0]),
        "vrms_v": answer.vrms_v,
        "incident_power_w": float(answer.incident.value[0]),
        "incident_power_with_lead_w": float(answer.incident_with_lead.value[0]),
        "corrections": [
            {"name": step.name, "factor": step.factor, "db": step.db, "why": step.why, "applied": step.applied}
            for step in answer.corrections
        ],
        "match_at_tee": _match(answer.match),
        "assumptions": list(answer.assumptions),
        "notes": notes_json(answer.notes),
        "budget": [
            {
                "influence": row.influence.label, "share": row.share, "contribution_w": row.contribution,
                "basis": row.influence.basis,
            }
            for row in answer.budget
            if row.contribution > 0
        ],
    }  # fmt: skip


def _match(match: Match) -> dict[str, object]:
    value = match.reflection.value[0]
    parts = {"real": match.reflection.real, "imaginary": match.reflection.imag}
    return {
        "reflection": [float(value.real), float(value.imag)],
        "covariance": match.reflection.covariance()[0].tolist(),
        "swr": match.swr,
        "swr_interval": list(match.swr_interval),
        "engine": match.engine,
        "budget": {
            name: [
                {"influence": row.influence.label, "share": row.share, "contribution": row.contribution}
                for row in part.budget()
                if row.contribution > 0
            ]
            for name, part in parts.items()
        },
    }


def _text(answer: PowerAnswer) -> str:
    net, incident, match = answer.net, answer.incident, answer.match
    low, high = match.swr_interval
    lines = [
        f"Net power in the load   {with_uncertainty(float(net.value[0]), float(net.expanded_u[0]), 'W')}"
        f"   (U, k = {net.k[0]:.2f}{', ' + answer.interval_text if answer.interval_text else ''})",
        f"Incident at the load    {with_uncertainty(float(incident.value[0]), float(incident.expanded_u[0]), 'W')}",
        f"Volts as read           {plain(answer.vrms_v, 'V')} rms",
        f"SWR at the tee          {match.swr:.2f}   ({low:.2f} to {high:.2f}, {match.engine})",
        "",
        "From V²/50 Ω to the power:",
    ]
    lines += [
        f"  × {step.factor:.4f}  ({signed(f'{step.db:+.2f}')} dB)  {step.name}: {step.why}"
        + ("" if step.applied else " (LEFT OUT)")
        for step in answer.corrections
    ]
    lines += ["", "What makes it uncertain:"]
    lines += [
        f"  {percent(row.share):>7}  {row.influence.label} ({row.influence.basis})"
        for row in answer.budget
        if row.share >= 0.001
    ]
    lines += ["", "Taken as:", *(f"  {text}" for text in answer.assumptions)]
    return "\n".join(lines + note_lines(answer.notes))
