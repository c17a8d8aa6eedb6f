"""Speed as ratios against plain scripts, measured in one run: `make bench`."""
