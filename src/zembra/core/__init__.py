"""The rules of the job and the arithmetic: no web, no database, no clock, no file paths."""
