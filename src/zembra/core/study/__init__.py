"""Views of a whole study: summary, follow-up list, renamed series."""
