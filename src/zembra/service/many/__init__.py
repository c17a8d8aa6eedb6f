"""A ledger carried out on very many series: their rows put into parts, the parts worked on elsewhere, results kept in files."""
