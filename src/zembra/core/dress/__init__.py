"""How a picture is dressed: a sentence each for the page, every line, the scales, time and the notes."""
