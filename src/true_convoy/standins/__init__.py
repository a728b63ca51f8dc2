"""A small simulated outside world: a mod host with an invented game, and the demo's people and machines."""
