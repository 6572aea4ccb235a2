"""Keys of the readings, typed in an empty field: notes name them, the readings obey them."""

STRIKE, TAKE, SKIP, DOUBT, RANGE, REASON, MOVE = (f"/{number}" for number in range(1, 8))
