"""A simulated stand-in for the service of a port office, that a study can be connected to. Nothing in it is real."""
