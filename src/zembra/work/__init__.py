"""A queue of work and its executors: in process, in child processes, on a cluster."""
