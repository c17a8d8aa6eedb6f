"""Work that is done elsewhere: a queue of it, and what carries it out, here or in child processes."""
