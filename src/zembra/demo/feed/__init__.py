"""A simulated feed service. Nothing in it is real."""
