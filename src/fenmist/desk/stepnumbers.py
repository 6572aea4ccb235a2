"""The steps of a job in working order, by number."""

STEPS = (
    ("receive", "ReceiveStep"),
    ("hookup", "HookUpStep"),
    ("parts", "PartsStep"),
    ("plan", "PlanStep"),
    ("readings", "ReadingsStep"),
    ("results", "ResultsStep"),
    ("adjust", "AdjustStep"),
    ("certificate", "CertificateStep"),
)
"""Module and class of each step in working order; imported and made when first shown, for a quick start."""

HOOKUP = [name for name, _ in STEPS].index("hookup")
"""Number of the step that shows what is plugged together."""

READINGS = [name for name, _ in STEPS].index("readings")
"""Number of the step in which is read."""

RESULTS = READINGS + 1
"""Number of the step that shows what came of it."""

ADJUST = RESULTS + 1
"""Number of the step that says what to turn, why it errs, what to multiply by."""
