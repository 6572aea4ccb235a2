"""`fenmist capture`: what a captured trace of a steady carrier says, without opening a window."""

from collections.abc import Sequence
from pathlib import Path

from fenmist.cli.command import Parser, note_lines, notes_json
from fenmist.cli.terminal import print_json
from fenmist.session.captures import CaptureRequest, CaptureSource
from fenmist.session.present import effect_text
from fenmist.units.display import frequency, percent, plain, signed, with_uncertainty
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.analysis import Trace


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist capture", description="Fit, harmonics, noise, rms and peaks of a captured steady carrier.",
        allow_abbrev=False,
    )  # fmt: skip
    parser.add_argument("file", type=Path, help="CSV, .npy or .npz")
    parser.add_argument("--channel", default="", metavar="NAME", help="the first that holds a carrier unless named")
    parser.add_argument("--frequency", default="", metavar="TEXT", help="of the carrier, to tell an aliased record")
    parser.add_argument("--step", default="", metavar="TEXT", help="time between samples, such as “4 ns”")
    parser.add_argument("--volts-per-count", default="", metavar="TEXT", help="such as “4 mV”, where it holds counts")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code: 1 where no reading may be taken. Raises FenmistError for bad input."""
    asked = _parser().parse_args(arguments)
    expected = value_from_text(asked.frequency, UNITS["MHz"], "--frequency", "14.2 MHz") if asked.frequency else None
    found = CaptureRequest(asked.file, asked.step, asked.volts_per_count, expected, asked.channel)()
    trace = found.source.trace(found.channel, expected)
    if asked.json:
        print_json(_values(found.source, found.channel, trace))
    else:
        print(_text(found.source, found.channel, trace))
    return 0 if trace.usable else 1


def _values(source: CaptureSource, channel: str, trace: Trace) -> dict[str, object]:
    fit = trace.fit
    return {
        "file": source.name, "sha256": source.sha256, "channel": channel,
        "channels": [item.name for item in source.capture.channels],
        "samples": fit.samples, "step_s": fit.step_s, "periods": fit.periods,
        "frequency_hz": fit.frequency_hz, "u_frequency_hz": fit.u_frequency_hz,
        "fitted_vrms": fit.rms_v, "u_fitted_vrms": trace.u_amplitude_v / 2.0**0.5,
        "true_vrms": trace.rms_v, "u_true_vrms": trace.u_rms_v, "offset_v": fit.offset_v,
        "vpp_read": trace.peak_to_peak_v, "vpp_fitted": 2.0 * fit.amplitude_v,
        "noise_ratio": trace.noise_ratio, "u_noise_ratio": trace.u_noise_ratio,
        "harmonics": [
            {"order": item.order, "ratio": item.ratio, "u_ratio": item.u_ratio, "dbc": item.level_dbc}
            for item in trace.harmonics
        ],
        "harmonics_move_power_by": {str(way): list(ends) for way, ends in trace.effects.items()},
        "usable": trace.usable, "assumed": list(source.capture.assumed),
        "notes": notes_json(trace.notes),
    }  # fmt: skip


def _text(source: CaptureSource, channel: str, trace: Trace) -> str:
    fit = trace.fit
    lines = [
        f"{source.name}, {channel}: {fit.samples} samples every {plain(fit.step_s, 's')}, {fit.periods:.1f} periods",
        "",
        f"Fitted sine   {with_uncertainty(fit.rms_v, 2.0 * trace.u_amplitude_v / 2.0**0.5, 'V')} rms   "
        "(2u of the fit; the oscilloscope's own accuracy comes on top)",
        f"Frequency     {frequency(fit.frequency_hz)}",
        f"True rms      {plain(trace.rms_v, 'V')} without DC",
        f"Vpp           {plain(trace.peak_to_peak_v, 'V')} as read, {plain(2.0 * fit.amplitude_v, 'V')} fitted",
        f"Noise         {percent(trace.noise_ratio)} of the amplitude (standard deviation)",
        *(f"Harmonic {item.order}    {signed(f'{item.level_dbc:.1f}')} dBc" for item in trace.harmonics),
    ]
    if trace.harmonics:
        lines += ["", "What these harmonics may do to a power, by what a reading responds to:"]
        lines += [f"  {way}: {effect_text(*ends)}" for way, ends in trace.effects.items()]
    lines += [f"Taken as: {text}" for text in source.capture.assumed]
    if not trace.usable:
        lines += ["", "No reading may be taken from it:"]
    return "\n".join(lines + note_lines(trace.notes))
