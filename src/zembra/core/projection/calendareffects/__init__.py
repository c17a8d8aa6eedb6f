"""Effects of the calendar beside the first season: the week of hours, the year, the turn of the year."""
