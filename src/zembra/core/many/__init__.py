"""Run a ledger on very many series, part by part."""
