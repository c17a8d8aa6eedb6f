"""Imported by the child that runs third-party code."""

from zembra.core.ledger.isolation import isolate_with, run_here

isolate_with(run_here)
