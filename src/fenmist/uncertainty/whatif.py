"""What if an input were known better: another uncertainty in the same model, asked for and not recorded."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from fenmist.errors import OutOfRangeError
from fenmist.uncertainty.influence import Inputs


def with_known(inputs: Inputs, known: Mapping[str, float]) -> Inputs:
    """The inputs with another uncertainty for some of them.

    Parameters
    ----------
    known : mapping
        Factor on the standard uncertainty by influence id, 0 or more: 0.5 is "known twice as well".

    Raises
    ------
    OutOfRangeError
        For a factor below 0 or that is no number. Ids that don't occur are left alone.
    """
    for name, factor in known.items():
        if not (np.isfinite(factor) and factor >= 0.0):
            raise OutOfRangeError(
                f"“{name}” can't be known to {factor:g} times its uncertainty.", "Type a number from 0 up."
            )
    if not known:
        return inputs
    changed = (replace(item, standard_u=item.standard_u * known.get(item.id, 1.0)) for item in inputs.influences)
    return Inputs(tuple(changed), inputs.correlations)
