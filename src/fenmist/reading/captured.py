"""From a capture's trace to a reading: the fitted sine, with the same volts taken otherwise beside it."""

from fenmist.reading.event import Reading
from fenmist.reading.interpret import Interpretation
from fenmist.waveform.analysis import Trace
from fenmist.waveform.capture import Channel

FIT = "fit"
"""Form of volts taken by fitting a sine."""


def reading_from_trace(trace: Trace, channel: Channel) -> Interpretation:
    """The reading that a trace gives; open, with the reason, where the trace can't be trusted."""
    if not trace.usable:
        return Interpretation(None, f"{trace.notes[0].what} {trace.notes[0].why}")
    u_rms = trace.u_amplitude_v / 2.0**0.5
    also = (
        Reading(trace.peak_to_peak_v, "Vpp", channel.step_v),
        Reading(trace.rms_v, "Vrms", channel.step_v, u=trace.u_rms_v),
    )
    return Interpretation(Reading(trace.fit.rms_v, "Vrms", channel.step_v, form=FIT, u=u_rms, also=also))


def text_of_trace(trace: Trace) -> str:
    """What stands in the entry's field."""
    return f"{trace.fit.rms_v:.4g} Vrms fit"
