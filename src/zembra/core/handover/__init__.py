"""Tables, notes and packages that a study is handed over as."""
