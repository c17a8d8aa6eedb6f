"""Watch studies, and notify people."""
