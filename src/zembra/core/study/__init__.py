"""What is said of a whole study: its summary, all values side by side, the follow-up list, a study on another file."""
