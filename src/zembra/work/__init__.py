"""A queue of work and its executors: in this process, in child processes, on a cluster."""
