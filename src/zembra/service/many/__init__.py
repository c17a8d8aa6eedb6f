"""Run a ledger on very many series: partition rows, run the parts elsewhere, keep results in files."""
