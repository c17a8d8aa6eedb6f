"""Where a study's new rows come from by themselves: an address, a folder, a database."""
