"""What the application does, without HTTP: reading files, opening studies and running them, judging, handing over."""
