"""Tables, notes and packages that leave the study."""
