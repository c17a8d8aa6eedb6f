"""How a picture is dressed: a sentence each for page, lines, scales, time and notes."""
