"""Studies that watch themselves: looking at what they are told to, and telling whom they are told to."""
