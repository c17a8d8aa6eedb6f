"""The engine: what an entry is, and how a ledger of entries is run."""
