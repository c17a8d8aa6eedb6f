"""A ledger on very many series: what can be carried out part by part, and what is told of each series."""
