"""Where lines come from, and onto which periods."""
